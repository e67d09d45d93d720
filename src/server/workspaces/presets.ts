// Presets for collecting that the user kept: each a file in the application's data folder, as a team shares them.

import fs from 'node:fs';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { collectPreset, type CollectPreset } from '@/wire/collect';
import { keepFile, setAside } from '../keptFile';
import { idOfName } from './layoutLibrary';

const folderOf = (dataFolder: string) => path.join(dataFolder, 'presets');

/** All of them, by name; a file that cannot be read is left out. */
export function presets(dataFolder: string): { id: string; preset: CollectPreset }[] {
  const folder = folderOf(dataFolder);
  if (!fs.existsSync(folder)) return [];
  return fs
    .readdirSync(folder)
    .filter((f) => f.endsWith('.json'))
    .flatMap((file) => {
      const preset = readPreset(path.join(folder, file));
      return preset ? [{ id: file.slice(0, -'.json'.length), preset }] : [];
    })
    .sort((a, b) => (a.preset.name ?? a.id).localeCompare(b.preset.name ?? b.id));
}

/** Null for a file that is not a valid preset. */
function readPreset(file: string): CollectPreset | null {
  try {
    return collectPreset.parse(JSON.parse(fs.readFileSync(file, 'utf8')));
  } catch {
    return null;
  }
}

/** Saves a preset under its name and returns its id. Sets aside an unreadable file, or a preset of another name, with the same id. */
export function keepPreset(dataFolder: string, preset: CollectPreset & { name: string }): string {
  const id = idOfName(preset.name);
  const file = path.join(folderOf(dataFolder), `${id}.json`);
  if (readPreset(file)?.name !== preset.name) setAside(file);
  keepFile(file, `${JSON.stringify(preset, null, 2)}\n`);
  return id;
}

/** Takes one out; its file stays beside the others under another ending. */
export function dropPreset(dataFolder: string, id: string): void {
  if (!/^own-[^/\\]+$/.test(id)) throw new AppError('bad-request', 'There is no such preset.');
  setAside(path.join(folderOf(dataFolder), `${id}.json`));
}
