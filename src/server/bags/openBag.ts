// Opens a bag for reading, a ZIP or a folder, without trusting it: an archive is checked whole before anything is read from it.

import fs from 'node:fs';
import yauzl from 'yauzl';
import { refusals, refusedArchive, staysInside, type ArchiveEntry } from '@/core/bags/archive';
import { AppError } from '@/core/errors';
import type { ByteStream, FileStat, FileTree } from '@/core/files/fileTree';
import { comparePaths, treePath, type TreePath } from '@/core/files/treePath';
import { isLitter } from '@/core/names/litter';
import { currentLimits } from '../disk/limits';
import { DiskReading } from '../disk/diskReading';
import { heldTree } from '../disk/heldTree';
import { toSystem } from '../disk/system';

/** A file of a bag; `mode`: its permission bits, where the bag tells. */
export interface BagFile {
  size: number;
  modified: number;
  mode?: number | undefined;
}

/** A bag's files by path below its base folder: 'bagit.txt', 'data/…'. */
export interface OpenBag {
  path: string;
  form: 'zip' | 'folder';
  files: ReadonlyMap<string, BagFile>;
  /** Folders that stand in an archive by themselves, with a file in them or without. */
  folders?: readonly string[];
  /** Files beside the base folder that only a system wrote (__MACOSX …): they are not in `files`. */
  litter?: number;
  stream(path: string): ByteStream;
  close(): void;
}

/** Opens `bag`. Throws AppError('hostile-archive') with every refusal, or 'bad-bag' where it is no archive at all. */
export async function openBag(bag: string): Promise<OpenBag> {
  const system = toSystem(bag);
  if (!fs.existsSync(system)) throw new AppError('not-found', `${bag} is not there.`);
  currentLimits().bounds.checkAt(bag);
  return fs.statSync(system).isDirectory() ? openFolder(bag) : openZip(bag);
}

/** Opens a ZIP that is no bag, as careful. Files that all lie in one folder are named from that folder. */
export function openArchive(zip: string): Promise<OpenBag> {
  return openZip(zip);
}

async function openFolder(bag: string): Promise<OpenBag> {
  const tree = new DiskReading(bag);
  const files = new Map<string, BagFile>();
  for await (const f of tree.list()) files.set(f.path, f);
  return { path: bag, form: 'folder', files, stream: (p) => tree.stream(treePath(p)), close() {} };
}

function readDirectory(system: string): Promise<{ zip: yauzl.ZipFile; entries: yauzl.Entry[] }> {
  return new Promise((resolve, reject) => {
    const refuse = (cause: Error) =>
      reject(new AppError('bad-bag', `${system} cannot be read as a ZIP: ${cause.message}`));
    yauzl.open(
      system,
      { lazyEntries: true, autoClose: false, decodeStrings: false, validateEntrySizes: true },
      (cause, zip) => {
        if (cause) return refuse(cause);
        const entries: yauzl.Entry[] = [];
        zip.on('entry', (e: yauzl.Entry) => {
          entries.push(e);
          zip.readEntry();
        });
        zip.on('end', () => resolve({ zip, entries }));
        zip.on('error', refuse);
        zip.readEntry();
      },
    );
  });
}

// Characters 0x80 to 0xFF of IBM code page 437, in which names stand that are not said to be UTF-8 (APPNOTE.TXT 6.3.10, Appendix D.1).
const cp437 =
  'ÇüéâäàåçêëèïîìÄÅÉæÆôöòûùÿÖÜ¢£¥₧ƒáíóúñÑªº¿⌐¬½¼¡«»░▒▓│┤╡╢╖╕╣║╗╝╜╛┐└┴┬├─┼╞╟╚╔╩╦╠═╬╧╨╤╥╙╘╒╓╫╪┘┌█▄▌▐▀αßΓπΣσµτΦΘΩδ∞φε∩≡±≥≤⌠⌡÷≈°∙·√ⁿ²■\u00a0';

/** UTF-8 where the entry says so or its bytes are valid UTF-8 (many programs forget to say it); else code page 437. */
export function nameOfEntry(e: Pick<yauzl.Entry, 'generalPurposeBitFlag'> & { fileName: unknown }): string {
  const raw = e.fileName as Buffer;
  const text = raw.toString('utf8');
  if ((e.generalPurposeBitFlag & 0x800) !== 0 || Buffer.from(text, 'utf8').equals(raw)) return text;
  return [...raw].map((c) => (c < 0x80 ? String.fromCharCode(c) : cp437[c - 0x80]!)).join('');
}

/** The Unix mode of an entry, where it was made on a system that has one (APPNOTE.TXT 4.4.2.2: 3 is UNIX). */
function modeOf(e: yauzl.Entry): number | null {
  return e.versionMadeBy >>> 8 === 3 ? e.externalFileAttributes >>> 16 : null;
}

async function openZip(bag: string): Promise<OpenBag> {
  const { zip, entries } = await readDirectory(toSystem(bag));
  const named = entries.map((e) => ({ e, name: nameOfEntry(e) }));
  const listed: ArchiveEntry[] = named.map(({ e, name }) => ({
    name,
    size: e.uncompressedSize,
    packed: e.compressedSize,
    offset: e.relativeOffsetOfLocalHeader,
    mode: modeOf(e),
    encrypted: (e.generalPurposeBitFlag & 1) !== 0,
  }));
  const refused = refusals(listed);
  if (refused.length > 0) {
    zip.close();
    throw refusedArchive(bag, refused);
  }
  // One base folder, as RFC 8493 §4 has it, or the bag's files at the top.
  const atTop = named.some(({ name }) => name === 'bagit.txt');
  const own = named.filter(({ name }) => !isLitter(name.split('/')[0]!));
  const first = own[0]?.name.split('/')[0] ?? '';
  const base = !atTop && own.every(({ name }) => name.startsWith(`${first}/`)) ? `${first}/` : '';
  const byPath = new Map(
    named
      .filter(({ name }) => !name.endsWith('/') && name.startsWith(base))
      .map(({ e, name }) => [name.slice(base.length), e]),
  );
  const files = new Map(
    [...byPath]
      .sort(([a], [b]) => comparePaths(a, b))
      .map(([p, e]): [string, BagFile] => [
        p,
        {
          size: e.uncompressedSize,
          modified: e.getLastModDate().getTime(),
          mode: modeOf(e) === null ? undefined : modeOf(e)! & 0o777,
        },
      ]),
  );
  const litter = named.filter(({ name }) => !name.endsWith('/') && !name.startsWith(base)).length;
  return {
    path: bag,
    form: 'zip',
    litter,
    files,
    folders: named
      .filter(({ name }) => name.endsWith('/') && name !== base && name.startsWith(base))
      .map(({ name }) => name.slice(base.length, -1)),
    stream: (p) => streamEntry(zip, byPath.get(p)!),
    close: () => zip.close(),
  };
}

async function* streamEntry(zip: yauzl.ZipFile, entry: yauzl.Entry): ByteStream {
  const stream = await new Promise<NodeJS.ReadableStream>((resolve, reject) =>
    zip.openReadStream(entry, (cause, s) => (cause ? reject(cause) : resolve(s))),
  );
  let size = 0;
  for await (const part of stream as unknown as AsyncIterable<Uint8Array>) {
    size += part.length;
    if (size > entry.uncompressedSize)
      throw new AppError(
        'hostile-archive',
        'An entry is larger than the archive says.',
        'Nothing was written.',
      );
    yield part;
  }
}

/** Reads a small tag file as text; null when it is not there. */
export async function readTag(bag: OpenBag, name: string): Promise<string | null> {
  const stat = bag.files.get(name);
  if (!stat) return null;
  if (stat.size > 512 * 1024 * 1024) throw new AppError('bad-bag', `${name} is too large to be a tag file.`);
  const parts: Uint8Array[] = [];
  for await (const part of bag.stream(name)) parts.push(new Uint8Array(part));
  return Buffer.concat(parts).toString('utf8');
}

/** The payload as a tree, to be looked at without unpacking. */
export function payloadTree(bag: OpenBag): FileTree {
  const files = new Map<TreePath, FileStat>();
  for (const [p, stat] of bag.files) {
    if (!p.startsWith('data/') || !staysInside(p)) continue;
    const path = treePath(p.slice(5));
    files.set(path, { path, ...stat });
  }
  return heldTree(files, (path) => bag.stream(`data/${path}`), 'the bag');
}
