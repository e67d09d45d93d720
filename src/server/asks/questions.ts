// What a request may ask of the disk, each answered in a thread: the thread that answers requests waits for no drive.
//
// A question is a name and plain values; so is its answer. Errors come back as they were thrown (asker.ts). How far may be looked is set for the
// thread before (disk/limits.ts).

import type { Hold, HoldLine } from '@/core/versions/holds';
import { holdsIn, sayHold } from '../workspaces/holds';
import type { LedgerEntry } from '@/core/changes/summary';
import type { OpenEntry } from '@/core/changes/summary';
import { AppError } from '@/core/errors';
import type { Entry } from '@/core/files/fileTree';
import { markerPath } from '@/core/files/records';
import { treePath } from '@/core/files/treePath';
import { formatOfName, isSceneFormat } from '@/core/formats/formats';
import type { LeafFacts } from '@/core/formats/leaves';
import type { WorkspaceFile } from '@/core/layouts/workspace';
import { settingOf } from '@/core/plans/workspace';
import { resolveReference } from '@/core/references/resolve';
import { reportScene, scenePaths } from '@/core/references/scan';
import { usualUnits } from '@/core/units/units';
import { listedAt } from '../disk/listing';
import { outsideWithin } from '../disk/diskOutside';
import { DiskReading } from '../disk/diskReading';
import { currentLimits } from '../disk/limits';
import { signsOf } from '../disk/signs';
import { toSystem } from '../disk/system';
import { factsOf } from '../facts/facts';
import { wrongPlaceOf } from '../arrive/recognise';
import { stubOf } from '../backups/archive';
import { openBackups } from '../backups/backupFolder';
import { contentIn } from '../backups/openSnapshot';
import { proofState } from '../backups/prove';
import { leaveAsIs, openEntries, recordsIn, settle, settleInPassing } from '../workspaces/changing';
import { lastDone, readHistory, readLedger, readLedgerLong } from '../workspaces/ledger';
import { checkpointOf, readCheckpoints, sinceCheckpoint, summaryOf } from '../workspaces/checkpoints';
import { compareSides, contentOfState, sideOf } from '../workspaces/compare';
import { unitsOfScene } from '../workspaces/measure';
import {
  createWorkspace,
  hasMarker,
  markerDamage,
  planNew,
  readWorkspace,
  rootOf,
  type CreateRequest,
} from '../workspaces/open';
import { planShelfUndo, readShelfLedger } from '../workspaces/shelf';
import { netOf, seriesList, versionsOf } from '../workspaces/versions';
import { freeBytes } from '../disk/use';

/** An entry of a folder with what a list shows of it. Size in bytes, time in ms since 1970 UTC; null for folders. */
export interface ListedEntry extends Entry {
  size: number | null;
  modified: number | null;
}

const outside = () => outsideWithin({ allowed: currentLimits().bounds.allowed });

/** Throws unless a path lies, links followed, where it may be looked into. */
function checked(path: string): string {
  currentLimits().bounds.checkAt(path);
  return path;
}

/** A folder's entries with sizes; null where it is none, or may not be read. */
async function listFolder(folder: string): Promise<ListedEntry[] | null> {
  const out = outside();
  const entries = await out.entries(checked(folder));
  if (!entries) return null;
  const base = folder === '/' ? '' : folder;
  const found: ListedEntry[] = [];
  for (const e of entries) {
    const stat = e.kind === 'file' ? await out.stat(`${base}/${e.name}`) : null;
    found.push({ ...e, size: stat?.size ?? null, modified: stat?.modified ?? null });
  }
  return found;
}

export const questions = {
  /** The workspace file of a root. */
  /** Why scenes should not be opened there; null: nothing is against it. */
  wrongPlace: async (root: string) => (await wrongPlaceOf(checked(root)))?.message ?? null,
  /** Where work was moved off to; null: it lies here. */
  stub: async (root: string) => stubOf(checked(root)),
  workspace: async (root: string): Promise<WorkspaceFile> => (await readWorkspace(root)).file,
  /** Those of many roots; null of one that is not there, or cannot be read. */
  workspaces: (roots: readonly string[]): Promise<(WorkspaceFile | null)[]> =>
    Promise.all(
      roots.map((root) =>
        readWorkspace(root).then(
          ({ file }) => file,
          () => null,
        ),
      ),
    ),
  hasMarker: (folder: string): Promise<boolean> => hasMarker(folder),
  rootOf: (path: string): Promise<string | null> => rootOf(path),
  markerDamage: (root: string): Promise<string | null> => markerDamage(root),
  /** The root that would be made, checked. */
  planNew: async (request: CreateRequest): Promise<string> => (await planNew(request)).root,
  createWorkspace: async (request: CreateRequest): Promise<string> => (await createWorkspace(request)).root,

  listFolder,
  /** Names of the folders in any folder, for somebody who chooses one to allow; null where it may not be read. What lies in them is not looked at. */
  async folderNames(folder: string): Promise<string[] | null> {
    try {
      const listed = listedAt(toSystem(folder));
      const names = listed?.filter((e) => e.kind === 'folder' && !e.name.startsWith('.')).map((e) => e.name);
      return names?.sort((a, b) => a.localeCompare(b, 'en', { numeric: true })) ?? null;
    } catch {
      return null;
    }
  },
  /** The names in a folder that hold a workspace's marker. */
  async markersIn(folder: string, names: readonly string[]): Promise<string[]> {
    const base = folder === '/' ? '' : folder;
    const out = outside();
    const found: string[] = [];
    for (const name of names)
      if ((await out.kind(`${base}/${name}/${markerPath}`)) === 'file') found.push(name);
    return found;
  },
  /** The entries of a folder of the root with sizes; null where it is not there. */
  async listInside(root: string, folder: string): Promise<ListedEntry[] | null> {
    const tree = new DiskReading(root);
    const entries = await tree.entries(treePath(folder));
    if (!entries) return null;
    const found: ListedEntry[] = [];
    for (const e of entries) {
      const at = treePath(folder === '' ? e.name : `${folder}/${e.name}`);
      const stat = e.kind === 'file' ? await tree.stat(at) : null;
      found.push({ ...e, size: stat?.size ?? null, modified: stat?.modified ?? null });
    }
    return found;
  },
  /** Size and time of a file of the root; null where it is none. */
  async statInside(root: string, path: string): Promise<{ size: number; modified: number } | null> {
    const stat = await new DiskReading(root).stat(treePath(path));
    return stat && { size: stat.size, modified: stat.modified };
  },
  async scenes(root: string): Promise<string[]> {
    const { scenes } = await scenePaths((await readWorkspace(root)).tree);
    return scenes.filter((p) => isSceneFormat(formatOfName(p)!.id));
  },
  async versions(root: string, scene: string) {
    return versionsOf(await readWorkspace(root), treePath(scene));
  },
  series: async (root: string) => seriesList(await readWorkspace(root)),
  checkpoints: async (root: string) =>
    (await readCheckpoints((await readWorkspace(root)).tree)).map(summaryOf),
  async sinceCheckpoint(root: string, id: string) {
    const workspace = await readWorkspace(root);
    return sinceCheckpoint(workspace, await checkpointOf(workspace.tree, id));
  },
  compare: async (root: string, scene: string, before: string, after: string) =>
    compareSides(await readWorkspace(root), sideOf(scene, before), sideOf(scene, after)),
  stateContent: async (root: string, scene: string, state: string, uri?: string) =>
    contentOfState(await readWorkspace(root), sideOf(scene, state), uri),
  /** Null where it is no folder of backups, or cannot be read just now. */
  proofState: async (folder: string) =>
    openBackups(checked(folder))
      .then(proofState)
      .catch(() => null),
  snapshotFile: async (folder: string, id: string, path: string) =>
    contentIn(await openBackups(checked(folder)), id, path),
  net: async (root: string, scene: string) => netOf(await readWorkspace(root), treePath(scene)),
  /** A scene's format, by what is in it; its own units beside the workspace's; its size in bytes. */
  async sceneUnits(root: string, scene: string) {
    const workspace = await readWorkspace(root);
    const stat = await workspace.tree.stat(treePath(scene));
    if (!stat) throw new AppError('not-found', `${scene} is not there any more.`);
    return {
      size: stat.size,
      ...(await unitsOfScene(workspace, treePath(scene), stat.size)),
      grid: workspace.file.units ?? usualUnits,
    };
  },
  /** What a file holds; null where its first bytes tell nothing or it may not be read. */
  facts: (path: string): Promise<LeafFacts | null> => factsOf(checked(path)).catch(() => null),
  /** Which of these paths are files. */
  async areFiles(paths: readonly string[]): Promise<boolean[]> {
    const out = outside();
    const found: boolean[] = [];
    for (const p of paths) found.push((await out.kind(p)) === 'file');
    return found;
  },
  /** What stands beside a reference in its list of addresses and is not needed, as another of them is found. */
  async alternatives(root: string, scene: string, at: string): Promise<string[]> {
    const workspace = await readWorkspace(root);
    const report = await reportScene(workspace.tree, treePath(scene), settingOf(workspace));
    const choice = report?.references.find((r) => r.at === at)?.choice;
    return choice === undefined
      ? []
      : report!.alternatives.filter((r) => r.choice === choice).map((r) => r.written);
  },
  /** Where written paths would lead from their scenes. */
  async tryPaths(root: string, paths: readonly { scene: string; written: string }[]) {
    const setting = settingOf(await readWorkspace(root));
    const found: { state: string; target: string | null }[] = [];
    for (const p of paths) {
      const format = formatOfName(p.scene);
      const r =
        format && p.written !== ''
          ? await resolveReference({ written: p.written }, format, treePath(p.scene), setting)
          : null;
      found.push({ state: r?.state ?? 'missing', target: r?.target ?? null });
    }
    return found;
  },
  place: (folder: string) => signsOf(checked(folder)),
  freeBytes: async (folder: string): Promise<number> => freeBytes(folder),

  settleInPassing: async (root: string) => settleInPassing(recordsIn(root)),
  settle: async (root: string, id: string) => settle(recordsIn(root), new Set([id])),
  leaveAsIs: async (root: string, id: string): Promise<void> => leaveAsIs(recordsIn(root), id),
  openEntries: (root: string): Promise<OpenEntry[]> => openEntries(recordsIn(root)),
  holds: (root: string): Promise<Hold[]> => holdsIn(checked(root)),
  sayHold: (root: string, word: Omit<HoldLine, 'time'>): Promise<Hold[]> => sayHold(checked(root), word),
  ledger: (root: string): Promise<LedgerEntry[]> => readLedger(recordsIn(root)),
  /** Who is at work in each of these roots: what was done last, and who holds what; null of one that is not there. */
  atWork: async (roots: readonly string[]) =>
    Promise.all(
      roots.map(async (root) => {
        try {
          return { last: await lastDone(checked(root)), holds: await holdsIn(root) };
        } catch {
          return null;
        }
      }),
    ),
  ledgerLong: (root: string, paths: readonly string[] | null) => readLedgerLong(root, paths),
  history: (root: string, paths: readonly string[]) => readHistory(root, paths),
  shelfLedger: (dataFolder: string) => readShelfLedger(dataFolder),
  planShelfUndo: (dataFolder: string, container: string, id: string) =>
    planShelfUndo(dataFolder, container, id),
} as const;

type Questions = typeof questions;
export type Question = keyof Questions;
export type Asked<Q extends Question> = Parameters<Questions[Q]>;
export type AnswerTo<Q extends Question> = Awaited<ReturnType<Questions[Q]>>;

/** Asks one of them. */
export type Ask = <Q extends Question>(question: Q, ...asked: Asked<Q>) => Promise<AnswerTo<Q>>;

/** Answers in this thread. */
export async function answer<Q extends Question>(question: Q, asked: Asked<Q>): Promise<AnswerTo<Q>> {
  const run = questions[question] as unknown as (...all: Asked<Q>) => Promise<AnswerTo<Q>>;
  return run(...asked);
}
