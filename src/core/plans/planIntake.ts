// The holding area: packs are copied into it as they are.

import { foldersFor, type Note, type PathChange, type Plan, type Step } from '../changes/plan';
import { absoluteTarget, closureOf, type Source } from '../collect/closure';
import type { CancelSignal, Entry } from '../files/fileTree';
import { ownFolder } from '../files/records';
import { folderOf, join, nameOf, relativePath, treePath, type TreePath } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { isArchive } from '../names/archives';
import { isLitter, litterSaid } from '../names/litter';
import { checkName, foldName, freeName, makeLegal } from '../names/portable';
import { contentAt } from './contentAt';
import { foldedNamesIn, settingOf, type Workspace } from './workspace';

/** The holding area of a workspace: the home of what is not filed yet. */
export function intakeOf(workspace: Pick<Workspace, 'file'>): TreePath {
  return treePath(workspace.file.homes.other ?? 'intake');
}

/** Why an entry of a pack is not taken in; null: it is. */
function whyNotCopied(e: Entry): string | null {
  if (e.kind === 'other') return 'it is no file (a pipe, a link to nothing, or a name that is no text)';
  return e.kind === 'folder' && e.link !== undefined ? 'it is a link to a folder' : null;
}

export interface IntakeRequest {
  /** Absolute: a folder (a pack) or a file. */
  from: string;
  /** What the pack is called in the holding area. */
  name: string;
  /** How many files that only a system wrote were left out already. */
  litter?: number | undefined;
  signal?: CancelSignal | undefined;
  onFile?: ((done: number, path: string) => void) | undefined;
}

/** A pack being copied. */
interface Work {
  workspace: Workspace;
  steps: Step[];
  notes: Note[];
  made: Set<string>;
  /** Whether something in the pack gets another name. */
  isRenamed: boolean;
  /** How many entries that only a system wrote were left out. */
  litter: number;
}

/** Something of the pack that is still to be looked at. */
interface Waiting {
  from: string;
  to: TreePath;
  isFolder: boolean;
}

/** Copies a pack into the holding area; nothing in it is changed but names that some system forbids. */
export async function planIntake(workspace: Workspace, request: IntakeRequest): Promise<Plan> {
  const { outside } = workspace;
  const work: Work = {
    workspace,
    steps: [],
    notes: [],
    made: new Set(),
    isRenamed: false,
    litter: request.litter ?? 0,
  };
  const { steps, notes } = work;
  const home = intakeOf(workspace);
  const taken = await foldedNamesIn(workspace.tree, home);
  const name = freeName(makeLegal(request.name), (n) => taken.has(foldName(n)));
  const isFolder = (await outside.kind(request.from)) === 'folder';
  const waiting: Waiting[] = [{ from: request.from, to: join(home, name), isFolder }];
  let files = 0;
  for (let at = waiting.pop(); at; at = waiting.pop()) {
    request.signal?.throwIfAborted();
    if (outside.mayRead?.(at.from) === false) {
      notes.push({
        level: 'warning',
        code: 'not-allowed',
        message: `${at.from} lies in a folder you have not allowed.`,
        path: at.from,
      });
      continue;
    }
    const entries = at.isFolder ? await outside.entries(at.from) : null;
    if (entries) {
      const found = below(work, at, entries);
      if (found.length === 0) await keepFolder(work, at, entries.length === 0);
      waiting.push(...found);
    } else if (at.isFolder)
      notes.push({
        level: 'warning',
        code: 'left-out',
        message: `${at.from} stays outside: the folder may not be read.`,
        path: at.from,
      });
    else if (await copyOne(work, at)) {
      files++;
      request.onFile?.(files, at.from);
    }
  }
  const litter = litterSaid(work.litter);
  if (litter) notes.push({ level: 'info', code: 'litter', message: litter });
  if (files === 0)
    notes.push({
      level: 'blocker',
      code: 'nothing',
      message: `There is no file in ${nameOf(request.from)}.`,
    });
  const paths = work.isRenamed && files > 0 ? await followNames(work, request.signal) : [];
  return { kind: 'intake', title: `Take ${name} into ${home}`, steps, notes, paths, readiness: null };
}

/** Scenes of the pack name what was renamed by its new name; everything else in them stays as it is. */
async function followNames({ workspace, steps, notes }: Work, signal?: CancelSignal): Promise<PathChange[]> {
  const copies = steps.flatMap((step) =>
    step.do === 'put' && step.from.from === 'outside' ? [{ step, from: step.from.path, to: step.path }] : [],
  );
  const placed = new Map(copies.map((c) => [c.from, c.to]));
  const source: Source = {
    root: workspace.root,
    outside: workspace.outside,
    setting: settingOf(workspace),
    homes: {},
  };
  const scenes = copies.filter((c) => formatOfName(c.from));
  const { files } = await closureOf(source, { chosen: scenes.map((c) => c.from), signal });
  const paths: PathChange[] = [];
  for (const { step, from, to } of scenes) {
    const file = files.get(from);
    if (!file) continue;
    const content = await contentAt(source, file, to, (r) => {
      const target = absoluteTarget(source.root, from, r);
      const then = target === null ? undefined : placed.get(target);
      if (target === null || then === undefined) return null;
      const isSameWay = relativePath(folderOf(from), target) === relativePath(folderOf(to), then);
      return isSameWay ? null : then;
    });
    if (content.pieces && step.from.from === 'outside') {
      step.size = content.size;
      step.from.pieces = content.pieces;
    }
    paths.push(...content.paths);
    notes.push(...content.notes);
  }
  return paths;
}

/** What of a folder's entries comes in, and under what names; what does not is told. */
function below(work: Work, { from, to }: Waiting, entries: readonly Entry[]): Waiting[] {
  const { notes } = work;
  const names = new Set<string>();
  const found: Waiting[] = [];
  for (const e of entries.toReversed()) {
    if (isLitter(e.name)) {
      work.litter++;
      continue;
    }
    // A pack's own records are another workspace's, and what is no file cannot be copied: both are said.
    const leftOut = e.name === ownFolder ? 'it is the record of another workspace' : whyNotCopied(e);
    if (leftOut) {
      notes.push({
        level: e.name === ownFolder ? 'info' : 'warning',
        code: 'left-out',
        message: `${from}/${e.name} stays outside: ${leftOut}.`,
        path: `${from}/${e.name}`,
      });
      continue;
    }
    const legal = checkName(e.name).length > 0 ? makeLegal(e.name) : e.name;
    const free = freeName(legal, (n) => names.has(foldName(n)));
    names.add(foldName(free));
    work.isRenamed ||= free !== e.name;
    if (free !== e.name)
      notes.push({
        level: 'info',
        code: 'renamed',
        message: `${e.name} comes in as ${free}: its name is not legal on every system. The pack's scenes name it so.`,
        path: join(to, free),
      });
    if (e.kind === 'file' && isArchive(e.name))
      notes.push({
        level: 'info',
        code: 'packed-inside',
        message: `${e.name} lies in the pack and stays packed. To unpack it, bring it in by itself.`,
        path: join(to, free),
      });
    found.push({ from: `${from}/${e.name}`, to: join(to, free), isFolder: e.kind === 'folder' });
  }
  return found;
}

/** A folder in which nothing is to be copied: made all the same, and said where it was empty. */
async function keepFolder({ workspace, steps, notes, made }: Work, { from, to }: Waiting, wasEmpty: boolean) {
  for (const step of foldersFor(join(to, 'x'), (f) => made.has(f))) {
    made.add(step.path);
    if ((await workspace.tree.kind(step.path)) === null) steps.push(step);
  }
  if (wasEmpty)
    notes.push({
      level: 'info',
      code: 'empty-folder',
      message: `${nameOf(from)} is an empty folder; it is kept.`,
      path: to,
    });
}

/** The steps that copy a file; false where it is gone. */
async function copyOne({ workspace, steps, made }: Work, { from, to }: Waiting): Promise<boolean> {
  const stat = await workspace.outside.stat(from);
  if (!stat) return false;
  for (const step of foldersFor(to, (f) => made.has(f))) {
    made.add(step.path);
    if ((await workspace.tree.kind(step.path)) === null) steps.push(step);
  }
  steps.push({
    do: 'put',
    path: to,
    before: null,
    size: stat.size,
    modified: stat.modified,
    from: { from: 'outside', path: from, state: { ...stat, digest: null }, pieces: null },
  });
  return true;
}
