// Points missing references to where their files are now. Only what is sure is taken: one file of that name, or one whose folders fit
// better than any other's. What is less sure (two alike, a near spelling) is named and left.

import type { Note, PathChange, Plan, Step } from '../changes/plan';
import type { CancelSignal, OutsideFiles } from '../files/fileTree';
import { nameOf, type TreePath } from '../files/treePath';
import { fullPath } from '../formats/format';
import { NameIndex, sureOne } from '../references/candidates';
import { isReady } from '../references/resolve';
import { judge, ownFolder, readScene, scenePaths } from '../references/scan';
import { spell, understand } from '../references/written';
import { isGuess, rewrite, writtenRelative, type Rewriting } from './rewrite';
import { settingOf, stateOf, type Workspace } from './workspace';

export interface RelinkRequest {
  /** Folders outside the root to look in, absolute, with all below them. */
  search: readonly string[];
  signal?: CancelSignal | undefined;
}

const mostSearched = 1_000_000;

async function filesBelow(outside: OutsideFiles, folder: string, into: (path: string) => void, signal?: CancelSignal): Promise<void> {
  const waiting = [folder];
  for (let n = 0; waiting.length > 0 && n < mostSearched; n++) {
    signal?.throwIfAborted();
    const at = waiting.pop()!;
    for (const e of (await outside.entries(at)) ?? []) (e.kind === 'folder' ? (p: string) => waiting.push(p) : into)(`${at === '/' ? '' : at}/${e.name}`);
  }
}

/** The plan that points missing references, and those in wrong letters, to the files that are meant. */
export async function planRelink(workspace: Workspace, request: RelinkRequest): Promise<Plan> {
  const setting = settingOf(workspace);
  const known = new NameIndex();
  for await (const f of workspace.tree.list()) if (!f.path.startsWith(`${ownFolder}/`)) known.add(f.path, true);
  for (const folder of request.search) await filesBelow(workspace.outside, folder, (path) => known.add(path, false), request.signal);
  const steps: Step[] = [];
  const paths: PathChange[] = [];
  const notes: Note[] = [];
  let [of, ready, gained] = [0, 0, 0];
  for (const path of await scenePaths(workspace.tree)) {
    request.signal?.throwIfAborted();
    const reading = await readScene(workspace.tree, path);
    if (!reading || !('format' in reading)) continue;
    const rewritings: Rewriting[] = [];
    for (const reference of (await judge(path, reading, setting)).references) {
      of++;
      if (isReady(reference)) ready++;
      if ((reference.state !== 'missing' && reference.state !== 'case') || isGuess(reference, path, notes)) continue;
      const syntax = reference.syntax ?? reading.format.syntax;
      const understood = understand(fullPath(reference), syntax);
      if (!('path' in understood)) continue;
      const candidates = reference.state === 'case' ? [{ path: reference.target!, inside: true, reason: 'same name in other letters' as const, folders: 0, neighbours: 0, size: null, isOtherSize: false, score: 100 }] : known.candidatesFor(understood.path);
      const sure = sureOne(candidates);
      if (!sure) {
        notes.push({ level: 'warning', code: candidates.length > 0 ? 'not-sure' : 'missing', path, message: candidates.length === 0 ? `${fullPath(reference)} was found nowhere.`
          : `${fullPath(reference)} could be ${candidates.slice(0, 3).map((c) => `${c.path} (${c.reason})`).join(', ')}; it is left for you to choose.` });
        continue;
      }
      const written = sure.inside ? writtenRelative(reading, path, sure.path, reference) : spell(sure.path, syntax, reference.written) + understood.tail;
      rewritings.push({ reference, written });
      if (sure.inside) gained++;
      else notes.push({ level: 'info', code: 'outside', path, message: `${nameOf(sure.path)} is found outside the root, at ${sure.path}; make it travel to bring it in.` });
    }
    if (rewritings.length === 0) continue;
    const state = (await stateOf(workspace.tree, path as TreePath))!;
    const done = rewrite(reading, state.size, rewritings, path);
    notes.push(...done.notes);
    paths.push(...done.paths);
    if (done.pieces) steps.push({ do: 'put', path, before: state, size: done.size, modified: null, from: { from: 'tree', path, state, pieces: done.pieces } });
  }
  return { kind: 'relink', title: `Relink ${paths.length} ${paths.length === 1 ? 'reference' : 'references'}`, steps, paths, notes, readiness: { before: ready, after: ready + gained, of } };
}
