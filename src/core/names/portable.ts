// Names that are legal on every system. Sources: Microsoft, "Naming Files, Paths, and Namespaces" (reserved characters and
// names, trailing dots and blanks, 260 characters for a path with its drive and terminator); limits of ext4 (255 bytes a
// name) and APFS/NTFS (255 units) from memory of their published documents.

import { ownFolder } from '../files/records';
import { utf8 } from '../text/bytes';

/** What is wrong with a name, and where it would fail. */
export interface NameProblem {
  code:
    | 'empty'
    | 'reserved-character'
    | 'reserved-name'
    | 'trailing-dot-or-blank'
    | 'too-long'
    | 'dots'
    | 'own-name';
  message: string;
}

const reserved = /^(con|prn|aux|nul|conin\$|conout\$|com[0-9¹²³]|lpt[0-9¹²³])$/i;

/** Windows' longest path, drive and terminating NUL included (MAX_PATH). */
export const longestWindowsPath = 260;

// Bytes of UTF-8; other systems count letters, of which there are never more.
const longestName = 255;

/** Everything that keeps a single name from being legal on Windows, macOS and Linux alike. Empty: it is legal. */
export function checkName(name: string): NameProblem[] {
  const problems: NameProblem[] = [];
  if (name === '') return [{ code: 'empty', message: 'A name cannot be empty.' }];
  if (name === '.' || name === '..')
    return [{ code: 'dots', message: `“${name}” means a folder, it cannot be a name.` }];
  const bad = [...new Set(name.match(/[<>:"/\\|?*\u0000-\u001f]/g) ?? [])];
  if (bad.length > 0) {
    const shown = bad.map((c) => (c < ' ' ? `control character ${c.charCodeAt(0)}` : c)).join(' ');
    problems.push({ code: 'reserved-character', message: `Windows does not allow ${shown} in a name.` });
  }
  // The part before the first dot decides, trailing blanks left out: NUL.txt and "NUL .txt" are reserved too.
  if (reserved.test(name.split('.')[0]!.trimEnd()))
    problems.push({
      code: 'reserved-name',
      message: `“${name}” is reserved for a device on Windows, with any extension.`,
    });
  if (/[. ]$/.test(name))
    problems.push({
      code: 'trailing-dot-or-blank',
      message: 'Windows drops a dot or blank at the end of a name.',
    });
  if (name.length > 255 || utf8(name).length > 255)
    problems.push({
      code: 'too-long',
      message: 'A name may have at most 255 characters (255 bytes on Linux).',
    });
  return problems;
}

/** The same for a name that a user gives: that of the hidden folder is the workspace's own. */
export function checkNewName(name: string): NameProblem[] {
  if (foldName(name) !== ownFolder) return checkName(name);
  return [{ code: 'own-name', message: `“${name}” is kept for the workspace's own records.` }];
}

/** The key under which systems that ignore case take two names for one: NFC, then lower case (simple folding). */
export function foldName(name: string): string {
  // Most names are plain ASCII, which has one form only.
  return (/^[\x00-\x7f]*$/.test(name) ? name : name.normalize('NFC')).toLowerCase();
}

/** A name as it is where every system takes it, else made legal. */
export const legalName = (name: string): string => (checkName(name).length > 0 ? makeLegal(name) : name);

/** A legal name made of any text: forbidden characters become '_'. */
export function makeLegal(name: string): string {
  let out = name.replace(/[<>:"/\\|?*\u0000-\u001f]/g, '_').replace(/[. ]+$/, '');
  if (out === '') out = '_';
  return reserved.test(out.split('.')[0]!.trimEnd()) ? `_${out}` : out;
}

/** A name beside one that is taken: 'rope.png' → 'rope(2).png', 'rope(3).png' … until `taken` says no. */
export function freeName(name: string, taken: (name: string) => boolean): string {
  if (!taken(name)) return name;
  for (let n = 2; ; n++) {
    const next = numberedBeside(name, n);
    if (!taken(next)) return next;
  }
}

/**
 * The n-th name beside one that is taken: 'rope.png', 2 → 'rope(2).png'. The number stands so that nobody takes it for a version's (boat_2) or a
 * frame's; the stem is cut where the name would be too long.
 */
export function numberedBeside(name: string, n: number): string {
  const dot = name.lastIndexOf('.');
  const [stem, extension] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, ''];
  const end = `(${n})${extension}`;
  const room = longestName - utf8(end).length;
  return room > 0 ? cutTo(stem, room) + end : cutTo(name, longestName - 20) + `(${n})`;
}

/** As much of a text as fits into so many bytes of UTF-8, whole characters only. */
function cutTo(text: string, bytes: number): string {
  if (utf8(text).length <= bytes) return text;
  const characters = [...text];
  let size = utf8(text).length;
  while (size > bytes) size -= utf8(characters.pop()!).length;
  return characters.join('');
}
