// A second arrival: what came is held against what lies here, file by file, with what arrived the first time between them; what was chosen is taken over
// as a plan.

import type { Note, Plan, Step } from '../changes/plan';
import { foldersFor } from '../changes/plan';
import type { Digest } from '../files/digest';
import type { OutsideFiles } from '../files/fileTree';
import { folderOf, join, nameOf, type TreePath } from '../files/treePath';
import { foldName, freeName } from '../names/portable';
import { count } from '../text/figures';
import { foldedNamesIn, stateOf, type Workspace } from './workspace';

/**
 * How a file stands. new: only there; same; theirs: changed there only; ours: changed here only; both: changed on both sides, or nobody knows on which;
 * gone: it was taken away there; added: only here.
 */
export type AgainState = 'new' | 'same' | 'theirs' | 'ours' | 'both' | 'gone' | 'added';

export interface AgainFile {
  path: TreePath;
  is: AgainState;
  /** Sizes in bytes, times in ms; null: it is not there. */
  here: { size: number; modified: number } | null;
  there: { size: number; modified: number } | null;
}

/** What arrived the first time: as it came, and as it was once it was repaired here. */
export type Base = ReadonlyMap<string, { came: Digest; repaired: Digest | null }>;

interface Side {
  size: number;
  modified: number;
  digest: Digest;
}

/** Holds both sides against each other. */
export function againstIncoming(
  here: ReadonlyMap<string, Side>,
  there: ReadonlyMap<string, Side>,
  base: Base | null,
): AgainFile[] {
  const sideOf = (s: Side | undefined) => (s ? { size: s.size, modified: s.modified } : null);
  return [...new Set([...here.keys(), ...there.keys()])].sort().map((path): AgainFile => {
    const [h, t, b] = [here.get(path), there.get(path), base?.get(path)];
    return { path: path as TreePath, is: stateFor(h, t, b), here: sideOf(h), there: sideOf(t) };
  });
}

function stateFor(
  h: Side | undefined,
  t: Side | undefined,
  b: { came: Digest; repaired: Digest | null } | undefined,
): AgainState {
  if (!t) return b ? 'gone' : 'added';
  // What was taken away here and not changed there stays away.
  if (!h) return b && b.came === t.digest ? 'ours' : 'new';
  if (h.digest === t.digest) return 'same';
  if (!b) return 'both';
  const isOurs = h.digest !== b.came && h.digest !== b.repaired;
  const isTheirs = t.digest !== b.came;
  if (isOurs && isTheirs) return 'both';
  // Only the repair tells them apart.
  if (!isOurs && !isTheirs) return 'same';
  return isTheirs ? 'theirs' : 'ours';
}

/** What becomes of one: taken over ours, or beside it under another name. */
export type AgainChoice = 'take' | 'beside';

/** The plan for what was chosen. `from`: the folder, absolute, in which what came lies. */
export async function planArriveAgain(
  workspace: Workspace,
  from: string,
  choices: ReadonlyMap<string, AgainChoice>,
  outside: Pick<OutsideFiles, 'stat'>,
): Promise<Plan> {
  const steps: Step[] = [];
  const notes: Note[] = [];
  const made = new Set<string>();
  const taken = new Map<string, Set<string>>();
  for (const [at, how] of choices) {
    const stat = await outside.stat(`${from}/${at}`);
    if (!stat) {
      notes.push({
        level: 'blocker',
        code: 'not-found',
        message: `${at} is not among what came any more.`,
        path: at,
      });
      continue;
    }
    const path = how === 'take' ? (at as TreePath) : await besides(workspace, at as TreePath, taken);
    const before = await stateOf(workspace.tree, path);
    for (const step of await missingFolders(workspace, path, made)) steps.push(step);
    steps.push({
      do: 'put',
      path,
      before,
      size: stat.size,
      modified: stat.modified,
      from: { from: 'outside', path: `${from}/${at}`, state: { ...stat, digest: null }, pieces: null },
    });
  }
  if (steps.length === 0 && notes.length === 0)
    notes.push({ level: 'info', code: 'nothing', message: 'Nothing was chosen.' });
  const puts = steps.filter((s) => s.do === 'put');
  return {
    kind: 'arrive',
    title:
      puts.length === 1 ? `Take ${nameOf(puts[0]!.path)} over` : `Take ${count(puts.length, 'file')} over`,
    steps,
    notes,
    paths: [],
    readiness: null,
  };
}

async function missingFolders({ tree }: Workspace, path: TreePath, made: Set<string>): Promise<Step[]> {
  const there = new Set<string>();
  for (let at = folderOf(path); at !== ''; at = folderOf(at))
    if ((await tree.kind(at)) === 'folder') there.add(at);
  return foldersFor(path, (f) => {
    const isThere = there.has(f) || made.has(f);
    made.add(f);
    return isThere;
  });
}

async function besides(
  workspace: Workspace,
  at: TreePath,
  taken: Map<string, Set<string>>,
): Promise<TreePath> {
  const folder = folderOf(at);
  const names = taken.get(folder) ?? (await foldedNamesIn(workspace.tree, folder));
  taken.set(folder, names);
  const name = freeName(nameOf(at), (n) => names.has(foldName(n)));
  names.add(foldName(name));
  return join(folder, name);
}
