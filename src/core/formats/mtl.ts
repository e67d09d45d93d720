// Wavefront MTL, the material file beside an OBJ. References are the last argument of map_* and its kin:
//
//     map_Kd -s 2 2 1 -bm 0.5 hull\Paint 01.png
//                             ^ span -------^
//
// Names may hold blanks: a name is what is left of the line once known options and their numbers are passed. Options also
// occur behind the name; the full rest is then offered as another reading, taken where such a file exists.
// Source: the published MTL specification (Wavefront, 1995), from memory; checked against readers in common use.

import { latin1, wideEncoding } from '../text/bytes';
import type { Format, Reading } from './format';
import { contentEnd, eachStatement, encodeName, referenceIn, readWide, type Statement } from './lines';

const firsts = new Set([...'mbdrnkt'].map((c) => c.charCodeAt(0)));
const alone = new Set(['bump', 'disp', 'decal', 'refl', 'norm']);
const number = /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$/;

// Option → how many arguments at most, and which words it takes; left-out numbers are common for -o -s -t and -mm.
const options: Record<string, { most: number; fits: (word: string) => boolean }> = {
  '-blendu': { most: 1, fits: (w) => /^(on|off)$/i.test(w) },
  '-blendv': { most: 1, fits: (w) => /^(on|off)$/i.test(w) },
  '-cc': { most: 1, fits: (w) => /^(on|off)$/i.test(w) },
  '-clamp': { most: 1, fits: (w) => /^(on|off)$/i.test(w) },
  '-bm': { most: 1, fits: (w) => number.test(w) },
  '-boost': { most: 1, fits: (w) => number.test(w) },
  '-texres': { most: 1, fits: (w) => number.test(w) },
  '-mm': { most: 2, fits: (w) => number.test(w) },
  '-o': { most: 3, fits: (w) => number.test(w) },
  '-s': { most: 3, fits: (w) => number.test(w) },
  '-t': { most: 3, fits: (w) => number.test(w) },
  '-imfchan': { most: 1, fits: (w) => /^[rgbmlz]$/i.test(w) },
  '-type': { most: 1, fits: (w) => /^(sphere|cube_(top|bottom|front|back|left|right))$/i.test(w) },
  '-colorspace': { most: 1, fits: () => true },
};

// K? and Tf hold colours, three numbers, but for spectral curves; most lines of a material are such.
function mayName(b: Uint8Array, at: number): boolean {
  const first = b[at]! | 0x20;
  if (first !== 0x6b && first !== 0x74) return first !== 0x6e || (b[at + 1]! | 0x20) !== 0x73; // Ns
  let i = at;
  while (b[i]! > 0x20) i++;
  while (b[i] === 0x20 || b[i] === 0x09 || b[i] === 0x5c || b[i] === 0x0a || b[i] === 0x0d) i++;
  return (b[i]! | 0x20) === 0x73;
}

interface Word {
  text: string;
  from: number;
  to: number;
}

/** Index of the first word after leading options. The last word is never taken: a file may be called 0.1. */
function afterOptions(words: readonly Word[], from: number): number {
  let i = from;
  while (i < words.length - 1) {
    const option = options[words[i]!.text.toLowerCase()];
    if (!option) break;
    i++;
    for (let n = 0; n < option.most && i < words.length - 1 && option.fits(words[i]!.text); n++) i++;
  }
  return i;
}

/** Index of the first of trailing options with valid arguments; words.length when there are none. */
function trailingOptions(words: readonly Word[], name: number): number {
  for (let i = name + 1; i < words.length; i++) {
    if (!options[words[i]!.text.toLowerCase()]) continue;
    let j = i;
    while (j < words.length) {
      const option = options[words[j]!.text.toLowerCase()];
      if (!option) break;
      let n = 0;
      j++;
      for (; n < option.most && j < words.length && option.fits(words[j]!.text); n++) j++;
      if (n === 0) return words.length;
    }
    if (j === words.length) return i;
  }
  return words.length;
}

function readMap(s: Statement, at: string, reading: Reading): void {
  const end = contentEnd(s.line);
  const words = [...s.line.slice(s.rest, end).matchAll(/[^ \t]+/g)].map((m) => ({
    text: m[0],
    from: s.rest + m.index,
    to: s.rest + m.index + m[0].length,
  }));
  if (words.length === 0) return;
  const name = afterOptions(words, 0);
  const tail = trailingOptions(words, name);
  const index = reading.references.length;
  reading.references.push(referenceIn(s, words[name]!.from, words[tail - 1]!.to, at, 'texture'));
  if (tail < words.length)
    reading.otherReadings!.push({
      reference: referenceIn(s, words[name]!.from, end, at, 'texture'),
      instead: [index],
    });
}

export const mtl: Format = {
  id: 'mtl',
  name: 'Wavefront MTL',
  extensions: ['.mtl'],
  syntax: 'native',
  sniff(head) {
    return /^(ï»¿)?([ \t]*(#[^\n]*)?\r?\n)*[ \t]*newmtl\s/.test(latin1(head.subarray(0, 512)));
  },
  read(bytes) {
    const reading: Reading = { references: [], problems: [], otherReadings: [] };
    const wide = wideEncoding(bytes);
    if (wide) return readWide(bytes, wide, (narrow) => this.read(narrow));
    let material = '';
    const seen = new Map<string, number>();
    const tooLong = eachStatement(
      bytes,
      firsts,
      (s) => {
        const keyword = s.keyword.toLowerCase();
        if (keyword === 'newmtl') {
          material = s.line.slice(s.rest, contentEnd(s.line));
          return;
        }
        const place = `newmtl ${material} / ${s.keyword}`;
        const n = (seen.get(place) ?? 0) + 1;
        const at = n > 1 ? `${place} (${n})` : place;
        if ((keyword.startsWith('map_') && keyword !== 'map_aat') || alone.has(keyword)) {
          seen.set(place, n);
          readMap(s, at, reading);
        } else if (/^(ka|kd|ks|tf)$/.test(keyword)) {
          // A spectral curve: Kd spectral file.rfl [factor]
          const match = /^spectral[ \t]+([^ \t]+)/.exec(s.line.slice(s.rest, contentEnd(s.line)));
          if (!match) return;
          seen.set(place, n);
          const from = s.rest + match[0].length - match[1]!.length;
          reading.references.push(referenceIn(s, from, from + match[1]!.length, at, 'other'));
        }
      },
      mayName,
    );
    reading.problems.push(...tooLong);
    return reading;
  },
  encode(value, at) {
    // A spectral curve's name ends at the first blank.
    return at.kind === 'other' && /[ \t]/.test(value) ? null : encodeName(value, at);
  },
};
