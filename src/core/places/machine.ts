// What a computer or a drive is like, for a rehearsal: its system, what its drive is formatted as, where the workspace would lie, what is
// connected there. Described once, kept with the workspace as part of a place, shared as a file.

import { AppError } from '../errors';
import { fileSystems, type FileSystemId } from '../names/fileSystems';
import { longestWindowsPath } from '../names/portable';

export const systems = ['windows', 'macos', 'linux'] as const;
export type System = (typeof systems)[number];

/** Bytes a second written, and small files made a second; null: not known. */
export interface DriveSpeed {
  write: number;
  smallFiles: number | null;
}

/** A machine as it is described: what is left out is as usual for its system. */
export interface MachineDescription {
  system: System;
  fileSystem?: FileSystemId | undefined;
  /** Where workspaces lie there, or with <name> for the workspace's own folder: 'D:/work', '/Volumes/Work/<name>'. */
  root?: string | undefined;
  /** Whether two names that differ only in letter case are one there. */
  ignoresCase?: boolean | undefined;
  /** Longest path: on Windows in characters with the terminator, elsewhere in bytes. */
  longestPath?: number | undefined;
  /** Free room in bytes. */
  free?: number | undefined;
  speed?: DriveSpeed | undefined;
  /** Heads of drives and shares that are connected there, besides those of the places. */
  mounts?: string[] | undefined;
}

/** A machine in full. */
export interface Machine {
  id: string;
  name: string;
  system: System;
  fileSystem: FileSystemId;
  /** Where the workspace would lie, '/'-separated; <name> stands for its folder's name. */
  root: string;
  ignoresCase: boolean;
  /** Windows: UTF-16 units, the terminator included; else bytes of UTF-8. */
  longestPath: number;
  free: number | null;
  speed: DriveSpeed | null;
  mounts: readonly string[];
}

/** A place, as the workspace knows it: heads that mean one folder, and what the machine or drive is like. */
export interface KnownPlace {
  name: string;
  heads: readonly string[];
  machine?: MachineDescription | undefined;
}

// PATH_MAX: 1024 on macOS (sys/syslimits.h), 4096 on Linux (limits.h), both with the terminator.
const longest: Record<System, number> = { windows: longestWindowsPath, macos: 1024, linux: 4096 };
const usualDrive: Record<System, FileSystemId> = { windows: 'ntfs', macos: 'apfs', linux: 'ext4' };
const usualRoot: Record<System, string> = {
  windows: 'D:/work/<name>',
  macos: '/Users/artist/work/<name>',
  linux: '/home/artist/work/<name>',
};
export const systemNames: Record<System, string> = { windows: 'Windows', macos: 'macOS', linux: 'Linux' };

const isWindowsHead = (head: string) => /^([A-Za-z]:|\/\/|\\\\)/.test(head);

/** Whether a head can be one of a system's: letters and shares on Windows, mounted folders elsewhere. */
export function isHeadOf(system: System, head: string): boolean {
  return isWindowsHead(head) === (system === 'windows');
}

/** A path as the core writes it: '/'-separated, without a slash at the end. */
const tidy = (path: string) => path.replaceAll('\\', '/').replace(/(?<=[^:/])\/+$/, '');

/** A described machine in full. `heads`: of the place it is, of which the first that suits its system says where workspaces lie. */
export function machineFrom(
  of: { id: string; name: string; heads?: readonly string[] },
  d: MachineDescription,
): Machine {
  const fileSystem = d.fileSystem ?? usualDrive[d.system];
  const own = (of.heads ?? []).filter((h) => isHeadOf(d.system, h)).map(tidy);
  const below = (folder: string) =>
    folder.includes('<name>') ? folder : `${folder.replace(/\/$/, '')}/<name>`;
  const root = d.root ? below(tidy(d.root)) : own[0] !== undefined ? below(own[0]) : usualRoot[d.system];
  return {
    id: of.id,
    name: of.name,
    system: d.system,
    fileSystem,
    root,
    // Windows takes the letters of any drive for the same, macOS those of all that are not formatted otherwise.
    ignoresCase: d.ignoresCase ?? (d.system === 'windows' || fileSystems[fileSystem].ignoresCase),
    longestPath: d.longestPath ?? longest[d.system],
    free: d.free ?? null,
    speed: d.speed ?? null,
    mounts: [...new Set([...own, ...(d.mounts ?? []).map(tidy)])],
  };
}

/** Machines that can be rehearsed without being described first. */
export const knownMachines: readonly Machine[] = [
  machineFrom({ id: 'windows', name: 'Windows' }, { system: 'windows' }),
  machineFrom(
    { id: 'windows-long-paths', name: 'Windows with long paths on' },
    { system: 'windows', longestPath: 32767 },
  ),
  machineFrom({ id: 'macos', name: 'macOS' }, { system: 'macos' }),
  machineFrom({ id: 'linux', name: 'Linux' }, { system: 'linux' }),
  machineFrom(
    { id: 'fat32-stick', name: 'a FAT32 stick on Windows' },
    { system: 'windows', fileSystem: 'fat32', root: 'E:/<name>' },
  ),
];

/** The id of a place's machine. */
export const placeMachineId = (name: string) => `place:${name}`;

/** The machines of places that say what they are like. On each, the heads of the other places count as connected where they suit its system. */
export function machinesOf(places: readonly KnownPlace[]): Machine[] {
  return places.flatMap((p) => {
    if (!p.machine) return [];
    const { system } = p.machine;
    const others = places.flatMap((o) => (o === p ? [] : o.heads.filter((h) => isHeadOf(system, h))));
    const mounts = [...(p.machine.mounts ?? []), ...others];
    return [
      machineFrom({ id: placeMachineId(p.name), name: p.name, heads: p.heads }, { ...p.machine, mounts }),
    ];
  });
}

/** A machine with another root, or another drive letter where its system has any. */
export function movedTo(machine: Machine, root?: string, drive?: string): Machine {
  if (root) return { ...machine, root: tidy(root) };
  if (drive && machine.system === 'windows')
    return {
      ...machine,
      root: `${drive.replace(/[:\\/]*$/, '').toUpperCase()}:${machine.root.replace(/^[A-Za-z]:/, '')}`,
    };
  return machine;
}

/**
 * A machine by its id or its place's name, Windows where none is given. Throws AppError('bad-request') for one that is not known.
 */
export function machineOf(id: string | undefined, places: readonly KnownPlace[] = []): Machine {
  const own = machinesOf(places);
  const machine =
    own.find((p) => p.id === id || p.name.toLowerCase() === id?.toLowerCase()) ??
    knownMachines.find((p) => p.id === (id ?? 'windows'));
  if (machine) return machine;
  const known = [...own.map((p) => p.name), ...knownMachines.map((p) => p.id)].join(', ');
  throw new AppError('bad-request', `There is no place “${id}”. Known are ${known}.`);
}

/** The root as that system writes it. */
export function shown(machine: Pick<Machine, 'system' | 'root'>): string {
  return machine.system === 'windows' ? machine.root.replaceAll('/', '\\') : machine.root;
}

/** What it is, in a few words: 'Windows, FAT32, D:\work'. */
export function inWords(machine: Machine): string {
  const folder = machine.root.replace(/\/<name>$/, '/').replace(/(?<=[^:/])\/$/, '');
  return [
    systemNames[machine.system],
    ...(machine.fileSystem === usualDrive[machine.system] || machine.fileSystem === 'other'
      ? []
      : [fileSystems[machine.fileSystem].name]),
    shown({ system: machine.system, root: folder }),
  ].join(', ');
}
