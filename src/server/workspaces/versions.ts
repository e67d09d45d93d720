// Versions of scenes with their sizes, times and notes.

import type { TreePath } from '@/core/files/treePath';
import { readSeries, versionNotePath } from '@/core/plans/versionCopy';
import { nextVersion } from '@/core/versions/series';
import { parseNumbered } from '@/core/names/counters';
import { nameOf } from '@/core/files/treePath';
import { versionNote } from '@/wire/versions';
import type { ScanFound } from '@/wire/jobs';
import type { VersionsView } from '@/wire/views';
import type { OpenWorkspace } from './open';

async function noteOf(workspace: OpenWorkspace, version: TreePath): Promise<string> {
  const at = versionNotePath(version);
  if ((await workspace.tree.kind(at)) !== 'file') return '';
  try {
    return versionNote.parse(JSON.parse(new TextDecoder().decode(await workspace.tree.read(at)))).note;
  } catch {
    return '';
  }
}

/** All versions of a scene, newest number first. Sizes in bytes, times in ms. */
export async function versionsOf(workspace: OpenWorkspace, scene: TreePath): Promise<VersionsView> {
  const series = await readSeries(workspace, scene);
  const versions: VersionsView['versions'] = [];
  for (const v of series.versions) {
    const stat = await workspace.tree.stat(v.path);
    if (stat)
      versions.push({
        number: v.number,
        path: v.path,
        size: stat.size,
        modified: stat.modified,
        note: await noteOf(workspace, v.path),
      });
  }
  return {
    scene,
    next: nextVersion(series).path,
    versions: versions.reverse(),
    total: versions.reduce((s, v) => s + v.size, 0),
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
  return last && { ...last, note: await noteOf(workspace, last.path as TreePath) };
}
