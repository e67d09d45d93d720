// PLY between its text form and its two binary ones. The head stays as it is written but for its format line; every number stays the number it is: whole ones
// digit by digit, fractions by the shortest text that reads back to the same bits. Source: Turk, "The PLY Polygon File Format" (1994).

import { latin1, utf8 } from '../text/bytes';
import type { Refusal } from '../documents/gltfText';

export const plyForms = ['ascii', 'binary_little_endian', 'binary_big_endian'] as const;
export type PlyForm = (typeof plyForms)[number];

const types = {
  char: 'int8',
  int8: 'int8',
  uchar: 'uint8',
  uint8: 'uint8',
  short: 'int16',
  int16: 'int16',
  ushort: 'uint16',
  uint16: 'uint16',
  int: 'int32',
  int32: 'int32',
  uint: 'uint32',
  uint32: 'uint32',
  float: 'float32',
  float32: 'float32',
  double: 'float64',
  float64: 'float64',
} as const;
type Type = (typeof types)[keyof typeof types];
const sizeOf: Record<Type, number> = {
  int8: 1,
  uint8: 1,
  int16: 2,
  uint16: 2,
  int32: 4,
  uint32: 4,
  float32: 4,
  float64: 8,
};
const ranges: Partial<Record<Type, readonly [number, number]>> = {
  int8: [-128, 127],
  uint8: [0, 255],
  int16: [-32768, 32767],
  uint16: [0, 65535],
  int32: [-(2 ** 31), 2 ** 31 - 1],
  uint32: [0, 2 ** 32 - 1],
};

interface Property {
  type: Type;
  /** Of a list: the type of its length. */
  count: Type | null;
}
interface Element {
  name: string;
  count: number;
  properties: Property[];
}
export interface PlyHead {
  form: PlyForm;
  /** Bytes [start, end) of the word that names the form. */
  formAt: readonly [number, number];
  elements: Element[];
  /** Where the numbers begin, and what ends a line of the head. */
  end: number;
  newline: string;
}

const mostHead = 1024 * 1024;

/** The head of a PLY file. */
export function readPlyHead(bytes: Uint8Array): PlyHead | Refusal {
  const text = latin1(bytes.subarray(0, mostHead));
  const newline = /^ply(\r\n|\n|\r)/.exec(text)?.[1];
  if (newline === undefined) return { refused: 'It does not begin as a PLY file.' };
  const elements: Element[] = [];
  let form: { form: PlyForm; formAt: readonly [number, number] } | null = null;
  for (let at = 3 + newline.length; ;) {
    const stop = text.indexOf(newline, at);
    if (stop < 0) return { refused: 'Its head does not end.' };
    const line = text.slice(at, stop);
    const words = line.trim().split(/\s+/);
    if (words[0] === 'end_header') {
      if (!form) return { refused: 'Its head does not say in which form it is.' };
      return { ...form, elements, end: stop + newline.length, newline };
    }
    if (words[0] === 'format') {
      const word = plyForms.find((f) => f === words[1]);
      if (!word || words[2] !== '1.0')
        return { refused: `The form “${words.slice(1).join(' ')}” is not known.` };
      const from = at + line.indexOf(word);
      form = { form: word, formAt: [from, from + word.length] };
    } else if (words[0] === 'element') {
      const count = Number(words[2]);
      if (words.length !== 3 || !Number.isInteger(count) || count < 0)
        return { refused: `“${line}” is no element.` };
      elements.push({ name: words[1]!, count, properties: [] });
    } else if (words[0] === 'property') {
      const property = propertyOf(words.slice(1));
      if (!property || elements.length === 0) return { refused: `“${line}” is no property.` };
      elements.at(-1)!.properties.push(property);
    }
    at = stop + newline.length;
  }
}

function propertyOf(words: readonly string[]): Property | null {
  const type = (word: string | undefined) =>
    word !== undefined && word in types ? types[word as keyof typeof types] : null;
  if (words[0] === 'list') {
    const [count, item] = [type(words[1]), type(words[2])];
    return count && item && words.length === 4 && !count.startsWith('float') ? { type: item, count } : null;
  }
  const own = type(words[0]);
  return own && words.length === 2 ? { type: own, count: null } : null;
}

/** The file in another form; a refusal where a number is missing or does not fit what the head says it is. */
export function plyAs(bytes: Uint8Array, form: PlyForm): Uint8Array | Refusal {
  const head = readPlyHead(bytes);
  if ('refused' in head) return head;
  const body = bytes.subarray(head.end);
  const source =
    head.form === 'ascii' ? textNumbers(body) : binaryNumbers(body, head.form === 'binary_little_endian');
  const sink =
    form === 'ascii' ? textSink(head.newline) : binarySink(form === 'binary_little_endian', body.length);
  try {
    for (const element of head.elements)
      for (let n = 0; n < element.count; n++) {
        for (const { type, count } of element.properties) {
          const length = count === null ? 1 : source.next(count);
          if (count !== null) {
            if (length < 0) throw new Wrong(`A list of “${element.name}” has a length of ${length}.`);
            sink.put(count, length);
          }
          for (let i = 0; i < length; i++) sink.put(type, source.next(type));
        }
        sink.endLine();
      }
    const rest = source.rest();
    if (rest > 0) return { refused: `${rest} bytes behind its last number belong to nothing.` };
  } catch (cause) {
    if (cause instanceof Wrong) return { refused: cause.message };
    throw cause;
  }
  const [from, to] = head.formAt;
  const parts = [bytes.subarray(0, from), utf8(form), bytes.subarray(to, head.end), ...sink.parts()];
  const whole = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

class Wrong extends Error {}

interface Numbers {
  next(type: Type): number;
  /** Bytes that are left and mean something. */
  rest(): number;
}

function textNumbers(b: Uint8Array): Numbers {
  let at = 0;
  const isBlank = (c: number | undefined) => c === 0x20 || c === 0x0a || c === 0x0d || c === 0x09;
  return {
    next(type) {
      while (at < b.length && isBlank(b[at])) at++;
      const from = at;
      while (at < b.length && !isBlank(b[at])) at++;
      if (at === from) throw new Wrong('It ends before its last number.');
      const word = String.fromCharCode(...b.subarray(from, Math.min(at, from + 400)));
      const value = numberOf(word);
      if (value === null) throw new Wrong(`“${word}” is no number.`);
      const range = ranges[type];
      if (range && (!Number.isInteger(value) || value < range[0] || value > range[1]))
        throw new Wrong(`${word} is no ${type}.`);
      if (type === 'float32' && Number.isFinite(value) && !Number.isFinite(Math.fround(value)))
        throw new Wrong(`${word} is too large for a ${type}.`);
      return value;
    },
    rest() {
      while (at < b.length && isBlank(b[at])) at++;
      return b.length - at;
    },
  };
}

/** As C's `strtod` reads it: also nan and inf. */
function numberOf(word: string): number | null {
  if (/^[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?$/i.test(word)) return Number(word);
  const special = /^([+-]?)(nan|inf|infinity)(?:\([\w]*\))?$/i.exec(word);
  if (!special) return null;
  const value = special[2]!.toLowerCase() === 'nan' ? NaN : Infinity;
  return special[1] === '-' ? -value : value;
}

function binaryNumbers(b: Uint8Array, little: boolean): Numbers {
  const view = new DataView(b.buffer, b.byteOffset, b.length);
  let at = 0;
  return {
    next(type) {
      const from = at;
      at += sizeOf[type];
      if (at > b.length) throw new Wrong('It ends before its last number.');
      switch (type) {
        case 'int8':
          return view.getInt8(from);
        case 'uint8':
          return view.getUint8(from);
        case 'int16':
          return view.getInt16(from, little);
        case 'uint16':
          return view.getUint16(from, little);
        case 'int32':
          return view.getInt32(from, little);
        case 'uint32':
          return view.getUint32(from, little);
        case 'float32':
          return view.getFloat32(from, little);
        case 'float64':
          return view.getFloat64(from, little);
      }
    },
    rest: () => b.length - at,
  };
}

interface Sink {
  put(type: Type, value: number): void;
  endLine(): void;
  parts(): Uint8Array[];
}

function textSink(newline: string): Sink {
  const parts: Uint8Array[] = [];
  let lines: string[] = [];
  let line: string[] = [];
  const flush = () => {
    if (lines.length > 0) parts.push(utf8(lines.join('')));
    lines = [];
  };
  return {
    put: (type, value) => line.push(shortest(type, value)),
    endLine() {
      lines.push(line.join(' ') + newline);
      line = [];
      if (lines.length >= 4096) flush();
    },
    parts() {
      flush();
      return parts;
    },
  };
}

/** The shortest text that reads back to the same number of its type. */
export function shortest(type: Type, value: number): string {
  if (Object.is(value, -0)) return '-0';
  if (Number.isNaN(value)) return 'nan';
  if (!Number.isFinite(value)) return value > 0 ? 'inf' : '-inf';
  if (type !== 'float32') return String(value);
  // Nine digits tell any float32 (IEEE 754-2019, §5.12.2); most need fewer.
  for (let digits = 6; digits < 9; digits++) {
    const text = value.toPrecision(digits);
    if (Math.fround(Number(text)) === value) return String(Number(text));
  }
  return String(Number(value.toPrecision(9)));
}

function binarySink(little: boolean, about: number): Sink {
  let bytes = new Uint8Array(Math.max(1024, about));
  let view = new DataView(bytes.buffer);
  let at = 0;
  const setters: Record<Type, (at: number, v: number) => void> = {
    int8: (p, v) => view.setInt8(p, v),
    uint8: (p, v) => view.setUint8(p, v),
    int16: (p, v) => view.setInt16(p, v, little),
    uint16: (p, v) => view.setUint16(p, v, little),
    int32: (p, v) => view.setInt32(p, v, little),
    uint32: (p, v) => view.setUint32(p, v, little),
    float32: (p, v) => view.setFloat32(p, v, little),
    float64: (p, v) => view.setFloat64(p, v, little),
  };
  return {
    put(type, value) {
      if (at + 8 > bytes.length) {
        const larger = new Uint8Array(bytes.length * 2);
        larger.set(bytes);
        bytes = larger;
        view = new DataView(bytes.buffer);
      }
      setters[type](at, value);
      at += sizeOf[type];
    },
    endLine: () => undefined,
    parts: () => [bytes.subarray(0, at)],
  };
}
