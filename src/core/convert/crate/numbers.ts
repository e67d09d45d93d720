// The numbers of USD crate files, and the text that says each to its last bit. Layout of arrays as found in files that OpenUSD 22 wrote (integers packed since 0.5,
// fractions since 0.6, counts of 64 bits since 0.7); half precision after IEEE 754-2019, §3.6.

import { BadCrate, unpackIntegers, unpackLongs } from '../../formats/crate';
import type { Blocks, Rep } from '../../formats/crateTables';
import { shortest } from '../ply';

export type Scalar = 'bool' | 'uchar' | 'int' | 'uint' | 'int64' | 'uint64' | 'half' | 'float' | 'double';

export const bytesOf: Record<Scalar, number> = {
  bool: 1,
  uchar: 1,
  int: 4,
  uint: 4,
  int64: 8,
  uint64: 8,
  half: 2,
  float: 4,
  double: 8,
};

/** A number of half precision from its 16 bits. */
export function halfOf(bits: number): number {
  const sign = bits & 0x8000 ? -1 : 1;
  const exponent = (bits >> 10) & 31;
  const fraction = bits & 1023;
  if (exponent === 31) return fraction ? NaN : sign * Infinity;
  return sign * (exponent === 0 ? fraction * 2 ** -24 : (1 + fraction / 1024) * 2 ** (exponent - 15));
}

/** A fraction as USD text says it. Minus zero needs its point: without it, it is read as a whole number, which has no sign. */
export function textOf(type: 'half' | 'float' | 'double', value: number): string {
  if (Object.is(value, -0)) return '-0.0';
  // Half is within float: what reads back to the same float reads back to the same half.
  return shortest(type === 'double' ? 'float64' : 'float32', value);
}

/** One number at a place of a view, as text. */
export function numberAt(view: DataView, type: Scalar, at: number): string {
  switch (type) {
    case 'bool':
      return view.getUint8(at) ? 'true' : 'false';
    case 'uchar':
      return String(view.getUint8(at));
    case 'int':
      return String(view.getInt32(at, true));
    case 'uint':
      return String(view.getUint32(at, true));
    case 'int64':
      return String(view.getBigInt64(at, true));
    case 'uint64':
      return String(view.getBigUint64(at, true));
    case 'half':
      return textOf(type, halfOf(view.getUint16(at, true)));
    case 'float':
      return textOf(type, view.getFloat32(at, true));
    case 'double':
      return textOf(type, view.getFloat64(at, true));
  }
}

/** How many elements an array has, and where they begin. */
export async function arrayHead(
  b: Blocks,
  minor: number,
  at: number,
): Promise<[count: number, first: number]> {
  // Before 0.5 the number of dimensions stood in front.
  const from = minor < 5 ? at + 4 : at;
  return minor < 7 ? [(await b.view(from, 4)).getUint32(0, true), from + 4] : [await b.u64(from), from + 8];
}

const leastPacked = 16;

/** The numbers of an array, each as text. Throws BadCrate. */
export async function numbersOf(b: Blocks, minor: number, type: Scalar, rep: Rep): Promise<string[]> {
  if (rep.payload === 0) return [];
  const [count, first] = await arrayHead(b, minor, rep.payload);
  if (rep.packed && count >= leastPacked) {
    if (type === 'half' || type === 'float' || type === 'double')
      return packedFractions(b, type, count, first);
    const size = await b.u64(first);
    const bytes = await b.bytes(first + 8, size);
    if (type === 'int64' || type === 'uint64')
      return Array.from(unpackLongs(bytes, count), (n) =>
        String(type === 'int64' ? n : BigInt.asUintN(64, n)),
      );
    return Array.from(unpackIntegers(bytes, count), (n) => String(type === 'uint' ? n >>> 0 : n));
  }
  const each = bytesOf[type];
  if (count * each > b.size) throw new BadCrate('A list is longer than the file.', first);
  const view = await b.view(first, count * each);
  return Array.from({ length: count }, (_, n) => numberAt(view, type, n * each));
}

const wholes = 'i'.charCodeAt(0);
const table = 't'.charCodeAt(0);

/** Fractions that are whole numbers ('i'), or numbers of a short table ('t'). */
async function packedFractions(
  b: Blocks,
  type: 'half' | 'float' | 'double',
  count: number,
  at: number,
): Promise<string[]> {
  const code = (await b.view(at, 1)).getUint8(0);
  if (code === wholes) {
    const size = await b.u64(at + 1);
    return Array.from(unpackIntegers(await b.bytes(at + 9, size), count), String);
  }
  if (code !== table) throw new BadCrate('A list of fractions is packed in a way that is not known.', at);
  const entries = (await b.view(at + 1, 4)).getUint32(0, true);
  const each = bytesOf[type];
  const view = await b.view(at + 5, entries * each);
  const words = Array.from({ length: entries }, (_, n) => numberAt(view, type, n * each));
  const from = at + 5 + entries * each;
  const size = await b.u64(from);
  return Array.from(unpackIntegers(await b.bytes(from + 8, size), count), (n) => {
    const word = words[n];
    if (word === undefined) throw new BadCrate('A list of fractions points behind its table.', at);
    return word;
  });
}
