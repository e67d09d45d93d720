// New paths in a USD crate file: cells changed in place, new tables behind the old end, and the header pointed to them.

import { utf8 } from '../text/bytes';
import type { Edit } from '../text/edits';
import { packLiteral } from './crate';
import type { Tables } from './crateTables';
import type { Reference } from './format';

/** Where the number of a path's token or string stands. */
export type Cell =
  | { in: 'field'; index: number; string: boolean }
  | { in: 'rep'; at: number; string: boolean }
  | { in: 'cell'; at: number };

function u32(value: number): Uint8Array {
  return Uint8Array.of(value & 255, (value >>> 8) & 255, (value >>> 16) & 255, (value >>> 24) & 255);
}

function u64(value: number): Uint8Array {
  const out = new Uint8Array(8);
  new DataView(out.buffer).setBigUint64(0, BigInt(value), true);
  return out;
}

/** The low 48 bits of a rep. */
function payload(value: number): Uint8Array {
  return u64(value).subarray(0, 6);
}

/** The edits that give references, by `at`, new paths; null where a path cannot be said. `cells` are those of `references`, in order. */
export function rewriteCrate(
  t: Tables,
  cells: readonly Cell[],
  references: readonly Reference[],
  changes: readonly { at: string; value: string }[],
  size: number,
): Edit[] | null {
  const newTokens: string[] = [];
  const newStrings: number[] = [];
  const tokenFor = (value: string): number => {
    let at = newTokens.indexOf(value);
    if (at < 0) at = newTokens.push(value) - 1;
    return t.tokenAt.length - 1 + at;
  };
  const stringFor = (value: string): number => t.strings.length + newStrings.push(tokenFor(value)) - 1;
  const edits: Edit[] = [];
  let reps: Uint8Array | null = null;
  for (const { at, value } of changes) {
    if (value === '' || /[\u0000-\u001f\u007f]/.test(value)) return null;
    const cell = cells[references.findIndex((r) => r.at === at)];
    if (!cell) return null;
    if (cell.in === 'cell') edits.push({ span: [cell.at, cell.at + 4], bytes: u32(stringFor(value)) });
    else {
      const bytes = payload(cell.string ? stringFor(value) : tokenFor(value));
      if (cell.in === 'rep') edits.push({ span: [cell.at, cell.at + 6], bytes });
      else (reps ??= t.reps.slice()).set(bytes, cell.index * 8);
    }
  }
  if (edits.length === 0 && !reps) return [];
  const parts: Uint8Array[] = [];
  let end = size;
  const put = (...bytes: Uint8Array[]) => {
    for (const part of bytes) {
      parts.push(part);
      end += part.length;
    }
  };
  const sections = new Map(t.sections);
  const section = (name: string, ...bytes: Uint8Array[]) => {
    put(new Uint8Array((8 - (end % 8)) % 8));
    sections.set(name, { at: end, size: bytes.reduce((s, p) => s + p.length, 0) });
    put(...bytes);
  };
  if (reps) {
    const packed = packLiteral(reps);
    section(
      'FIELDS',
      u64(t.fieldNames.length),
      u64(t.fieldNameBlock.length),
      t.fieldNameBlock,
      u64(packed.length),
      packed,
    );
  }
  const added = utf8(newTokens.map((x) => `${x}\0`).join(''));
  const tokens = new Uint8Array(t.tokens.length + added.length);
  tokens.set(t.tokens);
  tokens.set(added, t.tokens.length);
  const packed = packLiteral(tokens);
  section(
    'TOKENS',
    u64(t.tokenAt.length - 1 + newTokens.length),
    u64(tokens.length),
    u64(packed.length),
    packed,
  );
  if (newStrings.length > 0)
    section('STRINGS', u64(t.strings.length + newStrings.length), ...[...t.strings, ...newStrings].map(u32));
  put(new Uint8Array((8 - (end % 8)) % 8));
  const toc = end;
  put(u64(sections.size));
  for (const [name, s] of sections) {
    const label = new Uint8Array(16);
    label.set(utf8(name));
    put(label, u64(s.at), u64(s.size));
  }
  const tail = new Uint8Array(end - size);
  let at = 0;
  for (const part of parts) {
    tail.set(part, at);
    at += part.length;
  }
  return [{ span: [16, 24], bytes: u64(toc) }, ...edits, { span: [size, size], bytes: tail }];
}
