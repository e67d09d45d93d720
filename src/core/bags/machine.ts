// Other machines, in simulation: what a place's system allows, and where the workspace would lie there.

import { AppError } from '../errors';
import { checkName, longestWindowsPath } from '../names/portable';

/** Rules of a place. `root` is where the workspace would lie, '/'-separated. */
export interface Machine {
  id: string;
  name: string;
  system: 'windows' | 'posix';
  root: string;
  ignoresCase: boolean;
  /** Longest path with its root, in UTF-16 units, the terminator included; null: no limit of note. */
  longestPath: number | null;
  /** Largest file in bytes; null: no limit of note. */
  largestFile: number | null;
}

/** Places that can be rehearsed without being defined first. The workspace's own folder name replaces <name>. */
export const knownMachines: readonly Machine[] = [
  {
    id: 'windows',
    name: 'Windows',
    system: 'windows',
    root: 'D:/work/<name>',
    ignoresCase: true,
    longestPath: longestWindowsPath,
    largestFile: null,
  },
  {
    id: 'windows-long-paths',
    name: 'Windows with long paths on',
    system: 'windows',
    root: 'D:/work/<name>',
    ignoresCase: true,
    longestPath: 32767,
    largestFile: null,
  },
  {
    id: 'macos',
    name: 'macOS',
    system: 'posix',
    root: '/Users/artist/work/<name>',
    ignoresCase: true,
    longestPath: 1024,
    largestFile: null,
  },
  {
    id: 'linux',
    name: 'Linux',
    system: 'posix',
    root: '/home/artist/work/<name>',
    ignoresCase: false,
    longestPath: 4096,
    largestFile: null,
  },
  {
    id: 'fat32-stick',
    name: 'a FAT32 stick on Windows',
    system: 'windows',
    root: 'E:/<name>',
    ignoresCase: true,
    longestPath: longestWindowsPath,
    largestFile: 2 ** 32 - 1,
  },
];

/** Why a file could not lie on a place; null when it could. `path` is a tree path, `size` in bytes. */
export function checkFile(
  place: Machine,
  path: string,
  size: number,
): { code: string; message: string } | null {
  if (place.system === 'windows') {
    for (const part of path.split('/')) {
      const wrong = checkName(part)[0];
      if (wrong)
        return { code: wrong.code, message: `${place.name} refuses the name “${part}”. ${wrong.message}` };
    }
  }
  const length = place.root.length + 1 + path.length + 1;
  if (place.longestPath !== null && length > place.longestPath)
    return {
      code: 'path-too-long',
      message: `The path would be ${length} characters long at ${shown(place)}; ${place.longestPath} are allowed.`,
    };
  if (place.largestFile !== null && size > place.largestFile)
    return {
      code: 'file-too-large',
      message: `The file is larger than ${place.name} can hold (4 GiB less one byte).`,
    };
  return null;
}

/** The root as that system writes it. */
export function shown(place: Pick<Machine, 'system' | 'root'>): string {
  return place.system === 'windows' ? place.root.replaceAll('/', '\\') : place.root;
}

/**
 * A known place by its id, Windows where none is given; with another root ('/'-separated or not), or another drive letter where the
 * place has any. Throws AppError('bad-request') for an id that is not known.
 */
export function machineOf(id: string | undefined, root?: string, drive?: string): Machine {
  const place = knownMachines.find((p) => p.id === (id ?? 'windows'));
  if (!place)
    throw new AppError(
      'bad-request',
      `There is no place “${id}”. Known are ${knownMachines.map((p) => p.id).join(', ')}.`,
    );
  if (root) return { ...place, root: root.replaceAll('\\', '/').replace(/(?<=.)\/+$/, '') };
  if (drive && place.system === 'windows')
    return { ...place, root: `${drive.replace(/[:\\/]*$/, '').toUpperCase()}:${place.root.slice(2)}` };
  return place;
}
