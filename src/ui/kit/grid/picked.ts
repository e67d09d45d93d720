// Which rows of a list that is all here are picked, by their key; kept for this window, so that a look at the plan does not lose them.

import { useMemo } from 'react';
import { z } from 'zod';
import { useKept } from '../kept';
import type { Selection } from './Grid';

const keys = z.array(z.string());

/**
 * `keyAt`: the key of the row at a line; null: the line is a heading, of the rows below it up to the next one. Ticked may be what is chosen (`picks`), or what
 * is left of all (`leaves`): then what is kept are those left out.
 */
export function usePicked(
  name: string,
  how: 'picks' | 'leaves',
  lines: number,
  keyAt: (line: number) => string | null,
): { selection: Selection; kept: ReadonlySet<string>; set: (keys: Iterable<string>) => void } {
  const [list, setList] = useKept(name, keys, []);
  const kept = useMemo(() => new Set(list), [list]);
  const set = (to: Iterable<string>) => setList([...to]);
  const isTicked = (key: string) => kept.has(key) === (how === 'picks');
  const between = (from: number, to: number) => {
    const out: string[] = [];
    for (let line = from; line <= to; line++) {
      const key = keyAt(line);
      if (key !== null) out.push(key);
    }
    return out;
  };
  /** Ticks them, or takes their ticks away. */
  const tick = (these: readonly string[], on: boolean) => {
    const next = new Set(kept);
    for (const key of these)
      if (on === (how === 'picks')) next.add(key);
      else next.delete(key);
    set(next);
  };
  const below = (heading: number) => {
    let end = heading + 1;
    while (end < lines && keyAt(end) !== null) end++;
    return between(heading + 1, end - 1);
  };
  return {
    kept,
    set,
    selection: {
      has: (line) => {
        const key = keyAt(line);
        return key !== null && isTicked(key);
      },
      toggle: (line) => {
        const key = keyAt(line);
        const these = key === null ? below(line) : [key];
        tick(these, !these.every(isTicked));
      },
      range: (from, to) => tick(between(from, to), true),
      all: () => tick(between(0, lines - 1), true),
      clear: () => tick(between(0, lines - 1), false),
    },
  };
}
