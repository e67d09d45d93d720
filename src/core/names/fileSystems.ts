// What each system and file system allows in names, so that a name can be shown where it fails. Sources: Microsoft, "Naming Files, Paths, and
// Namespaces" (Windows); exFAT file system specification (Microsoft, 2019) §7.7.3, table of invalid characters, names of at most 255 UTF-16
// units; FAT32 File System Specification (Microsoft, 2000), "FAT Long Directory Entries": 255 characters, a path of 260, files below 4 GiB;
// Linux: ext4 documentation, 255 bytes, no '/' and no NUL; macOS: APFS, 255 UTF-8 bytes as tried, ':' and '/' (from memory). Longest files, from
// memory of the published documents: NTFS 16 TiB less 64 KiB with clusters of 4 KiB (Microsoft, "NTFS overview"), ext4 16 TiB with blocks of 4 KiB
// (kernel documentation), APFS 8 EiB (Apple, "About Apple File System"), exFAT 16 EiB less one byte (§7.6.5). A folder of FAT32 holds 65,536 entries of
// 32 bytes (2 MiB); a name that is not a plain 8.3 one takes one for each 13 letters and one more.

import { utf8 } from '../text/bytes';
import { checkName } from './portable';

export interface SystemRule {
  id: 'windows' | 'macos' | 'linux' | 'exfat' | 'fat32';
  name: string;
  /** Longest file in bytes; null: longer than any drive. */
  longestFile: number | null;
  check(name: string): string[];
}

const fatForbidden = /["*/:<>?\\|\u0000-\u001f]/g;

function forbidden(name: string, pattern: RegExp, where: string): string[] {
  const bad = [...new Set(name.match(pattern) ?? [])].map((c) =>
    c < ' ' ? `control character ${c.charCodeAt(0)}` : c,
  );
  return bad.length > 0 ? [`${where} does not allow ${bad.join(' ')}.`] : [];
}

export const systemRules: readonly SystemRule[] = [
  {
    id: 'windows',
    name: 'Windows',
    longestFile: null,
    check: (name) =>
      checkName(name)
        .filter((p) => p.code !== 'too-long' || name.length > 255)
        .map((p) => p.message),
  },
  {
    id: 'macos',
    name: 'macOS',
    longestFile: null,
    check: (name) => [
      ...forbidden(name, /[/:\u0000]/g, 'macOS'),
      ...(utf8(name).length > 255 ? ['A name may have at most 255 bytes.'] : []),
    ],
  },
  {
    id: 'linux',
    name: 'Linux',
    longestFile: null,
    check: (name) => [
      ...forbidden(name, /[/\u0000]/g, 'Linux'),
      ...(utf8(name).length > 255 ? ['A name may have at most 255 bytes.'] : []),
    ],
  },
  {
    id: 'exfat',
    name: 'exFAT drive',
    longestFile: null,
    check: (name) => [
      ...forbidden(name, fatForbidden, 'exFAT'),
      ...(name.length > 255 ? ['A name may have at most 255 characters.'] : []),
    ],
  },
  {
    id: 'fat32',
    name: 'FAT32 stick',
    longestFile: 4 * 1024 ** 3 - 1,
    check: (name) => [
      ...forbidden(name, fatForbidden, 'FAT32'),
      ...(/[. ]$/.test(name) ? ['FAT32 drops a dot or blank at the end.'] : []),
      ...(name.length > 255 ? ['A name may have at most 255 characters.'] : []),
    ],
  },
];

/** Where a name fails, system by system; systems on which it is legal have no sentences. */
export function whereLegal(name: string): { id: SystemRule['id']; system: string; wrong: string[] }[] {
  return systemRules.map((r) => ({
    id: r.id,
    system: r.name,
    wrong: name === '' ? ['A name cannot be empty.'] : r.check(name),
  }));
}

/** What a drive is formatted as. */
export const fileSystemIds = ['fat32', 'exfat', 'ntfs', 'apfs', 'ext4', 'other'] as const;
export type FileSystemId = (typeof fileSystemIds)[number];

export interface FileSystemRule {
  name: string;
  /** Longest file in bytes. */
  longestFile: number;
  /** Whether two names that differ only in letter case are one, as it is usually formatted. */
  ignoresCase: boolean;
  /** Why a name cannot be; null: it can. */
  refuses(name: string): string | null;
  /** Whether so many names fit into one folder; null: any number. */
  entries: { most: number; of(name: string): number } | null;
}

const first = (said: readonly string[]) => said[0] ?? null;
const ruleOf = (id: SystemRule['id']) => systemRules.find((r) => r.id === id)!;
const tib = 2 ** 40;

/** FAT32 stores a name in entries of 13 letters, with one more for the short name; the folder ends with an empty one and begins with two of its own. */
const fatEntries = (name: string) =>
  /^[A-Z0-9!#$%&'()@^_`{}~-]{1,8}(\.[A-Z0-9!#$%&'()@^_`{}~-]{1,3})?$/.test(name)
    ? 1
    : Math.ceil(name.length / 13) + 1;

export const fileSystems: Record<FileSystemId, FileSystemRule> = {
  fat32: {
    name: 'FAT32',
    longestFile: 4 * 1024 ** 3 - 1,
    ignoresCase: true,
    refuses: (name) => first(ruleOf('fat32').check(name)),
    entries: { most: 65_536 - 3, of: fatEntries },
  },
  exfat: {
    name: 'exFAT',
    longestFile: 2 ** 64,
    ignoresCase: true,
    refuses: (name) => first(ruleOf('exfat').check(name)),
    entries: null,
  },
  ntfs: {
    name: 'NTFS',
    longestFile: 16 * tib - 64 * 1024,
    ignoresCase: true,
    refuses: (name) =>
      name.length > 255
        ? 'A name may have at most 255 characters.'
        : first(forbidden(name, /[/\u0000]/g, 'NTFS')),
    entries: null,
  },
  apfs: {
    name: 'APFS',
    longestFile: 2 ** 63,
    ignoresCase: true,
    refuses: (name) => first(ruleOf('macos').check(name)),
    entries: null,
  },
  ext4: {
    name: 'ext4',
    longestFile: 16 * tib,
    ignoresCase: false,
    refuses: (name) => first(ruleOf('linux').check(name)),
    entries: null,
  },
  other: {
    name: 'another file system',
    longestFile: Infinity,
    ignoresCase: false,
    refuses: () => null,
    entries: null,
  },
};

/** The file system by the name a system gives it: 'vfat', 'msdos', 'NTFS'. */
export function fileSystemNamed(name: string | null): FileSystemId | null {
  const plain = name?.toLowerCase() ?? '';
  if (/^(vfat|fat|fat32|msdos)$/.test(plain)) return 'fat32';
  if (/^(ntfs3?|ntfs-3g|fuseblk)$/.test(plain)) return 'ntfs';
  if (/^ext[234]$/.test(plain)) return 'ext4';
  if (plain === 'exfat' || plain === 'apfs') return plain;
  return null;
}
