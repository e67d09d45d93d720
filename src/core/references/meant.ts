// What a reference means, whether or not anything is there.

import { folderOf, joinInside, type TreePath, insideOf } from '../files/treePath';
import type { Format, Reference, Syntax } from '../formats/format';
import { normaliseAbsolute, understand } from './written';

/** The file a written path means: a tree path where that lies inside the root, else absolute; null for what has no path. */
export function meaningOf(
  root: string,
  scene: TreePath,
  written: string,
  syntax: Syntax,
): { meant: string; path: string; tail: string } | null {
  const u = understand(written, syntax);
  if (!('path' in u)) return null;
  const inside = u.form === 'relative' ? joinInside(folderOf(scene), u.path) : null;
  if (inside !== null) return { meant: inside, path: u.path, tail: u.tail };
  const absolute = normaliseAbsolute(u.form === 'relative' ? `${root}/${folderOf(scene)}/${u.path}` : u.path);
  return { meant: insideOf(root, absolute) ?? absolute, path: u.path, tail: u.tail };
}

/** Every path inside the root under which a reference would find a file: by its format's rule, and by what is forgiven (see resolve.ts). */
export function placesLookedAt(
  root: string,
  scene: TreePath,
  r: Pick<Reference, 'written' | 'prefix' | 'suffix' | 'syntax'>,
  format: Pick<Format, 'syntax' | 'searches'>,
): TreePath[] {
  const syntax = r.syntax ?? format.syntax;
  const found = new Set<string>();
  for (const value of new Set([r.written, r.written.trim()]))
    for (const as of new Set<Syntax>([syntax, 'uri', 'native'])) {
      const m = meaningOf(root, scene, `${r.prefix ?? ''}${value}`, as);
      if (!m) continue;
      const whole = (p: string) => `${p}${r.suffix ?? ''}`;
      if (!/^(\/|[A-Za-z]:)/.test(m.meant)) found.add(whole(m.meant));
      // Some formats look from the root, too.
      const fromRoot = format.searches ? joinInside('', m.path) : null;
      if (fromRoot) found.add(whole(fromRoot));
    }
  return [...found] as TreePath[];
}
