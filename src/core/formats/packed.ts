// Scenes inside a wrapping, read and not rewritten: gzip (RFC 1952) around X3D, VRML or COLLADA, and packages (ZIP) that hold one scene with
// its files: COLLADA's .zae, whose manifest names the root document, and OpenTimelineIO's .otioz with its content.otio.
//
//     <dae_root>./models/hull.dae</dae_root>        manifest.xml in a .zae (COLLADA 1.5 specification, "Using Zip"; Khronos)
//
// A reference to a part of the same package needs nothing else; what leads out of it, or to nothing, is a reference of the package.

import { Gunzip, inflateSync } from 'fflate';
import type { ByteRange } from '../files/fileTree';
import { folderOf, joinInside, treePath } from '../files/treePath';
import type { Problem } from '../problem';
import { percentDecode } from '../text/uri';
import { dae } from './dae';
import { fullPath, type Format, type Reading, type Reference } from './format';
import { decodeMarkup, eachMarkup, localName, openMarkup } from './markup';
import { otio } from './otio';
import { readDirectory, packageTrouble, type Read, type ZipEntry } from './zip';

/** What is unpacked at most, in bytes; more than any scene's text has. */
export const mostUnpacked = 256 * 1024 * 1024;

export function isGzip(head: Uint8Array): boolean {
  return head[0] === 0x1f && head[1] === 0x8b;
}

/** Undoes gzip; null where it is damaged or larger than `mostUnpacked`. */
export function gunzip(packed: Uint8Array): Uint8Array | null {
  const parts: Uint8Array[] = [];
  let size = 0;
  let member = 0; // where the last of several parts put behind each other begins
  try {
    const stream = new Gunzip((part) => {
      size += part.length;
      if (size > mostUnpacked) throw new Error('too large');
      parts.push(part);
    });
    stream.onmember = () => (member = size);
    // In small bites, so that a bomb ends soon after it has grown too large.
    for (let at = 0; at < packed.length; at += 65_536)
      stream.push(packed.subarray(at, at + 65_536), at + 65_536 >= packed.length);
  } catch {
    return null;
  }
  // The file ends with the length that was packed (RFC 1952 §2.3.1, ISIZE).
  if (
    packed.length < 18 ||
    new DataView(packed.buffer, packed.byteOffset + packed.length - 4, 4).getUint32(0, true) !== size - member
  )
    return null;
  const out = new Uint8Array(size);
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

/** A reading of unpacked text, as one of the packed file: nothing stands in it as text. */
export function withoutSpans(reading: Reading): Reading {
  const bare = (r: Reference): Reference => ({ ...r, span: null });
  return {
    references: reading.references.map(bare),
    problems: reading.problems.map(({ code, message }) => ({ code, message })),
    ...(reading.otherReadings
      ? { otherReadings: reading.otherReadings.map((o) => ({ ...o, reference: bare(o.reference) })) }
      : {}),
  };
}

/** An entry's bytes; null where they cannot be had (damaged, too large, packed in another way). `size` is that of the package. */
export async function bytesOfEntry(
  read: (range: ByteRange) => Promise<Uint8Array>,
  e: ZipEntry,
  size: number,
): Promise<Uint8Array | null> {
  if (e.size > mostUnpacked || e.at + e.packed > size || (e.method !== 0 && e.method !== 8)) return null;
  const packed = new Uint8Array(await read([e.at, e.at + e.packed]));
  try {
    // Room for what the list says, and no more: a bomb ends there.
    return e.method === 0 ? packed : inflateSync(packed, { out: new Uint8Array(e.size) });
  } catch {
    return null;
  }
}

/** Reads the one scene of a package. `rootOf` names its entry. */
async function readPackage(
  read: Read,
  size: number,
  inner: Format,
  rootOf: (entries: readonly ZipEntry[]) => Promise<string | undefined>,
): Promise<Reading> {
  const problem = (code: string, message: string): Reading => ({
    references: [],
    problems: [{ code, message, span: [0, Math.min(4, size)] }],
  });
  const entries = size < 22 ? null : await readDirectory(read, size);
  const trouble = packageTrouble(entries, size);
  if (!entries || trouble) return problem(trouble?.code ?? 'truncated', trouble?.message ?? '');
  const name = await rootOf(entries);
  const entry = entries.find((e) => e.name === name);
  if (!entry)
    return problem(
      'no-root-document',
      name === undefined
        ? `There is no ${inner.name} file in this package.`
        : `The package names ${name} as its scene, which is not in it.`,
    );
  const bytes = await bytesOfEntry(read, entry, size);
  if (!bytes) return problem('unreadable', `${entry.name} inside the package cannot be read.`);
  const names = new Set(entries.map((e) => e.name));
  const { references, problems } = withoutSpans(inner.read(bytes));
  const isInside = (r: Reference) => {
    const written = fullPath(r).replace(/[?#].*$/s, '');
    const path = (r.syntax ?? inner.syntax) === 'uri' ? percentDecode(written) : written;
    const beside = joinInside(folderOf(treePath(entry.name)), path);
    return beside !== null && names.has(beside);
  };
  return {
    references: references.filter((r) => !isInside(r)).map((r) => ({ ...r, at: `${entry.name}: ${r.at}` })),
    problems: problems.map((p): Problem => ({ ...p, message: `${entry.name}: ${p.message}` })),
  };
}

const isZip = (head: Uint8Array) => head[0] === 0x50 && head[1] === 0x4b && head[2] === 3 && head[3] === 4;

function packageFormat(
  id: 'zae' | 'otioz',
  name: string,
  inner: Format,
  rootOf: (read: Read, size: number) => (entries: readonly ZipEntry[]) => Promise<string | undefined>,
): Format {
  return {
    id,
    name,
    extensions: [`.${id}`],
    syntax: inner.syntax,
    sniff: isZip,
    read() {
      throw new Error('a package is read in parts');
    },
    readParts: (read, size) => readPackage(read, size, inner, rootOf(read, size)),
    encode: () => null,
  };
}

/** The name of the root document of a .zae: what the manifest names; else the first .dae. */
export async function zaeRoot(
  read: Read,
  size: number,
  entries: readonly ZipEntry[],
): Promise<string | undefined> {
  const manifest = entries.find((e) => e.name === 'manifest.xml');
  const bytes = manifest ? await bytesOfEntry(read, manifest, size) : null;
  let root = '';
  if (bytes) {
    const m = openMarkup(bytes);
    let inRoot = false;
    eachMarkup(m, {
      open: (element) => (inRoot = localName(element) === 'dae_root'),
      close: () => (inRoot = false),
      text: (from, to, cdata) => {
        if (inRoot) root += decodeMarkup(m, from, to, cdata).text;
      },
    });
  }
  return (
    percentDecode(root.trim())
      .replace(/^(\.?\/)+/, '')
      .replace(/#.*$/, '') || entries.find((e) => /\.dae$/i.test(e.name))?.name
  );
}

export const zae = packageFormat(
  'zae',
  'COLLADA package',
  dae,
  (read, size) => (entries) => zaeRoot(read, size, entries),
);

export const otioz = packageFormat('otioz', 'OpenTimelineIO package', otio, () => async () => 'content.otio');

/** A scene out of its wrapping. */
export interface Unwrapped {
  bytes: Uint8Array;
  /** Where it lies in its package; empty for a scene in none. */
  path: string;
  /** The bytes of another file of the package by its path there; null where there is none. */
  beside: (path: string) => Promise<Uint8Array | null>;
  /** What else there is in the package. */
  names: readonly string[];
}

const alone = { path: '', beside: async () => null, names: [] };

/** The scene inside gzip or a COLLADA package; as it is where it is in none. Null where it cannot be had. */
export async function unwrapped(id: string, bytes: Uint8Array): Promise<Unwrapped | null> {
  if (isGzip(bytes)) {
    const inner = gunzip(bytes);
    return inner && { bytes: inner, ...alone };
  }
  if (id !== 'zae') return { bytes, ...alone };
  const read: Read = async ([from, to]) => bytes.subarray(from, to);
  const entries = bytes.length < 22 ? null : await readDirectory(read, bytes.length);
  if (!entries || packageTrouble(entries, bytes.length)) return null;
  const beside = async (path: string) => {
    const entry = entries.find((e) => e.name === path);
    return entry ? bytesOfEntry(read, entry, bytes.length) : null;
  };
  const path = await zaeRoot(read, bytes.length, entries);
  const inner = path === undefined ? null : await beside(path);
  return inner && { bytes: inner, path: path!, beside, names: entries.map((e) => e.name) };
}
