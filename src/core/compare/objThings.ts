// What is in a Wavefront OBJ (objects and groups) and in its MTL (materials). Source: the format's published description by its makers ("Object
// Files (.obj)", "MTL material format"); from memory.

import { latin1, decodeText, toLatin1 } from '../text/bytes';
import type { Hashing } from '../files/digest';
import { hashText, type Hasher } from './hasher';
import type { Thing } from './things';

interface Part {
  key: string;
  vertices: number;
  faces: number;
  materials: Set<string>;
  hash: Hashing;
}

const said = (raw: string) => decodeText(toLatin1(raw.trim()) ?? new Uint8Array()).text;

/** Each line of a text, without its end; lines that end with a backslash go on. */
function* linesOf(bytes: Uint8Array): Iterable<string> {
  const text = latin1(bytes).replace(/\\\r?\n/g, ' ');
  for (let at = 0; at < text.length;) {
    const end = text.indexOf('\n', at);
    yield text.slice(at, end < 0 ? text.length : end).replace(/\r$/, '');
    at = end < 0 ? text.length : end + 1;
  }
}

/** Objects and groups of an OBJ file: what stands between one name and the next. */
export function objThings(bytes: Uint8Array, start: Hasher): Thing[] {
  const parts: Part[] = [];
  const open = (key: string): Part => {
    const part = { key, vertices: 0, faces: 0, materials: new Set<string>(), hash: start() };
    parts.push(part);
    return part;
  };
  let part: Part | null = null;
  let waiting: string[] = [];
  const flush = (to: Part) => {
    to.hash.update(toLatin1(waiting.join('\n')) ?? new Uint8Array());
    waiting = [];
  };
  for (const line of linesOf(bytes)) {
    const word = /^\s*(\S+)\s*(.*)$/.exec(line);
    if (!word) continue;
    const [, key, rest] = word as unknown as [string, string, string];
    if (key === 'o' || key === 'g') {
      if (part) flush(part);
      part = open(said(rest) || '(without a name)');
      continue;
    }
    if (!/^(v|vn|vt|vp|f|l|p|usemtl|s)$/.test(key)) continue;
    part ??= open('(before the first name)');
    if (key === 'v') part.vertices++;
    else if (key === 'f') part.faces++;
    else if (key === 'usemtl') part.materials.add(said(rest));
    waiting.push(line);
    if (waiting.length > 4096) flush(part);
  }
  if (part) flush(part);
  return parts.map((p) => ({
    kind: 'mesh',
    key: p.key,
    name: p.key,
    facts: new Map([
      ['vertices', String(p.vertices)],
      ['faces', String(p.faces)],
      ...(p.materials.size > 0 ? [['material', [...p.materials].join(', ')] as const] : []),
      ['shape', p.hash.digest().slice(0, 8)],
    ]),
  }));
}

/** Materials of an MTL file. */
export function mtlThings(bytes: Uint8Array, start: Hasher): Thing[] {
  const things: (Thing & { facts: Map<string, string> })[] = [];
  for (const line of linesOf(bytes)) {
    const word = /^\s*([A-Za-z]\S*)\s*(.*)$/.exec(line);
    if (!word) continue;
    const [, key, rest] = word as unknown as [string, string, string];
    if (key === 'newmtl')
      things.push({ kind: 'material', key: said(rest), name: said(rest), facts: new Map() });
    else {
      const value = said(rest);
      things.at(-1)?.facts.set(key, value.length > 160 ? hashText(start, value) : value);
    }
  }
  return things;
}
