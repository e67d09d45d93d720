// Every format that is read, in one list, and how a file's format is told.

import type { ByteRange } from '../files/fileTree';
import { extensionOf } from '../files/treePath';
import { wideEncoding } from '../text/bytes';
import type { Problem, Span } from '../problem';
import { dae } from './dae';
import type { Format, FormatId, Reading, Reference } from './format';
import { glb } from './glb';
import { gltf } from './gltf';
import { mtl } from './mtl';
import { mtlx } from './mtlx';
import { obj } from './obj';
import { otio } from './otio';
import { gunzip, isGzip, mostUnpacked, otioz, withoutSpans, zae } from './packed';
import { ply } from './ply';
import { threemf } from './threemf';
import { usda } from './usda';
import { usdc } from './usdc';
import { usdz } from './usdz';
import { x3d } from './x3d';
import { x3dv } from './x3dv';

export const formats: readonly Format[] = [
  gltf,
  glb,
  obj,
  mtl,
  usda,
  usdc,
  usdz,
  mtlx,
  dae,
  x3d,
  x3dv,
  ply,
  threemf,
  otio,
  zae,
  otioz,
];

const byExtension = new Map(formats.toReversed().flatMap((f) => f.extensions.map((e) => [e, f] as const)));
// A file under the name of one of these may hold any other of them; the first bytes say which. OBJ and MTL say nothing of themselves.
const told = [glb, usda, usdc, ply, x3dv, dae, mtlx, x3d];

/** The format that a name's extension tells; null for files that are no scenes. */
export function formatOfName(path: string): Format | null {
  return byExtension.get(extensionOf(path)) ?? null;
}

// Material libraries belong to scenes, and geometry files such as PLY are what scenes are made of: frames of a cache, scans.
const parts: ReadonlySet<FormatId> = new Set(['mtl', 'mtlx', 'ply', '3mf']);

/** Formats that hold a scene of their own, of which people save versions. */
export function isSceneFormat(id: FormatId): boolean {
  return !parts.has(id);
}

// Enough for a declaration, a comment and the first element.
const mostSniffed = 4096;

/** The format of a file: by its first bytes where they are clear, else by its name. */
export function formatOf(path: string, head: Uint8Array): Format | null {
  const named = formatOfName(path);
  const first = head.subarray(0, mostSniffed);
  if (!named || named.sniff(first)) return named;
  return told.find((f) => f.sniff(first)) ?? (named.id === 'glb' && gltf.sniff(first) ? gltf : named);
}

/** What reading a file gave: its format, what was found, and the bytes that were needed for it. */
export interface FileReading extends Reading {
  format: Format;
  /** The leading bytes of the file that were read; null for files read in parts. */
  bytes: Uint8Array | null;
}

// Files up to this size are read at once; of larger ones the beginning tells how much is needed.
const readAtOnce = 1024 * 1024;
const firstBite = 64 * 1024;
const partSize = 16 * 1024 * 1024;

/**
 * Reads the references of a file, touching only the bytes that hold them. `read` gives bytes [start, end) of it, `size` is its
 * length in bytes. Null when the file is of no known format. Throws what `read` throws.
 */
export async function readReferences(
  path: string,
  size: number,
  read: (range: ByteRange) => Promise<Uint8Array>,
): Promise<FileReading | null> {
  if (!formatOfName(path)) return null;
  const head = await read([0, size <= readAtOnce ? size : firstBite]);
  const format = formatOf(path, head)!;
  if (format.mayBeGzip && isGzip(head))
    return { format, bytes: null, ...(await readGzip(format, size, read)) };
  if (format.readParts) return { format, bytes: null, ...(await format.readParts(read, size)) };
  if (format.byLines && size > partSize && !wideEncoding(head))
    return { format, bytes: null, ...(await readInParts(format, size, read)) };
  const needed = Math.min(format.needs?.(head, size) ?? size, size);
  const bytes = needed <= head.length ? head.subarray(0, needed) : await read([0, needed]);
  return { format, bytes, ...format.read(bytes, size) };
}

/** A gzip-compressed file: what is in it may be any of the formats that are told by their first bytes. */
async function readGzip(
  format: Format,
  size: number,
  read: (range: ByteRange) => Promise<Uint8Array>,
): Promise<Reading> {
  const note = (message: string): Problem => ({ code: 'compressed', message, span: [0, Math.min(2, size)] });
  const bytes = size > mostUnpacked ? null : gunzip(await read([0, size]));
  if (!bytes)
    return {
      references: [],
      problems: [note('This file is gzip-compressed, and damaged or too large to be unpacked here.')],
    };
  const inner = format.sniff(bytes.subarray(0, mostSniffed))
    ? format
    : (told.find((f) => f.sniff(bytes.subarray(0, mostSniffed))) ?? format);
  const reading = withoutSpans(inner.read(bytes));
  return {
    ...reading,
    problems: [
      note(
        'This file is gzip-compressed: it is read, and cannot be changed here. Unpack it to make its paths travel.',
      ),
      ...reading.problems,
    ],
  };
}

async function readInParts(
  format: Format,
  size: number,
  read: (range: ByteRange) => Promise<Uint8Array>,
): Promise<Reading> {
  const all: Reading = { references: [], problems: [], otherReadings: [] };
  let at = 0;
  while (at < size) {
    let part = await read([at, Math.min(size, at + partSize)]);
    if (part.length === 0) break;
    if (at + part.length < size) {
      const cut = lastLineEnd(part);
      if (cut > 0) part = part.subarray(0, cut);
    }
    const reading = format.read(part, part.length);
    const first = all.references.length;
    const shift = (span: Span | null | undefined): Span | null =>
      span ? [span[0] + at, span[1] + at] : null;
    const shifted = (r: Reference): Reference => ({ ...r, span: shift(r.span) });
    all.references.push(...reading.references.map(shifted));
    all.problems.push(...reading.problems.map((p) => ({ ...p, span: shift(p.span) ?? undefined })));
    for (const other of reading.otherReadings ?? []) {
      all.otherReadings!.push({
        reference: shifted(other.reference),
        instead: other.instead.map((i) => i + first),
      });
    }
    at += part.length;
  }
  return { ...all, references: renumber(all.references) };
}

/** Offset after the last line end that continues no line; 0 when there is none. */
function lastLineEnd(part: Uint8Array): number {
  let at = part.length;
  for (;;) {
    at = part.lastIndexOf(0x0a, at - 1);
    if (at <= 0) return 0;
    const before = part[at - 1] === 0x0d ? at - 2 : at - 1;
    if (part[before] !== 0x5c) return at + 1;
  }
}

/** Parts count from zero each; a place that occurs again gets the next number, as in a reading of the whole. */
function renumber(references: Reference[]): Reference[] {
  const seen = new Map<string, number>();
  return references.map((r) => {
    const match = /^(\w+) (\d+)$/.exec(r.at);
    if (!match) return r;
    const n = seen.get(match[1]!) ?? 0;
    seen.set(match[1]!, n + 1);
    return { ...r, at: `${match[1]} ${n}` };
  });
}
