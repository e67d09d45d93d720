// Where the buffers, pictures and sounds of a glTF lie: in it, in files beside it, or in its text; and their bytes as pieces of files.

import { sizeOfWritten, type FilesPiece, type PieceFile } from '../changes/plan';
import { padded, words } from '../convert/glb';
import { fromDataUri } from '../documents/gltfFile';
import { thingsIn, wayOfList, type ListName } from '../documents/gltfPointers';
import { binaryChunk, glbMark, jsonChunk, packedIn, type GltfText, type Json } from '../documents/gltfText';
import { AppError } from '../errors';
import type { ByteRange, FileTree, OutsideFiles } from '../files/fileTree';
import type { TreePath } from '../files/treePath';
import { latin1 } from '../text/bytes';

/** Where bytes lie: in a file, or at hand. */
export type Lying =
  { path: string; isOutside: boolean; size: number; at: number; length: number } | { bytes: Uint8Array };

/** Files by their paths: of a tree, or elsewhere. */
export interface Door {
  isOutside: boolean;
  stat(path: string): Promise<{ size: number; modified: number } | null>;
  read(path: string, range: ByteRange): Promise<Uint8Array>;
}

export const outsideDoor = (outside: OutsideFiles): Door => ({
  isOutside: true,
  // What may not be read is as if it were not there.
  stat: (path) => (outside.mayRead?.(path) === false ? Promise.resolve(null) : outside.stat(path)),
  read: (path, range) => outside.read(path, range),
});

export const treeDoor = (tree: FileTree): Door => ({
  isOutside: false,
  stat: (path) => tree.stat(path as TreePath),
  read: (path, range) => tree.read(path as TreePath, range),
});

/** A glTF as it is worked on. */
export interface GltfFiles {
  doc: GltfText;
  door: Door;
  /** Where a buffer, a view, or a thing that holds a file lies; null: not there, or nowhere that can be read. */
  lying(list: ListName, index: number): Promise<Lying | null>;
  read(lying: Lying, range?: ByteRange): Promise<Uint8Array>;
}

/** `places`: where references lead, by the places they stand at. */
export function gltfFiles(
  doc: GltfText,
  path: string,
  size: number,
  door: Door,
  places: ReadonlyMap<string, string>,
): GltfFiles {
  const { isOutside } = door;
  // Each view asks for its buffer.
  const buffers = new Map<number, Promise<Lying | null>>();
  const bufferOf = (index: number) => {
    const known = buffers.get(index) ?? files.lying('buffers', index);
    buffers.set(index, known);
    return known;
  };
  const files: GltfFiles = {
    doc,
    door,
    async lying(list, index) {
      const thing = thingsIn(doc.json, list)[index] ?? {};
      const { uri } = thing;
      if (list === 'bufferViews') {
        const { buffer, at, length } = bytesOfView(thing);
        return part(await bufferOf(buffer), at, length);
      }
      if (typeof uri === 'string' && /^data:/i.test(uri)) {
        const bytes = fromDataUri(uri);
        return bytes && { bytes };
      }
      if (typeof uri === 'string') {
        const found = places.get(`/${wayOfList(list).join('/')}/${index}/uri`);
        const stat = found === undefined ? null : await door.stat(found);
        return stat && { path: found!, isOutside, size: stat.size, at: 0, length: stat.size };
      }
      if (list === 'buffers')
        return index === 0 && doc.binary
          ? { path, isOutside, size, at: doc.binary[0], length: doc.binary[1] - doc.binary[0] }
          : null;
      return typeof thing.bufferView === 'number' ? files.lying('bufferViews', thing.bufferView) : null;
    },
    read(lying, [from, to] = [0, Infinity]) {
      if ('bytes' in lying) return Promise.resolve(lying.bytes.subarray(from, to));
      return door.read(lying.path, [lying.at + from, lying.at + Math.min(to, lying.length)]);
    },
  };
  return files;
}

/** A stretch of what lies there; null: it is shorter. */
function part(of: Lying | null, at: number, length: number): Lying | null {
  if (!of || at + length > lengthOf(of)) return null;
  return 'bytes' in of ? { bytes: of.bytes.subarray(at, at + length) } : { ...of, at: of.at + at, length };
}

export const lengthOf = (lying: Lying): number => ('bytes' in lying ? lying.bytes.length : lying.length);

/** Where the bytes of a view lie; compressed ones where its extension says. */
export function bytesOfView(view: Json): { buffer: number; at: number; length: number } {
  const said = packedIn(view)?.[1] ?? view;
  return {
    buffer: Number(said.buffer),
    at: Number(said.byteOffset ?? 0),
    length: Number(said.byteLength),
  };
}

/** What lies there as pieces of files; a file that is not among them is added. `run`: a stretch of it. */
export async function piecesAt(
  door: Door,
  lying: Lying,
  files: PieceFile[],
  run: ByteRange | null = null,
): Promise<FilesPiece[]> {
  if ('bytes' in lying) return [{ latin1: latin1(run ? lying.bytes.subarray(...run) : lying.bytes) }];
  const { path, isOutside, at, length } = lying;
  let file = files.findIndex((f) => f.path === path && (f.outside ?? false) === isOutside);
  if (file < 0) {
    const stat = await door.stat(path);
    if (!stat) throw new AppError('stale-plan', `${path} is not there any more.`);
    file = files.length;
    const { size, modified } = stat;
    files.push({ path, state: { size, modified, digest: null }, ...(isOutside ? { outside: true } : {}) });
  }
  const [from, to] = run ?? [0, length];
  return to > from ? [{ file, copy: [at + from, at + to] }] : [];
}

/** Kinds of pictures by what their first bytes tell: media type and extension. */
export const pictureTypes: Readonly<Record<string, readonly [mime: string, extension: string]>> = {
  PNG: ['image/png', '.png'],
  JPEG: ['image/jpeg', '.jpg'],
  WebP: ['image/webp', '.webp'],
  'KTX 2': ['image/ktx2', '.ktx2'],
  DDS: ['image/vnd-ms.dds', '.dds'],
  AVIF: ['image/avif', '.avif'],
};

/** Bytes that a GLB can have. */
export const mostInGlb = 2 ** 32 - 1;

/** A GLB of its parts: the JSON, what its buffer holds (none: it has no chunk of it), chunks of other kinds with their heads (glTF 2.0, §4.4). */
export function glbOfParts(
  json: readonly FilesPiece[],
  binary: readonly FilesPiece[],
  others: readonly FilesPiece[],
): FilesPiece[] {
  const [length, inside, beyond] = [json, binary, others].map(sizeOfWritten) as [number, number, number];
  const chunk = inside > 0 ? 8 + padded(inside) : 0;
  const whole = 12 + 8 + padded(length) + chunk + beyond;
  if (whole > mostInGlb) throw new AppError('unsupported', 'It would be larger than 4 GB: a GLB cannot be.');
  const filled = (n: number, by: string) => ({ latin1: by.repeat(padded(n) - n) });
  return [
    { latin1: latin1(words(glbMark, 2, whole, padded(length), jsonChunk)) },
    ...json,
    filled(length, ' '),
    ...(inside > 0
      ? [{ latin1: latin1(words(padded(inside), binaryChunk)) }, ...binary, filled(inside, '\0')]
      : []),
    ...others,
  ].filter((p) => !('latin1' in p) || p.latin1 !== '');
}
