// What takes how much room in a workspace: by the home it lies in, or by the use that is made of it; below that by folder, below that its largest
// files. Sums are exact; small files of a folder stand together.

import { isOwn } from '../files/records';
import { folderOf, nameOf } from '../files/treePath';
import { kindAtHome, type Homes } from './homes';

export interface RoomFile {
  path: string;
  kind: string;
  /** Bytes. */
  size: number;
  uses: number;
  unused: boolean;
}

export interface Room {
  name: string;
  /** Folder or file it stands for; null where it is several. */
  path: string | null;
  bytes: number;
  files: number;
  children: Room[];
}

const mostFiles = 24;
const mostFolders = 60;
const results: ReadonlySet<string> = new Set(['render', 'export', 'backup']);
export const uses = [
  'used by a scene',
  'used by nothing',
  'scenes',
  'results',
  'bin and records',
  'everything else',
] as const;

/** The use that is made of a file. */
function purposeOf(f: RoomFile, homes: Homes): (typeof uses)[number] {
  if (isOwn(f.path)) return 'bin and records';
  if (f.unused) return 'used by nothing';
  if (f.uses > 0) return 'used by a scene';
  const home = kindAtHome(f.path, homes);
  if (home !== null && results.has(home)) return 'results';
  return f.kind === 'scene' ? 'scenes' : 'everything else';
}

function homeName(f: RoomFile, homes: Homes): string {
  if (isOwn(f.path)) return 'bin and records';
  const kind = kindAtHome(f.path, homes);
  return kind === null ? 'outside the homes' : `${homes[kind]}`;
}

/** The rooms of all files, the largest first at each level. */
export function roomOf(files: readonly RoomFile[], homes: Homes, by: 'home' | 'use'): Room[] {
  const groups = new Map<string, Map<string, RoomFile[]>>();
  for (const f of files) {
    const name = by === 'home' ? homeName(f, homes) : purposeOf(f, homes);
    const folders = groups.get(name) ?? new Map<string, RoomFile[]>();
    groups.set(name, folders);
    const folder = folderOf(f.path);
    const held = folders.get(folder);
    if (held) held.push(f);
    else folders.set(folder, [f]);
  }
  const largest = (list: Room[]) => list.sort((a, b) => b.bytes - a.bytes || (a.name < b.name ? -1 : 1));
  const sum = (name: string, path: string | null, children: Room[]): Room => ({
    name,
    path,
    bytes: children.reduce((s, c) => s + c.bytes, 0),
    files: children.reduce((s, c) => s + c.files, 0),
    children,
  });
  const rest = (list: Room[], most: number, what: string): Room[] =>
    list.length <= most
      ? list
      : [
          ...list.slice(0, most),
          { ...sum(`${list.length - most} ${what}`, null, list.slice(most)), children: [] },
        ];
  return largest(
    [...groups].map(([name, folders]) => {
      const inner = largest(
        [...folders].map(([folder, own]) =>
          sum(
            folder === '' ? 'the root itself' : folder,
            folder,
            rest(
              largest(
                own.map((f) => ({
                  name: nameOf(f.path),
                  path: f.path,
                  bytes: f.size,
                  files: 1,
                  children: [],
                })),
              ),
              mostFiles,
              'smaller files',
            ),
          ),
        ),
      );
      return sum(name, null, rest(inner, mostFolders, 'smaller folders'));
    }),
  );
}
