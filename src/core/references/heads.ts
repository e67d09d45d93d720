// Written paths changed as text: their heads, what they share, a text or a pattern in them.

import type { Syntax } from '../formats/format';
import { percentDecode } from '../text/uri';
import { spell } from './written';

/** A written path with the longest fitting head replaced; null when none fits. */
export function replaceHead(
  written: string,
  syntax: Syntax,
  heads: readonly { from: string; to: string }[],
): string | null {
  const plain = (p: string) =>
    p.replaceAll('\\', '/').replace(/^([A-Za-z]):/, (_, d: string) => `${d.toUpperCase()}:`);
  const raw = plain(written);
  const decoded = syntax === 'uri' ? plain(percentDecode(written)) : raw;
  for (const { from, to } of [...heads].sort((a, b) => b.from.length - a.from.length)) {
    const head = plain(from);
    for (const text of raw === decoded ? [raw] : [raw, decoded]) {
      if (!text.startsWith(head)) continue;
      const rest = text.slice(head.length);
      if (rest !== '' && !head.endsWith('/') && head !== '' && !rest.startsWith('/')) continue;
      if (text === raw) return to + written.slice(written.length - rest.length);
      return to + spell(rest, syntax, written).replace(/^\.\/(?=\/)/, '');
    }
  }
  return null;
}

/** The folders that all written paths begin with, each part with its slash: ['D:/', 'old project/', 'textures/']; [] where they share none. */
export function commonHead(written: readonly string[]): string[] {
  const cut = (w: string) => w.split(/(?<=[\\/])/).slice(0, -1);
  const [first, ...rest] = written.map(cut);
  if (!first) return [];
  let n = first.length;
  for (const parts of rest) while (n > 0 && !first.slice(0, n).every((p, i) => p === parts[i])) n--;
  return first.slice(0, n);
}

/** A pattern as people type it; null where it cannot be read. */
export function patternOf(find: string): RegExp | null {
  try {
    return new RegExp(find, 'gu');
  } catch {
    return null;
  }
}

/** A written path with a text, or what fits a pattern, replaced; null where nothing of it occurs. `$1` in the new text is the first group. */
export function replaceText(
  written: string,
  change: { find: string; replace: string; pattern: boolean },
): string | null {
  const pattern = change.pattern ? patternOf(change.find) : null;
  if (change.pattern && !pattern) return null;
  const after = pattern
    ? written.replace(pattern, change.replace)
    : written.replaceAll(change.find, () => change.replace);
  return after === written || after === '' ? null : after;
}
