// Where the files of a drop will lie until their plan is applied: each under a name that every system allows, no two under the same one.
//
// Names come from anywhere. Three that become one legal name (`a?.png`, `a*.png`, `a_.png`) stay three files, two folders that differ in
// letter case stay two folders: the same name given again leads to the same place, another name to another.

import type { Note } from '../changes/plan';
import { AppError } from '../errors';
import { isLitter, litterSaid } from '../names/litter';
import { foldName, freeName, legalName } from '../names/portable';

export interface LaidDrop {
  /** For each file, in the order given, where it will lie, '/'-separated below the drop's folder; null: it is left out. */
  files: readonly (string | null)[];
  /** Folders without a file, where they will lie. */
  folders: readonly string[];
  notes: readonly Note[];
}

/** A folder of the drop: what it is called, and what was given the names in it. */
interface Folder {
  at: string;
  byName: Map<string, string>;
  taken: Set<string>;
  folders: Map<string, Folder>;
}

const emptyFolder = (at: string): Folder => ({
  at,
  byName: new Map(),
  taken: new Set(),
  folders: new Map(),
});

/** Lays a drop. Paths are '/'-separated as the browser gives them. Throws AppError('bad-name') for one that would leave the drop. */
export function layDrop(files: readonly string[], folders: readonly string[]): LaidDrop {
  const root = emptyFolder('');
  const notes: Note[] = [];
  let litter = 0;
  /** The name that `given` has in a folder; a file's is its own even where the same one was given before. */
  const nameIn = (folder: Folder, given: string, isFile: boolean): string => {
    const held = isFile ? undefined : folder.byName.get(given);
    if (held !== undefined) return held;
    const legal = legalName(given);
    const name = freeName(legal, (n) => folder.taken.has(foldName(n)));
    folder.taken.add(foldName(name));
    if (!isFile) folder.byName.set(given, name);
    if (name !== given)
      notes.push({
        level: 'info',
        code: 'renamed',
        message: `${given} comes in as ${name}: ${legal === given ? 'another of that name was dropped with it' : 'its name is not legal on every system'}.`,
        path: folder.at === '' ? name : `${folder.at}/${name}`,
      });
    return name;
  };
  const folderOf = (parts: readonly string[]): Folder => {
    let at = root;
    for (const part of parts) {
      const name = nameIn(at, part, false);
      let next = at.folders.get(name);
      if (!next) at.folders.set(name, (next = emptyFolder(at.at === '' ? name : `${at.at}/${name}`)));
      at = next;
    }
    return at;
  };
  const partsOf = (given: string): string[] | null => {
    const parts = given.split('/');
    // Only what would leave the drop is refused; every other name can be made legal.
    if (given.includes('\0') || parts.some((p) => p === '' || p === '.' || p === '..'))
      throw new AppError('bad-name', `“${given}” is no plain path.`);
    return parts.some(isLitter) ? null : parts;
  };
  const laid = files.map((given) => {
    const parts = partsOf(given);
    if (!parts) {
      litter++;
      return null;
    }
    const folder = folderOf(parts.slice(0, -1));
    const name = nameIn(folder, parts.at(-1)!, true);
    return folder.at === '' ? name : `${folder.at}/${name}`;
  });
  const empty: string[] = [];
  for (const given of folders) {
    const parts = partsOf(given);
    if (!parts) {
      litter++;
      continue;
    }
    empty.push(folderOf(parts).at);
  }
  const said = litterSaid(litter);
  if (said) notes.push({ level: 'info', code: 'litter', message: said });
  return { files: laid, folders: empty, notes };
}
