// Wavefront OBJ. References: mtllib (material libraries), maplib, shadow_obj, trace_obj, call. `usemtl` is a name, no path.
//
//     mtllib boat.mtl  my deck.mtl
//            ^ span-^  ^ span ---^
//
// Readers disagree about blanks in mtllib: the whole rest of the line as one name is offered as another reading, taken
// where such a file exists. `scmd` and `csh` would run programs: they are reported, never followed.
// Source: the published OBJ specification (Wavefront, "Object Files", appendix B1), from memory; readers in common use.

import { latin1, wideEncoding } from '../text/bytes';
import type { Problem } from '../problem';
import type { Format, Reading, Reference, ReferenceKind } from './format';
import { contentEnd, eachStatement, encodeName, referenceIn, readWide, type Statement } from './lines';

const firsts = new Set([...'mstc'].map((c) => c.charCodeAt(0)));
const single: Record<string, ReferenceKind> = {
  shadow_obj: 'scene',
  trace_obj: 'scene',
  call: 'scene',
  maplib: 'other',
};

/** The names on an mtllib line as [from, to) in the line: split at unescaped blanks, joined until a piece ends in .mtl. */
function namesOf(line: string, from: number, to: number): [number, number][] {
  const names: [number, number][] = [];
  let start = -1;
  let i = from;
  while (i < to) {
    while (i < to && (line[i] === ' ' || line[i] === '\t')) i++;
    if (i >= to) break;
    const piece = i;
    while (i < to && ((line[i] !== ' ' && line[i] !== '\t') || line[i - 1] === '\\')) i++;
    if (start < 0) start = piece;
    if (/\.mtl"?$/i.test(line.slice(piece, i))) {
      names.push([start, i]);
      start = -1;
    }
  }
  if (start >= 0) names.push([start, to]);
  return names;
}

function readMtllib(s: Statement, number: number, reading: Reading): number {
  const end = contentEnd(s.line);
  const names = namesOf(s.line, s.rest, end);
  const first = reading.references.length;
  names.forEach(([from, to], i) => {
    const reference = referenceIn(s, from, to, `mtllib ${number + i}`, 'material');
    reading.references.push(reference);
    // `\ ` is an escaped blank for some readers; the plain name is the other reading.
    if (reference.written.includes('\\ ')) {
      const plain = { ...reference, written: reference.written.replaceAll('\\ ', ' ') };
      reading.otherReadings!.push({ reference: plain, instead: [first + i] });
    }
  });
  if (names.length > 1) {
    const whole = referenceIn(s, s.rest, end, `mtllib ${number}`, 'material');
    reading.otherReadings!.push({ reference: whole, instead: names.map((_, i) => first + i) });
  }
  return number + names.length;
}

export const obj: Format = {
  id: 'obj',
  name: 'Wavefront OBJ',
  extensions: ['.obj'],
  syntax: 'native',
  byLines: true,
  sniff(head) {
    const text = latin1(head.subarray(0, 512));
    return /^(\uFEFF|ï»¿)?([ \t]*(#[^\n]*)?\r?\n)*[ \t]*(v|vt|vn|vp|f|g|o|s|l|p|mtllib|usemtl|#)(\s|$)/.test(
      text,
    );
  },
  read(bytes) {
    const reading: Reading = { references: [], problems: [], otherReadings: [] };
    const wide = wideEncoding(bytes);
    if (wide) return readWide(bytes, wide, (narrow) => this.read(narrow));
    let mtllibs = 0;
    const counts = new Map<string, number>();
    const tooLong = eachStatement(bytes, firsts, (s) => {
      const keyword = s.keyword.toLowerCase();
      if (keyword === 'mtllib') {
        mtllibs = readMtllib(s, mtllibs, reading);
        return;
      }
      if (keyword === 'scmd' || keyword === 'csh') {
        const problem: Problem = {
          code: 'runs-a-program',
          message: `A ${keyword} line would run a program when this file is loaded. It is never run here.`,
          span: [s.offset, s.offset + contentEnd(s.line)],
        };
        reading.problems.push(problem);
        return;
      }
      const kind = single[keyword];
      const end = contentEnd(s.line);
      if (kind === undefined || s.rest >= end) return;
      const n = counts.get(keyword) ?? 0;
      counts.set(keyword, n + 1);
      // `call` takes arguments after the name; the others hold one name.
      const to = keyword === 'call' ? s.rest + s.line.slice(s.rest, end).split(/[ \t]/)[0]!.length : end;
      const reference = referenceIn(s, s.rest, to, `${keyword} ${n}`, kind);
      reading.references.push(reference);
      // The name of an object may lack its extension.
      if (keyword.endsWith('_obj') && !/\.obj$/i.test(reference.written))
        reading.otherReadings!.push({
          reference: { ...reference, suffix: '.obj' },
          instead: [reading.references.length - 1],
        });
    });
    reading.problems.push(...tooLong);
    return reading;
  },
  encode(value, at: Reference) {
    if (at.at.startsWith('call ') && /\s/.test(value)) return null;
    // Several names may share an mtllib line: a blank inside a name would split it, so it is escaped as readers accept it.
    const name =
      at.at.startsWith('mtllib') && !/\s/.test(at.written) && /\s/.test(value) && !/\.mtl$/i.test(value)
        ? value.replaceAll(' ', '\\ ')
        : value;
    return encodeName(name, at);
  },
};
