// What each system and file system allows in names, so that a name can be shown where it fails. Sources: Microsoft, "Naming Files, Paths, and
// Namespaces" (Windows); exFAT file system specification (Microsoft, 2019) §7.7.3, table of invalid characters, names of at most 255 UTF-16
// units; FAT32 File System Specification (Microsoft, 2000), "FAT Long Directory Entries": 255 characters, a path of 260, files below 4 GiB;
// Linux: ext4 documentation, 255 bytes, no '/' and no NUL; macOS: APFS, 255 UTF-8 bytes as tried, ':' and '/' (from memory).

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
