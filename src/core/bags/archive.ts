// What must be true of an archive before a single byte of it is written to disk. Archives come from strangers.

import { AppError } from '../errors';
import { foldName, legalName } from '../names/portable';

/** An entry as its directory tells it. Sizes in bytes. */
export interface ArchiveEntry {
  name: string;
  size: number;
  packed: number;
  /** Offset of the entry's header in the archive. */
  offset: number;
  /** Unix mode where the archive has one, else null. */
  mode: number | null;
  encrypted: boolean;
}

/** Why an archive is refused, with the entry. */
export interface Refusal {
  code:
    | 'absolute'
    | 'leaves-folder'
    | 'bad-name'
    | 'link'
    | 'special'
    | 'duplicate'
    | 'bomb'
    | 'overlap'
    | 'encrypted'
    | 'too-many'
    | 'file-and-folder';
  entry: string;
  message: string;
}

export interface Limits {
  /** Bytes that all entries together may have. */
  total: number;
  /** How many times larger than packed an entry beyond `ratioFrom` bytes may be; deflate cannot pass 1032 (RFC 1951 bound). */
  ratio: number;
  ratioFrom: number;
  entries: number;
}

export const usualLimits: Limits = {
  total: 2 ** 44,
  ratio: 200,
  ratioFrom: 64 * 1024 * 1024,
  entries: 2_000_000,
};

/** True for a path that stays inside the folder it is unpacked to, on every system. */
export function staysInside(path: string): boolean {
  return (
    path !== '' &&
    !path.startsWith('/') &&
    !path.includes('\\') &&
    !path.includes('\0') &&
    !/^[A-Za-z]:/.test(path) &&
    path
      .replace(/\/$/, '')
      .split('/')
      .every((p) => p !== '' && p !== '.' && p !== '..') &&
    !path.startsWith('~')
  );
}

/** The name of the top folder of a bag's ZIP: the bag's own name, made legal for every system. */
export function topFolder(bag: string): string {
  const name = legalName(bag).replace(/^~/, '_');
  return staysInside(name) ? name : 'bag';
}

const clashes: ReadonlySet<Refusal['code']> = new Set(['duplicate', 'file-and-folder']);

/** The error that says why an archive is refused: one that is only locked, or whose names only clash, is no sign of ill will. */
export function refusedArchive(what: string, refused: readonly Refusal[]): AppError {
  const code = refused.every((r) => r.code === 'encrypted')
    ? 'locked-archive'
    : refused.every((r) => clashes.has(r.code))
      ? 'clashing-names'
      : 'hostile-archive';
  // What is worst is said first.
  const first = refused.find((r) => r.code !== 'encrypted' && !clashes.has(r.code)) ?? refused[0]!;
  return new AppError(
    code,
    `${what} is refused: ${first.message}`,
    'Nothing was written.',
    refused.map((r) => r.message),
  );
}

/** Everything that speaks against an archive; empty: it may be unpacked. */
export function refusals(entries: readonly ArchiveEntry[], limits: Limits = usualLimits): Refusal[] {
  const found: Refusal[] = [];
  const refuse = (code: Refusal['code'], entry: string, message: string) =>
    found.push({ code, entry, message: `${JSON.stringify(entry)} ${message}` });
  if (entries.length > limits.entries)
    refuse('too-many', '', `has ${entries.length} entries, more than ${limits.entries}.`);
  const seen = new Map<string, string>();
  const folders = new Set<string>();
  let total = 0;
  for (const e of entries) {
    const bare = e.name.replace(/\/$/, '');
    if (/^[/\\]/.test(e.name) || /^[A-Za-z]:/.test(e.name))
      refuse('absolute', e.name, 'is an absolute path.');
    else if (e.name.split(/[/\\]/).includes('..'))
      refuse('leaves-folder', e.name, 'leaves the folder it is unpacked to.');
    else if (!staysInside(e.name)) refuse('bad-name', e.name, 'is no plain path.');
    const type = e.mode === null ? 0 : e.mode & 0o170000;
    if (type === 0o120000) refuse('link', e.name, 'is a link; links are not unpacked.');
    else if (type !== 0 && type !== 0o100000 && type !== 0o040000)
      refuse('special', e.name, 'is a device or pipe.');
    if (e.encrypted) refuse('encrypted', e.name, 'is encrypted.');
    // Systems that ignore case or Unicode form would write both into one file; trailing dots and blanks are dropped on Windows.
    const key = foldName(bare)
      .split('/')
      .map((p) => p.replace(/[. ]+$/, ''))
      .join('/');
    const twin = seen.get(key);
    if (twin !== undefined)
      refuse(
        'duplicate',
        e.name,
        twin === e.name
          ? 'occurs twice.'
          : `and ${JSON.stringify(twin)} would be one file on Windows and macOS.`,
      );
    else seen.set(key, e.name);
    for (let at = key.lastIndexOf('/'); at > 0; at = key.lastIndexOf('/', at - 1))
      folders.add(key.slice(0, at));
    total += e.size;
    if (e.size > limits.ratioFrom && e.size > e.packed * limits.ratio)
      refuse('bomb', e.name, `would grow from ${e.packed} to ${e.size} bytes.`);
  }
  const packed = entries.reduce((sum, e) => sum + e.packed, 0);
  if (total > limits.ratioFrom && total > packed * limits.ratio)
    refuse('bomb', '', `would grow from ${packed} to ${total} bytes.`);
  for (const e of entries)
    if (!e.name.endsWith('/') && folders.has(foldName(e.name)))
      refuse('file-and-folder', e.name, 'is both a file and a folder.');
  if (total > limits.total) refuse('bomb', '', `would unpack to ${total} bytes, more than ${limits.total}.`);
  const byOffset = [...entries].sort((a, b) => a.offset - b.offset);
  for (let i = 1; i < byOffset.length; i++) {
    if (byOffset[i - 1]!.offset + byOffset[i - 1]!.packed > byOffset[i]!.offset) {
      refuse('overlap', byOffset[i]!.name, 'shares bytes with another entry.');
      break;
    }
  }
  return found;
}
