// What is still needed when some of it is left out: without a scene that stays behind, what only that scene needs stays behind as well.

import type { Closure, LeftOut, LeftWhy, Need, NeededFile } from './closure';

type Reached = Pick<NeededFile, 'from' | 'chosen' | 'neededBy' | 'state' | 'set'>;

export interface Reach<F> {
  files: ReadonlyMap<string, F>;
  left: readonly LeftOut[];
}

/**
 * `unticked` and `notUsed`: files, or whole sets by their path with marks. What was chosen comes along though nothing
 * needs it. The order stays.
 */
export function reach<F extends Reached>(
  all: Reach<F> & Pick<Closure, 'sets'>,
  unticked: ReadonlySet<string>,
  notUsed: ReadonlySet<string> = new Set(),
): Reach<F> {
  const spread = (paths: ReadonlySet<string>, why: LeftWhy) =>
    [...paths].flatMap((path) => [path, ...(all.sets.get(path) ?? [])].map((p) => [p, why] as const));
  const out = new Map([...spread(notUsed, 'not-used'), ...spread(unticked, 'unticked')]);
  const reached = reachedIn(all.files, out);
  const stays = (needs: readonly Need[]) => {
    const kept = needs.filter((n) => reached.has(n.scene));
    return kept.length === needs.length ? (needs as Need[]) : kept;
  };
  const left: LeftOut[] = [];
  for (const l of all.left) {
    const neededBy = stays(l.neededBy);
    if (neededBy.length > 0 || l.neededBy.length === 0) left.push({ ...l, neededBy });
  }
  const files = new Map<string, F>();
  const bySet = new Map<string, LeftOut>();
  for (const [from, file] of all.files) {
    const neededBy = stays(file.neededBy);
    const why = out.get(from);
    if (reached.has(from)) files.set(from, neededBy === file.neededBy ? file : { ...file, neededBy });
    else if (why && (file.chosen || neededBy.length > 0)) {
      const key = file.set === null ? null : `${why} ${file.set}`;
      const known = key === null ? undefined : bySet.get(key);
      if (known) {
        known.files++;
        known.size += file.state.size;
      } else {
        const one: LeftOut = {
          why,
          path: file.set ?? from,
          files: 1,
          size: file.state.size,
          via: null,
          neededBy,
        };
        left.push(one);
        if (key !== null) bySet.set(key, one);
      }
    }
  }
  return { files, left };
}

/** What each scene needs, by the scene. */
export function neededIn<F extends Pick<NeededFile, 'neededBy'>>(files: Iterable<F>): Map<string, F[]> {
  const needs = new Map<string, F[]>();
  for (const file of files)
    for (const { scene } of file.neededBy) {
      const known = needs.get(scene);
      if (known) known.push(file);
      else needs.set(scene, [file]);
    }
  return needs;
}

function reachedIn(files: ReadonlyMap<string, Reached>, out: ReadonlyMap<string, LeftWhy>): Set<string> {
  const needs = neededIn(files.values());
  const reached = new Set<string>();
  const waiting = [...files.values()].filter((f) => f.chosen).map((f) => f.from);
  for (let from = waiting.pop(); from !== undefined; from = waiting.pop()) {
    if (reached.has(from) || out.has(from)) continue;
    reached.add(from);
    for (const file of needs.get(from) ?? []) waiting.push(file.from);
  }
  return reached;
}

/** A closure without what is left out. */
export const leaveOut = (
  all: Closure,
  unticked: ReadonlySet<string> = new Set(),
  notUsed: ReadonlySet<string> = new Set(),
): Closure => (unticked.size + notUsed.size > 0 ? { ...all, ...reach(all, unticked, notUsed) } : all);
