// Versions of scenes with their sizes, times and notes.

import type { TreePath } from '@/core/files/treePath';
import { allSeries, isChanged } from '@/core/plans/planSave';
import { readNote, readSeries } from '@/core/plans/versionFiles';
import { parseNumbered } from '@/core/names/counters';
import { nameOf } from '@/core/files/treePath';
import type { ScanFound } from '@/wire/jobs';
import { blindStretches, reachesBack, sceneNets, usualNet } from '@/core/versions/net';
import type { NetView, SeriesView, VersionsView } from '@/wire/views';
import { netLines } from './net';
import type { OpenWorkspace } from './open';
import { otherSaves } from './otherSaves';

/** All versions of a scene, newest number first. Sizes in bytes, times in ms. */
export async function versionsOf(workspace: OpenWorkspace, asked: TreePath): Promise<VersionsView> {
  const series = await readSeries(workspace, asked);
  const versions: VersionsView['versions'] = [];
  for (const v of series.versions) {
    const note = await readNote(workspace, v.path);
    const stored = v.compact ? note?.compact?.at(-1) : undefined;
    const stat = stored ?? (await workspace.tree.stat(v.path));
    if (stat)
      versions.push({
        number: v.number,
        path: v.path,
        size: stat.size,
        modified: stat.modified,
        note: note?.note ?? '',
        saved: note ? Date.parse(note.saved) || null : null,
        by: note?.by ?? null,
        compact: v.compact === true,
      });
  }
  const present = await workspace.tree.stat(series.scene);
  return {
    scene: series.scene,
    habit: series.habit.kind,
    pattern: series.habit.pattern,
    present: present && { size: present.size, modified: present.modified },
    changed: present !== null && (await isChanged(workspace, series)),
    next: series.next.path,
    versions: versions.reverse(),
    total: versions.reduce((s, v) => s + (v.compact ? 0 : v.size), 0),
  };
}

/** Every series of a workspace, for choosing one: the scene that is worked on, how many versions it has, and the number of the last. */
export async function seriesList(workspace: OpenWorkspace): Promise<SeriesView[]> {
  const found: SeriesView[] = [];
  for (const { scene, versions } of await allSeries(workspace)) {
    const stat = await workspace.tree.stat(scene).catch(() => null);
    const last = versions.at(-1)?.number ?? null;
    found.push({ scene, versions: versions.length, last, modified: stat?.modified ?? 0 });
  }
  return found;
}

/** What the net holds of a scene's series, under whichever of its names. */
export async function netOf(workspace: OpenWorkspace, asked: TreePath): Promise<NetView> {
  const settings = workspace.file.net ?? null;
  const series = await readSeries(workspace, asked);
  const lines = await netLines(workspace.tree);
  const nets = sceneNets(lines);
  const names = new Set([asked, series.scene, ...series.versions.map((v) => v.path)]);
  const own = [...names].flatMap((name) => nets.get(name) ?? []);
  // By the name under which they are found now: a scene may have been renamed since.
  const states = [...names]
    .flatMap((name) => (nets.get(name)?.states ?? []).map((s) => ({ ...s, scene: name })))
    .sort((a, b) => b.at - a.at);
  const since = states.at(-1)?.at ?? Infinity;
  const blind = blindStretches(lines, settings ?? usualNet).filter((h) => h.to > since);
  const looked = lines.reduce((last, l) => (l.line === 'run' ? Math.max(last, l.to) : last), 0);
  return {
    settings,
    states: states.map((s) => ({
      at: s.at,
      scene: s.scene,
      size: s.files.reduce((sum, f) => sum + f.size, 0),
      broken: s.broken,
      files: s.files.length,
    })),
    holes: [...own.flatMap((n) => n.holes), ...blind]
      .map(({ from, to, why, message }) => ({ from, to, why, message }))
      .sort((a, b) => a.from - b.from),
    back: reachesBack(states, settings ?? usualNet)?.at ?? null,
    looked: looked || null,
    others: await otherSaves(workspace, series),
  };
}

/** The numbered scene that was saved last, of those given with their sizes and times. */
export async function lastVersion(
  workspace: OpenWorkspace,
  scenes: Iterable<readonly [path: TreePath, stat: { size: number; modified: number }]>,
): Promise<ScanFound['lastVersion']> {
  let last: ScanFound['lastVersion'] = null;
  for (const [path, { size, modified }] of scenes)
    if ((last === null || modified > last.modified) && parseNumbered(nameOf(path)))
      last = { path, size, modified, note: '' };
  return last && { ...last, note: (await readNote(workspace, last.path as TreePath))?.note ?? '' };
}
