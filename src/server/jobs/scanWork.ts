// A scan of a workspace, in a work thread. What the thread has read it keeps: a file that has not changed is not read again, a scene around
// which no name has changed is not judged again, and only what differs from the index goes into it.

import { ownFolder, markerPath } from '@/core/files/records';
import { createHash } from 'node:crypto';
import { AppError } from '@/core/errors';
import type { TreePath } from '@/core/files/treePath';

import { fullPath } from '@/core/formats/format';
import { formatOfName, isSceneFormat, type FileReading } from '@/core/formats/formats';
import { gltfUses } from '@/core/formats/gltfUses';
import { kindOfName } from '@/core/layouts/homes';
import { isUnused, neededFiles } from '@/core/layouts/unused';
import { settingOf } from '@/core/plans/workspace';
import type { Problem } from '@/core/problem';
import { isReady, type Setting } from '@/core/references/resolve';
import {
  filesOf,
  judge,
  readScene,
  roomForScenes,
  targetsOf,
  uncertain,
  type JudgedReference,
  type SceneReport,
} from '@/core/references/scan';
import type { IndexFile, IndexProblem, IndexRow, JobProgress, ScanResult, WorkMessage } from '@/wire/jobs';
import type { Survey } from '../disk/listing';
import { lastVersion } from '../workspaces/versions';
import type { OpenWorkspace } from '../workspaces/open';

/** A reading with the node and material names of its scene; of the file when it was `size` bytes long and last written at `modified`. */
interface Recalled extends Omit<FileReading, 'bytes' | 'rewrite'> {
  uses: Map<string, string[]>;
  size: number;
  modified: number;
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
// A file written just before it was read may be written once more within the grain of its clock (2 s on FAT).
const clockGrain = 2500;
// Where a JSON part is larger than this, node and material names are not looked up at scanning.
const namesUpTo = 8 * 1024 * 1024;
const mostRows = 1000;

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
  stat: { size: number; modified: number },
  room: Uint8Array,
  known: Held,
): Promise<Recalled | { problems: Problem[] } | null> {
  const old = known.readings.get(scene);
  if (old && old.size === stat.size && old.modified === stat.modified) return old;
  known.readings.delete(scene);
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
    ...stat,
  };
  if (Date.now() - stat.modified > clockGrain) known.readings.set(scene, fresh);
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

/** What lies at a path inside the root. */
type StatOf = (path: string) => { size: number; modified: number } | null;

/** Size of a reference's target in bytes, of all files of a sequence; null where there is none. */
async function sizeOf(workspace: OpenWorkspace, statOf: StatOf, r: JudgedReference): Promise<number | null> {
  let size: number | null = null;
  for (const path of targetsOf(r)) {
    const stat = r.inside ? statOf(path) : await workspace.outside.stat(path);
    if (stat) size = (size ?? 0) + stat.size;
  }
  return size;
}

async function rowsOf(
  workspace: OpenWorkspace,
  statOf: StatOf,
  report: SceneReport,
  uses: Map<string, string[]>,
): Promise<IndexRow[]> {
  const rows: IndexRow[] = [];
  for (const [ord, r] of report.references.entries()) {
    rows.push({
      scene: report.path,
      format: report.format,
      ord,
      at: r.at,
      kind: r.kind,
      written: storable(fullPath(r)),
      state: r.state,
      target: r.target,
      inside: r.inside,
      ready: isReady(r),
      oddities: r.oddities,
      uses: uses.get(r.at) ?? [r.at],
      size: await sizeOf(workspace, statOf, r),
      targets: r.targets,
      gaps: r.gaps,
    });
  }
  return rows;
}

/** A text as the database can hold it: PostgreSQL knows no NUL, and no half of a pair of surrogates. */
const storable = (text: string) =>
  text.replace(/\0|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g, '\ufffd');

const problemsOf = (scene: string, problems: readonly Problem[]): IndexProblem[] =>
  problems
    .filter((p) => p.code !== uncertain)
    .map((p) => ({ scene, code: p.code, message: storable(p.message) }));

/** Sends index entries to the server in batches. */
class Batches {
  private rows: IndexRow[] = [];
  private problems: IndexProblem[] = [];
  private files: IndexFile[] = [];

  constructor(private readonly say: (message: WorkMessage) => void) {}

  add(rows: readonly IndexRow[], problems: readonly IndexProblem[], files: readonly IndexFile[] = []): void {
    this.rows.push(...rows);
    this.problems.push(...problems);
    this.files.push(...files);
    if (this.rows.length + this.files.length >= mostRows) this.flush();
  }

  flush(): void {
    if (this.rows.length + this.problems.length + this.files.length === 0) return;
    this.say({ say: 'rows', rows: this.rows, problems: this.problems, files: this.files });
    [this.rows, this.problems, this.files] = [[], [], []];
  }
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

/**
 * Reads a workspace into the index. `base` names the state the index is in, `next` the one it will be in: where this thread made the
 * former, only differences are sent. A cancelled scan is taken up again where it stopped.
 */
export async function scanInto(
  workspace: OpenWorkspace,
  order: { base: string | null; next: string },
  signal: AbortSignal,
  say: (m: WorkMessage) => void,
  told: (p: JobProgress) => void,
): Promise<ScanResult> {
  const known = recall(workspace.root);
  const marker = JSON.stringify(workspace.file);
  const found = workspace.tree.survey(ownFolder, signal);
  // A drive that went away while it was read looks like an empty folder: what the index has is kept.
  if (
    (await workspace.outside.kind(workspace.root)) !== 'folder' ||
    (workspace.file.created !== '' && (await workspace.tree.kind(markerPath)) !== 'file')
  )
    throw new AppError(
      'offline',
      `${workspace.root} is not there any more.`,
      'What was read before is kept.',
    );
  const isKnown = known.token !== null && known.token === order.base && known.marker === marker;
  const before = isKnown ? known.survey : null;
  const sameNames = before !== null && areSame(before.names, found.names);
  if (!isKnown) {
    known.judged.clear();
    known.files.clear();
  }
  known.token = null;
  known.survey = found;
  if (!sameNames) {
    known.at = new Map(found.paths.map((path, i) => [path, i]));
    known.scenes = found.paths.filter((path) => formatOfName(path)).sort();
  }
  const statOf: StatOf = (path) => {
    const i = known.at.get(path);
    return i === undefined ? null : { size: found.sizes[i]!, modified: found.times[i]! };
  };
  // Files that were touched, and those whose size stands in the rows of others. Where the names are the same, so is their order.
  const touched = new Set<string>();
  const resized = new Set<string>();
  if (sameNames)
    for (let i = 0; i < found.paths.length; i++) {
      const isResized = before.sizes[i] !== found.sizes[i];
      if (isResized) resized.add(found.paths[i]!);
      if (isResized || before.times[i] !== found.times[i]) touched.add(found.paths[i]!);
    }
  const { scenes } = known;
  const room = roomForScenes();
  const ear = watched(settingOf(workspace));
  const batches = new Batches(say);
  const changed: string[] = [];
  let done = 0;
  for (const scene of scenes) {
    const old = known.judged.get(scene);
    if (
      old &&
      sameNames &&
      !old.lookedOutside &&
      !touched.has(scene) &&
      known.readings.has(scene) &&
      !(resized.size > 0 && old.uses.some((path) => resized.has(path)))
    ) {
      done++;
      continue;
    }
    signal.throwIfAborted();
    const reading = await readOrRecall(workspace, scene, statOf(scene)!, room, known);
    if (!reading) continue;
    ear.reset();
    const report = 'format' in reading ? await judge(scene, { ...reading, bytes: null }, ear.setting) : null;
    const rows = report ? await rowsOf(workspace, statOf, report, (reading as Recalled).uses) : [];
    const problems = problemsOf(scene, report?.problems ?? reading.problems);
    const print = createHash('sha256')
      .update(JSON.stringify([rows, problems]))
      .digest('base64');
    known.judged.set(scene, {
      print,
      references: rows.length,
      ready: rows.filter((r) => r.ready).length,
      uses: report?.references.flatMap(filesOf) ?? [],
      lookedOutside: ear.asked(),
    });
    if (old?.print !== print) {
      changed.push(scene);
      batches.add(rows, problems);
    }
    told({ files: ++done, filesTotal: scenes.length, bytes: 0, bytesTotal: null, path: scene });
    if (done % 50 === 0) await new Promise((next) => setImmediate(next));
  }
  // A folder that may not be read is a finding of its own: what lies in it is not known.
  const unread = found.passedOver.flatMap((o) => (o.why === 'unreadable' ? [o.path || '.'] : []));
  for (const folder of unread) {
    if (known.judged.get(folder)?.print === 'unread') continue;
    known.judged.set(folder, { print: 'unread', references: 0, ready: 0, uses: [], lookedOutside: false });
    changed.push(folder);
    const message = `The folder ${folder} may not be read: what lies in it is not known.`;
    batches.add([], [{ scene: folder, code: 'unreadable', message }]);
  }
  const isGone = (key: string) => !known.at.has(key) && !unread.includes(key);
  const gone = sameNames ? [] : [...known.judged.keys()].filter(isGone);
  for (const scene of gone) {
    known.judged.delete(scene);
    known.readings.delete(scene);
  }
  const changedFiles =
    changed.length + gone.length + touched.size === 0 && sameNames
      ? []
      : fileChanges(workspace, found, known, batches);
  batches.flush();
  let references = 0;
  let ready = 0;
  for (const j of known.judged.values()) {
    references += j.references;
    ready += j.ready;
  }
  Object.assign(known, { token: order.next, marker });
  return {
    found: {
      references,
      ready,
      ...roomOf(found),
      unused: known.unused,
      lastVersion: await lastVersion(
        workspace,
        scenes.filter((p) => isSceneFormat(formatOfName(p)!.id)).map((p) => [p, statOf(p)!] as const),
      ),
    },
    delta: isKnown ? { scenes: [...changed, ...gone], files: changedFiles } : null,
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
