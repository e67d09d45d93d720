// A scan of a workspace, in a work thread. What the thread has read it keeps: a file that has not changed is not read again, a scene around
// which no name has changed is not judged again, and only what differs from the index goes into it.

import type { CancelSignal } from '@/core/files/fileTree';
import { ownFolder, markerPath } from '@/core/files/records';
import { createHash } from 'node:crypto';
import { AppError } from '@/core/errors';
import { isStillAsRead, seemsUnchanged, type Seen } from '@/core/files/times';
import type { TreePath } from '@/core/files/treePath';

import { formatOfName, isSceneFormat, type FileReading } from '@/core/formats/formats';
import { gltfUses } from '@/core/formats/gltfUses';
import { kindOfName } from '@/core/layouts/homes';
import { isUnused, neededFiles } from '@/core/layouts/unused';
import { settingOf } from '@/core/plans/workspace';
import type { Problem } from '@/core/problem';
import type { Setting } from '@/core/references/resolve';
import { filesOf, judge, readScene, roomForScenes } from '@/core/references/scan';
import type { IndexFile, JobProgress, ScanResult, WorkMessage } from '@/wire/jobs';
import type { Survey } from '../disk/listing';
import { lastVersion } from '../workspaces/versions';
import { Batches, problemsOf, rowsOf, type StatOf } from './indexRows';
import type { OpenWorkspace } from '../workspaces/open';

/** A reading with the node and material names of its scene, and the stat of the file when it was read. */
interface Recalled extends Omit<FileReading, 'bytes' | 'rewrite'> {
  uses: Map<string, string[]>;
  seen: Seen;
}

/** What the index has of a scene, and what its judging depended on. */
interface Judged {
  /** Digest of its rows and problems: where it is the same, nothing needs to be written. */
  print: string;
  references: number;
  ready: number;
  /** Files inside the root that it uses, each reference once. */
  uses: string[];
  /** True when files outside the root were asked for: they may come and go unseen. */
  lookedOutside: boolean;
}

interface Held {
  /** The state of the index that this knowledge belongs to; null before the first scan has ended. */
  token: string | null;
  marker: string;
  /** What lay there: while the names stay, a path inside means what it meant. */
  survey: Survey | null;
  /** Where each path stands in the survey, and which are scenes. */
  at: Map<string, number>;
  scenes: TreePath[];
  unused: { files: number; bytes: number };
  readings: Map<string, Recalled>;
  judged: Map<string, Judged>;
  files: Map<string, IndexFile>;
}

// Four roots at most.
const held = new Map<string, Held>();
const mostRoots = 4;
// Where a JSON part is larger than this, node and material names are not looked up at scanning.
const namesUpTo = 8 * 1024 * 1024;

function recall(root: string): Held {
  const known = held.get(root) ?? {
    token: null,
    marker: '',
    survey: null,
    at: new Map(),
    scenes: [],
    unused: { files: 0, bytes: 0 },
    readings: new Map(),
    judged: new Map(),
    files: new Map(),
  };
  held.delete(root);
  held.set(root, known);
  if (held.size > mostRoots) held.delete(held.keys().next().value!);
  return known;
}

async function readOrRecall(
  workspace: OpenWorkspace,
  scene: TreePath,
  stat: Seen,
  room: Uint8Array,
  known: Held,
): Promise<Recalled | { problems: Problem[] } | null> {
  const old = known.readings.get(scene);
  if (old && seemsUnchanged(stat, old.seen)) return old;
  known.readings.delete(scene);
  const readAt = Date.now();
  const reading = await readScene(workspace.tree, scene, room);
  if (!reading || !('format' in reading)) return reading;
  const json =
    reading.format.id === 'gltf'
      ? reading.bytes
      : reading.format.id === 'glb'
        ? (reading.bytes?.subarray(20) ?? null)
        : null;
  const { format, references, problems, otherReadings } = reading;
  const fresh: Recalled = {
    format,
    references,
    problems,
    ...(otherReadings ? { otherReadings } : {}),
    uses: json && json.length <= namesUpTo ? gltfUses(json) : new Map<string, string[]>(),
    seen: stat,
  };
  if (isStillAsRead(stat, stat, readAt)) known.readings.set(scene, fresh);
  return fresh;
}

/** The setting, and whether anything outside was asked for since `reset`. */
function watched(setting: Setting): { setting: Setting; reset(): void; asked(): boolean } {
  let asked = false;
  const { outside } = setting;
  const heard: Setting['outside'] = outside && {
    ...(outside.home ? { home: outside.home } : {}),
    kind: (p) => ((asked = true), outside.kind(p)),
    entries: (p) => ((asked = true), outside.entries(p)),
  };
  return { setting: { ...setting, outside: heard }, reset: () => (asked = false), asked: () => asked };
}

function areSame(a: ReadonlyMap<string, string>, b: ReadonlyMap<string, string>): boolean {
  if (a.size !== b.size) return false;
  for (const [folder, names] of a) if (b.get(folder) !== names) return false;
  return true;
}

/** How much of the disk the files take, and the three largest top folders. */
function roomOf({ paths, sizes }: Survey): Pick<ScanResult['found'], 'files' | 'bytes' | 'largest'> {
  const byFolder = new Map<string, number>();
  let bytes = 0;
  for (const [i, path] of paths.entries()) {
    const size = sizes[i]!;
    bytes += size;
    const top = path.slice(0, Math.max(0, path.indexOf('/')));
    byFolder.set(top, (byFolder.get(top) ?? 0) + size);
  }
  return {
    files: paths.length,
    bytes,
    largest: [...byFolder]
      .map(([folder, b]) => ({ folder, bytes: b }))
      .sort((a, b) => b.bytes - a.bytes)
      .slice(0, 3),
  };
}

/** A drive that went away while it was read looks like an empty folder: what the index has is kept. */
async function checkThere({ root, tree, outside, file }: OpenWorkspace): Promise<void> {
  const isThere = (await outside.kind(root)) === 'folder';
  if (!isThere || (file.created !== '' && (await tree.kind(markerPath)) !== 'file'))
    throw new AppError('offline', `${root} is not there any more.`, 'What was read before is kept.');
}

/** What differs from the survey before. */
interface Differences {
  /** True where no name has changed anywhere; so is their order the same. */
  sameNames: boolean;
  /** Files that were written, and those whose size stands in the rows of others. */
  touched: ReadonlySet<string>;
  resized: ReadonlySet<string>;
}

function differencesOf(before: Survey | null, found: Survey): Differences {
  const touched = new Set<string>();
  const resized = new Set<string>();
  const sameNames = before !== null && areSame(before.names, found.names);
  if (sameNames)
    for (const [i, path] of found.paths.entries()) {
      const isResized = before.sizes[i] !== found.sizes[i];
      if (isResized) resized.add(path);
      if (isResized || before.times[i] !== found.times[i] || before.changes[i] !== found.changes[i])
        touched.add(path);
    }
  return { sameNames, touched, resized };
}

/** A scan under way. */
interface Scan {
  workspace: OpenWorkspace;
  known: Held;
  found: Survey;
  differences: Differences;
  statOf: StatOf;
  batches: Batches;
  /** Scenes and folders whose rows differ from the index. */
  changed: string[];
}

/** Whether what is known of a scene still holds. */
function isSettled({ known, differences }: Scan, scene: TreePath): boolean {
  const old = known.judged.get(scene);
  const { sameNames, touched, resized } = differences;
  if (!old || !sameNames || old.lookedOutside || touched.has(scene) || !known.readings.has(scene))
    return false;
  return resized.size === 0 || !old.uses.some((path) => resized.has(path));
}

/** Reads and judges one scene, and sends its rows where they differ. */
async function scanScene(
  { workspace, known, statOf, batches, changed }: Scan,
  scene: TreePath,
  ear: ReturnType<typeof watched>,
  room: Uint8Array,
  signal: CancelSignal,
): Promise<void> {
  const reading = await readOrRecall(workspace, scene, statOf(scene)!, room, known);
  if (!reading) return;
  ear.reset();
  const report = 'format' in reading ? await judge(scene, { ...reading, bytes: null }, ear.setting) : null;
  const rows = report ? await rowsOf(workspace, statOf, report, (reading as Recalled).uses) : [];
  const problems = problemsOf(scene, report?.problems ?? reading.problems);
  const print = createHash('sha256')
    .update(JSON.stringify([rows, problems]))
    .digest('base64');
  // What was read while the work was being cancelled may lack what could not be read any more: it is not kept.
  signal.throwIfAborted();
  const before = known.judged.get(scene)?.print;
  known.judged.set(scene, {
    print,
    references: rows.length,
    ready: rows.filter((r) => r.ready).length,
    uses: report?.references.flatMap(filesOf) ?? [],
    lookedOutside: ear.asked(),
  });
  if (before === print) return;
  changed.push(scene);
  batches.add(rows, problems);
}

/** A scene over which our own reading stumbles is a finding, and the rest is read all the same. What stops all reading goes on up. */
function noteFault({ known, batches, changed }: Scan, scene: TreePath, cause: unknown): void {
  if (cause instanceof AppError || (cause as { name?: string } | null)?.name === 'AbortError') throw cause;
  known.judged.delete(scene);
  changed.push(scene);
  const message = `This scene could not be read, by a fault of Loyal Satchel: ${cause instanceof Error ? cause.message : String(cause)}`;
  batches.add([], [{ scene, code: 'unreadable', message }]);
}

/** A folder that may not be read is a finding of its own: what lies in it is not known. Returns these folders. */
function noteUnread({ known, found, batches, changed }: Scan): string[] {
  const unread = found.passedOver.flatMap((o) => (o.why === 'unreadable' ? [o.path || '.'] : []));
  for (const folder of unread) {
    if (known.judged.get(folder)?.print === 'unread') continue;
    known.judged.set(folder, { print: 'unread', references: 0, ready: 0, uses: [], lookedOutside: false });
    changed.push(folder);
    const message = `The folder ${folder} may not be read: what lies in it is not known.`;
    batches.add([], [{ scene: folder, code: 'unreadable', message }]);
  }
  return unread;
}

/** Forgets scenes and folders that are not there any more, and returns them. */
function forgetGone({ known, differences }: Scan, unread: readonly string[]): string[] {
  if (differences.sameNames) return [];
  const gone = [...known.judged.keys()].filter((key) => !known.at.has(key) && !unread.includes(key));
  for (const scene of gone) {
    known.judged.delete(scene);
    known.readings.delete(scene);
  }
  return gone;
}

/** Takes in a new survey: what is known stays where it belongs to the state the index is in. */
function beginScan(found: Survey, isKnown: boolean, known: Held): Differences {
  const differences = differencesOf(isKnown ? known.survey : null, found);
  if (!isKnown) {
    known.judged.clear();
    known.files.clear();
  }
  known.token = null;
  known.survey = found;
  if (!differences.sameNames) {
    known.at = new Map(found.paths.map((path, i) => [path, i]));
    known.scenes = found.paths.filter((path) => formatOfName(path)).sort();
  }
  return differences;
}

/**
 * Reads a workspace into the index. `base` names the state the index is in, `next` the one it will be in: where this thread made the
 * former, only differences are sent. A cancelled scan is taken up again where it stopped.
 */
export async function scanInto(
  workspace: OpenWorkspace,
  order: { base: string | null; next: string },
  signal: CancelSignal,
  say: (m: WorkMessage) => void,
  told: (p: JobProgress) => void,
): Promise<ScanResult> {
  const known = recall(workspace.root);
  const marker = JSON.stringify(workspace.file);
  const found = workspace.tree.survey(ownFolder, signal);
  await checkThere(workspace);
  const isKnown = known.token !== null && known.token === order.base && known.marker === marker;
  const differences = beginScan(found, isKnown, known);
  const statOf: StatOf = (path) => {
    const i = known.at.get(path);
    return i === undefined
      ? null
      : { size: found.sizes[i]!, modified: found.times[i]!, changed: found.changes[i]! };
  };
  const batches = new Batches(say);
  const scan: Scan = { workspace, known, found, differences, statOf, batches, changed: [] };
  const room = roomForScenes();
  const ear = watched(settingOf(workspace));
  const { scenes } = known;
  for (const [i, scene] of scenes.entries()) {
    if (isSettled(scan, scene)) continue;
    signal.throwIfAborted();
    await scanScene(scan, scene, ear, room, signal).catch((cause: unknown) => noteFault(scan, scene, cause));
    told({ files: i + 1, filesTotal: scenes.length, bytes: 0, bytesTotal: null, path: scene });
    if (i % 50 === 49) await new Promise((next) => setImmediate(next));
  }
  const gone = forgetGone(scan, noteUnread(scan));
  const isAsBefore =
    scan.changed.length + gone.length + differences.touched.size === 0 && differences.sameNames;
  const changedFiles = isAsBefore ? [] : fileChanges(workspace, found, known, batches);
  batches.flush();
  Object.assign(known, { token: order.next, marker });
  return {
    found: await foundIn(workspace, found, known, statOf),
    delta: isKnown ? { scenes: [...scan.changed, ...gone], files: changedFiles } : null,
  };
}

async function foundIn(
  workspace: OpenWorkspace,
  found: Survey,
  known: Held,
  statOf: StatOf,
): Promise<ScanResult['found']> {
  let [references, ready] = [0, 0];
  for (const j of known.judged.values()) {
    references += j.references;
    ready += j.ready;
  }
  const proper = known.scenes.filter((p) => isSceneFormat(formatOfName(p)!.id));
  return {
    references,
    ready,
    ...roomOf(found),
    unused: known.unused,
    lastVersion: await lastVersion(
      workspace,
      proper.map((p) => [p, statOf(p)!] as const),
    ),
  };
}

/** Sends the files that differ from what the index has; returns their paths and those that are gone. */
function fileChanges(workspace: OpenWorkspace, found: Survey, known: Held, batches: Batches): string[] {
  const uses = new Map<string, number>();
  for (const j of known.judged.values()) for (const path of j.uses) uses.set(path, (uses.get(path) ?? 0) + 1);
  const usedBy = new Map([...known.judged].map(([path, j]) => [path, j.uses]));
  const needed = neededFiles(usedBy, workspace.file.homes);
  const changed: string[] = [];
  for (const [i, path] of found.paths.entries()) {
    const [size, modified] = [found.sizes[i]!, found.times[i]!];
    const n = uses.get(path) ?? 0;
    const before = known.files.get(path);
    const unused = !needed.has(path) && isUnused(path, workspace.file.homes);
    const isSame = before && before.size === size && before.modified === modified && before.uses === n;
    if (isSame && before.unused === unused) continue;
    const file: IndexFile = {
      path,
      kind: kindOfName(path),
      size,
      modified,
      uses: n,
      unused,
    };
    known.files.set(path, file);
    changed.push(path);
    batches.add([], [], [file]);
  }
  for (const path of known.files.keys())
    if (!known.at.has(path)) {
      known.files.delete(path);
      changed.push(path);
    }
  const unused = [...known.files.values()].filter((f) => f.unused);
  known.unused = { files: unused.length, bytes: unused.reduce((sum, f) => sum + f.size, 0) };
  return changed;
}
