// Names that stand for many files: numbered frames and texture tiles.
//
//     wall.<UDIM>.exr     UDIM = 1001 + u + 10·v, u 0..9 (four digits)      wall.<UVTILE>.exr    u1_v1, both from one
//     shot.####.exr       as many digits as marks, longer numbers allowed   shot.%04d.exr        as C's printf
//     shot.<frame>.exr    <f>, {frame}, {04frame}                           clip.###.##.usd      whole and fraction
//
// UDIM and UVTILE after the MaterialX Specification, "Filename Substitutions"; # in clip templates after OpenUSD's value clips; %d after
// ISO C; the others are common practice, no source. A name that exists letter for letter is that file, whatever it looks like.

import { makeLegal } from './portable';

export interface SequencePattern {
  of: 'tiles' | 'frames';
  /** True and the number for names that belong to it: a frame, or a UDIM number for tiles of both kinds. */
  numberOf(name: string): number | null;
}

const escape = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** `width` digits with leading zeros, or more without. */
const digits = (width: number) => (width <= 1 ? '-?\\d+' : `-?(?:\\d{${width}}|[1-9]\\d{${width},})`);

const token = /<UDIM>|<UVTILE>|<(?:frame|f)(\d*)>|\{(?:0?(\d+))?frame\}|%0?(\d*)d|(#+)(?:\.(#+))?|(@{2,})/;

/** What a file name stands for; null for a name of one file. `marks`: false where @ has another meaning. */
export function sequencePattern(name: string, marks = true): SequencePattern | null {
  const m = token.exec(name);
  if (!m || (m[6] !== undefined && !marks)) return null;
  const head = escape(name.slice(0, m.index));
  const rest = escape(name.slice(m.index + m[0].length));
  if (m[0] === '<UDIM>') {
    const all = new RegExp(`^${head}([1-9]\\d{3})${rest}$`, 's');
    return {
      of: 'tiles',
      numberOf: (n) => {
        const f = all.exec(n);
        return f ? Number(f[1]) : null;
      },
    };
  }
  if (m[0] === '<UVTILE>') {
    const all = new RegExp(`^${head}u(\\d+)_v(\\d+)${rest}$`, 's');
    return {
      of: 'tiles',
      numberOf: (n) => {
        const f = all.exec(n);
        return f ? udimOf(Number(f[1]) - 1, Number(f[2]) - 1) : null;
      },
    };
  }
  const width = m[4]?.length ?? m[6]?.length ?? Number(m[1] || m[2] || m[3] || 0);
  const fraction = m[5] === undefined ? '' : `\\.\\d{${m[5].length}}`;
  const all = new RegExp(`^${head}(${digits(width)}${fraction})${rest}$`, 's');
  return {
    of: 'frames',
    numberOf: (n) => {
      const f = all.exec(n);
      return f ? Number(f[1]) : null;
    },
  };
}

/** A name that could be one of a set's, its number made up: 'wall.<UDIM>.png' → 'wall.1001.png'. Null for a name of one file. */
export function sampleOf(name: string): string | null {
  const m = token.exec(name);
  if (!m) return null;
  const number =
    m[0] === '<UDIM>' ? '1001' : m[0] === '<UVTILE>' ? 'u1_v1' : m[5] === undefined ? '1' : '1.0';
  return name.slice(0, m.index) + number + name.slice(m.index + m[0].length);
}

/** The name of the whole set that a chosen file is one of, in the marks that `written` uses: ('wall.<UDIM>.png', 'brick.1001.jpg') → 'brick.<UDIM>.jpg'. Null where `written` is no set, or the file has no number. */
export function setOf(written: string, chosen: string): string | null {
  const mark = token.exec(written)?.[0];
  if (mark === undefined) return null;
  if (sequencePattern(written)?.numberOf(chosen) != null) return written;
  const number = mark === '<UDIM>' ? /1\d{3}(?!\d)/ : mark === '<UVTILE>' ? /u\d+_v\d+/ : /\d+(?=\D*$)/;
  return number.test(chosen) ? chosen.replace(number, () => mark) : null;
}

/** The UDIM number of tile column u (0..9) and row v (from 0). */
export function udimOf(u: number, v: number): number {
  return 1001 + u + 10 * v;
}

const mostGaps = 10_000;

/**
 * Numbers that are missing. Frames: between the first and the last in the smallest step that occurs, or of the range that is asked for.
 * Tiles: between the first and the last of each row that has any. At most 10,000 are told.
 */
export function gapsOf(
  numbers: readonly number[],
  of: 'tiles' | 'frames',
  asked?: readonly [first: number, last: number, step: number],
): number[] {
  const have = new Set(numbers);
  const gaps: number[] = [];
  const fill = (from: number, to: number, step: number) => {
    for (let n = from; n <= to && gaps.length < mostGaps; n += step) if (!have.has(n)) gaps.push(n);
  };
  if (asked) {
    fill(...asked);
    return gaps;
  }
  const sorted = [...have].sort((a, b) => a - b);
  if (of === 'tiles') {
    const rows = new Map<number, number[]>();
    for (const n of sorted) {
      const v = Math.floor((n - 1001) / 10);
      rows.set(v, [...(rows.get(v) ?? []), n]);
    }
    for (const row of rows.values()) fill(row[0]!, row.at(-1)!, 1);
    return gaps;
  }
  // Sub-frames have no step that could be known.
  if (sorted.length < 2 || sorted.some((n) => !Number.isInteger(n))) return [];
  let step = Infinity;
  for (let i = 1; i < sorted.length; i++) step = Math.min(step, sorted[i]! - sorted[i - 1]!);
  // Two frames tell no step of their own.
  fill(sorted[0]!, sorted.at(-1)!, sorted.length < 3 ? 1 : step);
  return gaps;
}

/** What a sequence or set of tiles is called without its numbers: the name of a folder of its own. */
export function setName(pattern: string): string {
  const bare = pattern
    .replace(/[<{(]?(UDIM|UVTILE|frame|f)\d*[>})]?|%0?\d*d|[#@]+/gi, '')
    .replace(/[._-]+(?=\.[^.]*$|$)/, '')
    .replace(/\.[^.]*$/, '');
  return makeLegal(bare) || 'sequence';
}
