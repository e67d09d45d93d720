// Presets for collecting that the user kept: each a file in the application's data folder, as a team shares them.

import fs from 'node:fs';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { collectPreset, type CollectPreset } from '@/wire/collect';
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
      try {
        const preset = collectPreset.parse(JSON.parse(fs.readFileSync(path.join(folder, file), 'utf8')));
        return [{ id: file.slice(0, -'.json'.length), preset }];
      } catch {
        // Somebody's unfinished text; it stays in its file.
        return [];
      }
    })
    .sort((a, b) => (a.preset.name ?? a.id).localeCompare(b.preset.name ?? b.id));
}

/** Keeps one under its name; its id. */
export function keepPreset(dataFolder: string, preset: CollectPreset & { name: string }): string {
  const id = idOfName(preset.name);
  const folder = folderOf(dataFolder);
  fs.mkdirSync(folder, { recursive: true });
  const file = path.join(folder, `${id}.json`);
  const temporary = `${file}.${process.pid}.part`;
  fs.writeFileSync(temporary, `${JSON.stringify(preset, null, 2)}\n`);
  fs.renameSync(temporary, file);
  return id;
}

/** Takes one out; its file stays beside the others under another ending. */
export function dropPreset(dataFolder: string, id: string): void {
  if (!/^own-[^/\\]+$/.test(id)) throw new AppError('bad-request', 'There is no such preset.');
  const file = path.join(folderOf(dataFolder), `${id}.json`);
  if (fs.existsSync(file)) fs.renameSync(file, `${file}.removed`);
}
