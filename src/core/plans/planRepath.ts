// Rewrites written paths as asked: one head for another, by a map of heads, to relative, or to absolute.

import type { Note, PathChange, Plan, Step } from '../changes/plan';
import { comparePaths, isWithin, nameOf, type TreePath } from '../files/treePath';
import { fullPath, type Format } from '../formats/format';
import { formatOfName } from '../formats/formats';
import { resolveReference, type Setting } from '../references/resolve';
import { filesOf, followChain, type JudgedReference } from '../references/scan';
import { keyOf } from '../references/key';
import { SceneSet, type Scene } from './sceneSet';
import { patternOf, replaceHead, replaceText } from '../references/heads';
import { spell } from '../references/written';
import { isGuess, tailOf, writtenAbsolute, writtenRelative, type Rewriting } from './rewrite';
import type { Workspace } from './workspace';
import { titleOfPaths } from './titles';

/**
 * How paths shall change. `relative`: measured from the scene's folder as formats do, or from the root as some programs do. `library`: what lies in a
 * library begins with its name in braces, which `absolute` writes out again. Heads are compared with '\' read as '/', drive letters in any case, at a folder boundary.
 */
export type Repath =
  | { how: 'heads'; heads: readonly { from: string; to: string }[] }
  | { how: 'text'; find: string; replace: string; pattern: boolean }
  | { how: 'exact'; paths: readonly { scene: string; at: string; written: string }[] }
  | { how: 'relative'; base?: 'scene' | 'root' }
  | { how: 'absolute' }
  | { how: 'library' };

export interface RepathRequest {
  scenes: readonly TreePath[];
  change: Repath;
  /** Only these references; absent: all of the scenes. */
  only?: readonly { scene: string; at: string }[] | undefined;
  /** True: all references, too, of the files inside the root that these lead to, and so on. */
  nested?: boolean | undefined;
  /** Only written paths for which this is true. */
  match?: ((written: string) => boolean) | undefined;
}

/** A plan to rewrite paths being worked out. */
interface Work {
  workspace: Workspace;
  request: RepathRequest;
  scenes: SceneSet;
  notes: Note[];
  /** New paths that were given one by one. */
  exact: ReadonlyMap<string, string>;
  /** References that were named; null: all. */
  only: ReadonlySet<string> | null;
  /** Scenes that come with the named ones. */
  nested: ReadonlySet<TreePath>;
}

/** The plan that rewrites paths in the given scenes. Paths that would then not be found are named. */
export async function planRepath(workspace: Workspace, request: RepathRequest): Promise<Plan> {
  const { change } = request;
  const scenes = await SceneSet.of(workspace, {}, request.scenes);
  const only = request.only ? new Set(request.only.map((o) => keyOf(o.scene, o.at))) : null;
  const nested = request.nested
    ? await nestedScenes(workspace, scenes.setting, request.scenes, only ?? undefined)
    : new Set<TreePath>();
  const exact = new Map(
    change.how === 'exact' ? change.paths.map((p) => [keyOf(p.scene, p.at), p.written]) : [],
  );
  const work: Work = { workspace, request, scenes, notes: [], exact, only, nested };
  const { notes } = work;
  if (change.how === 'text' && change.pattern && !patternOf(change.find))
    notes.push({
      level: 'blocker',
      code: 'bad-pattern',
      message: `“${change.find}” is no pattern that can be read.`,
    });
  const steps: Step[] = [];
  const paths: PathChange[] = [];
  for (const path of [...new Set([...request.scenes, ...nested])].sort(comparePaths)) {
    const scene = await scenes.read(path);
    if (!scene) {
      notes.push({
        level: 'blocker',
        code: 'unreadable',
        message: scenes.unread.get(path)?.message ?? `${path} is no scene file.`,
        path,
      });
      continue;
    }
    const done = await scenes.rewriteStep(scene, await changesIn(work, scene));
    notes.push(...done.notes);
    paths.push(...done.paths);
    if (done.step) steps.push(done.step);
  }
  return {
    kind: 'repath',
    title:
      paths.length === 1
        ? titleOfPaths('Change the path to', paths, 'path')
        : titleOfPaths('Change', paths, 'path'),
    steps,
    notes,
    paths,
    readiness: null,
  };
}

/** The new paths of one scene; of those that will not be found then, a note. */
async function changesIn(work: Work, scene: Scene): Promise<Rewriting[]> {
  const { workspace, request, only, notes } = work;
  const { path, reading } = scene;
  const rewritings: Rewriting[] = [];
  const choices = new Set<number>();
  for (const reference of scene.references) {
    if (request.match && !request.match(reference.written)) continue;
    const isNamed = only?.has(keyOf(path, reference.at)) === true;
    if (only && !isNamed && !work.nested.has(path)) continue;
    if (reference.choice !== undefined) choices.add(reference.choice);
    if (!isNamed && request.change.how !== 'heads' && isGuess(reference, path, notes)) continue;
    const written = newPath(workspace, reference, path, reading, request.change, work.exact);
    if (written === null || written === fullPath(reference)) continue;
    rewritings.push({ reference, written });
    if (!(await willBeFound(work, scene, reference, written)))
      notes.push({
        level: 'warning',
        code: 'will-be-missing',
        message: `${written} is not there now; ${nameOf(path)} will miss it.`,
        path,
      });
  }
  // What stands beside the one that is used goes along where the text itself says what becomes of it.
  if (request.change.how === 'heads' || request.change.how === 'text')
    for (const reference of scene.alternatives) {
      if (!choices.has(reference.choice!)) continue;
      const written = newPath(workspace, reference, path, reading, request.change, work.exact);
      if (written !== null && written !== fullPath(reference)) rewritings.push({ reference, written });
    }
  return rewritings;
}

async function willBeFound(
  { scenes }: Work,
  { path, reading }: Scene,
  reference: JudgedReference,
  written: string,
): Promise<boolean> {
  const { suffix } = reference;
  const value = suffix && written.endsWith(suffix) ? written.slice(0, -suffix.length) : written;
  const asked = { ...reference, prefix: undefined, written: value };
  const then = await resolveReference(asked, reading.format, path, scenes.setting);
  return then.target !== null || then.state === 'remote';
}

function newPath(
  workspace: Workspace,
  r: JudgedReference,
  scene: TreePath,
  reading: { format: Format },
  change: Repath,
  exact: ReadonlyMap<string, string>,
): string | null {
  const syntax = r.syntax ?? reading.format.syntax;
  if (change.how === 'heads') return replaceHead(fullPath(r), syntax, change.heads);
  if (change.how === 'text') return replaceText(fullPath(r), change);
  if (change.how === 'exact') return exact.get(keyOf(scene, r.at)) ?? null;
  if (r.target === null) return null;
  if (change.how === 'library') {
    const library = r.inside ? undefined : workspace.file.libraries.find((l) => isWithin(r.target!, l.path));
    return library
      ? spell(`{${library.name}}/${r.target.slice(library.path.length + 1)}`, syntax, r.written) +
          tailOf(r, syntax)
      : null;
  }
  if (change.how === 'absolute')
    return writtenAbsolute(reading, r.inside ? `${workspace.root}/${r.target}` : r.target, r);
  if (r.inside)
    return change.base === 'root'
      ? spell(r.target, syntax, r.written) + tailOf(r, syntax)
      : writtenRelative(reading, scene, r.target, r);
  // Outside the root a relative path is possible on the same drive only, and never shorter than a whole one by the root.
  const drive = (p: string) => /^([A-Za-z]:|\/\/[^/]+)/.exec(p)?.[1]?.toLowerCase() ?? '';
  return change.base === 'root' || drive(r.target) !== drive(workspace.root)
    ? null
    : writtenRelative(reading, `${workspace.root}/${scene}`, r.target, r);
}

/** Scenes inside the root that the chosen references lead to, and those that these lead to. */
async function nestedScenes(
  workspace: Workspace,
  setting: Setting,
  scenes: readonly TreePath[],
  only: ReadonlySet<string> | undefined,
): Promise<Set<TreePath>> {
  const begin = new Set<TreePath>();
  for (const report of await followChain(workspace.tree, null, setting, scenes)) {
    if (!scenes.includes(report.path as TreePath)) continue;
    for (const r of report.references)
      if (!only || only.has(keyOf(report.path, r.at)))
        for (const file of filesOf(r)) if (formatOfName(file)) begin.add(file as TreePath);
  }
  return new Set(
    (await followChain(workspace.tree, null, setting, [...begin])).map((report) => report.path as TreePath),
  );
}
