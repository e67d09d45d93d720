// Layouts to choose from: those that ship, and the user's own, each a text file in the application's data folder. Deleting the database
// costs none of them.

import fs from 'node:fs';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { readLayout, readLayoutText, shippedLayouts, type Layout } from '@/core/layouts/layout';
import { makeLegal } from '@/core/names/portable';
import { keepFile, setAside } from '../keptFile';

const folderOf = (dataFolder: string) => path.join(dataFolder, 'layouts');

/** Id of an own layout by its name: 'own-props-and-tiles'. */
export function idOfName(name: string): string {
  const slug = makeLegal(
    name
      .toLowerCase()
      .normalize('NFKD')
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, ''),
  );
  return `own-${slug === '_' ? 'layout' : slug.slice(0, 80)}`;
}

/** The user's own layouts, by name; a file that cannot be read is left out. */
export function ownLayouts(dataFolder: string): Layout[] {
  const folder = folderOf(dataFolder);
  if (!fs.existsSync(folder)) return [];
  const found: Layout[] = [];
  for (const file of fs
    .readdirSync(folder)
    .filter((f) => f.endsWith('.txt'))
    .sort()) {
    try {
      found.push(
        readLayout(fs.readFileSync(path.join(folder, file), 'utf8'), file.slice(0, -4), file.slice(0, -4)),
      );
    } catch {
      // Somebody's unfinished text; it stays in its file.
    }
  }
  return found.sort((a, b) => a.name.localeCompare(b.name));
}

/** A layout by id; null where there is none. */
export function findLayout(dataFolder: string, id: string): Layout | null {
  return shippedLayouts.find((l) => l.id === id) ?? ownLayouts(dataFolder).find((l) => l.id === id) ?? null;
}

/** Keeps a layout under its name. `replaces`: the id it had, which is given up. Throws AppError where another has that name, or the text is wrong. */
export function saveLayout(dataFolder: string, text: string, replaces: string | null): Layout {
  const { name } = readLayoutText(text);
  if (name.trim() === '') throw new AppError('bad-layout', 'Give the layout a name first.');
  const layout = readLayout(text, idOfName(name), name);
  const file = path.join(folderOf(dataFolder), `${layout.id}.txt`);
  if (layout.id !== replaces && fs.existsSync(file))
    throw new AppError('exists', `There is a layout “${name}” already.`);
  keepFile(file, text);
  if (replaces !== null && replaces !== layout.id) removeLayout(dataFolder, replaces);
  return layout;
}

/** Takes an own layout out of the library; its file stays beside the others under another ending. */
export function removeLayout(dataFolder: string, id: string): void {
  if (!/^own-[^/\\]+$/.test(id)) throw new AppError('bad-request', 'Only your own layouts can be taken out.');
  setAside(path.join(folderOf(dataFolder), `${id}.txt`));
}
