// What a machine refuses: names, lengths of paths, sizes of files, two names that are one, too many in one folder.

import { folderOf, nameOf } from '../files/treePath';
import { fileSystems } from '../names/fileSystems';
import { checkName, foldName } from '../names/portable';
import { utf8 } from '../text/bytes';
import { bytes } from '../text/figures';
import { shown, systemNames, type Machine } from './machine';

/** Why something cannot lie on a machine. */
export interface Misfit {
  code: 'name' | 'path-too-long' | 'file-too-large' | 'case-collision' | 'too-many-in-folder';
  message: string;
}

/** Why a name cannot be there; null: it can. */
export function checkNameOn(machine: Machine, name: string): string | null {
  const drive = fileSystems[machine.fileSystem];
  const bySystem = machine.system === 'windows' ? windowsRefuses(name) : posixRefuses(machine, name);
  return bySystem ?? drive.refuses(name);
}

function windowsRefuses(name: string): string | null {
  const wrong = checkName(name).find((p) => p.code !== 'too-long' || name.length > 255);
  return wrong ? wrong.message : null;
}

function posixRefuses({ system }: Machine, name: string): string | null {
  if (name.includes('/') || name.includes('\0') || (system === 'macos' && name.includes(':')))
    return `${systemNames[system]} does not allow ${system === 'macos' ? '/ and :' : '/'} in a name.`;
  return utf8(name).length > 255 ? 'A name may have at most 255 bytes.' : null;
}

/** How long a path is there, as its limit counts. `path`: below the root. */
export function lengthOn(machine: Machine, path: string): number {
  const whole = `${machine.root}/${path}`;
  return (machine.system === 'windows' ? whole.length : utf8(whole).length) + 1;
}

/** Why a file could not lie there; null when it could. `path` is a tree path, `size` in bytes. */
export function checkFile(machine: Machine, path: string, size: number): Misfit | null {
  for (const part of path.split('/')) {
    const wrong = checkNameOn(machine, part);
    if (wrong !== null)
      return { code: 'name', message: `${machine.name} refuses the name “${part}”. ${wrong}` };
  }
  const length = lengthOn(machine, path);
  if (length > machine.longestPath)
    return {
      code: 'path-too-long',
      message: `The path would be ${length - 1} ${machine.system === 'windows' ? 'characters' : 'bytes'} long at ${shown(machine)}; ${machine.longestPath - 1} are allowed.`,
    };
  const drive = fileSystems[machine.fileSystem];
  if (size > drive.longestFile)
    return {
      code: 'file-too-large',
      message: `The file has ${bytes(size)}; ${drive.name} holds files of at most ${drive.longestFile === 2 ** 32 - 1 ? '4 GiB less one byte' : bytes(drive.longestFile)}.`,
    };
  return null;
}

/** Fits files one after another onto a machine: what is refused because of those before it too. */
export class Fitting {
  private readonly names = new Map<string, string>();
  private readonly entries = new Map<string, number>();

  constructor(private readonly machine: Machine) {}

  /** Why this one could not lie there beside those that were let in; null: it is let in. */
  add(path: string, size: number): Misfit | null {
    const alone = checkFile(this.machine, path, size);
    if (alone) return alone;
    const twin = this.twinOf(path);
    if (twin !== null)
      return {
        code: 'case-collision',
        message: `${path} and ${twin} differ only in letter case; ${this.machine.name} would keep one of them.`,
      };
    const full = this.fullFolder(path);
    if (full !== null)
      return {
        code: 'too-many-in-folder',
        message: `${full === '' ? 'The root' : full} would hold more names than ${fileSystems[this.machine.fileSystem].name} has room for in one folder.`,
      };
    return null;
  }

  private twinOf(path: string): string | null {
    if (!this.machine.ignoresCase) return null;
    const folded = foldName(path);
    const twin = this.names.get(folded);
    if (twin !== undefined && twin !== path) return twin;
    this.names.set(folded, path);
    return null;
  }

  /** The folder in which it would be one too many; null: there is room. */
  private fullFolder(path: string): string | null {
    const { entries } = fileSystems[this.machine.fileSystem];
    if (!entries) return null;
    const folder = folderOf(path);
    const now = (this.entries.get(folder) ?? 0) + entries.of(nameOf(path));
    if (now > entries.most) return folder;
    this.entries.set(folder, now);
    return null;
  }
}
