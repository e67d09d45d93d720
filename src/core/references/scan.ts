// Scenes of a tree, each reference judged from the file it stands in. One bad file becomes a problem, never the end of a scan.

import { ownFolder } from '../files/records';
import { AppError } from '../errors';
import {
  outsideTree,
  type CancelSignal,
  type Entry,
  type FileTree,
  type OutsideFiles,
} from '../files/fileTree';
import { comparePaths, folderOf, join, nameOf, rootPath, treePath, type TreePath } from '../files/treePath';
import { formatOfName, isSceneFormat, readReferences, type FileReading } from '../formats/formats';
import type { FormatId, Reference } from '../formats/format';
import type { Problem } from '../problem';
import { oddityMessage, resolveReference, type Resolution, type ScenePlace, type Setting } from './resolve';

export interface JudgedReference extends Reference, Resolution {}

/** One scene (or material library), read and judged. `path` is in the tree; absolute for a scene outside the root. */
export interface SceneReport {
  path: string;
  format: FormatId;
  references: JudgedReference[];
  /** Of a choice that is met by another: not needed, and listed by themselves. */
  alternatives: JudgedReference[];
  problems: Problem[];
}

/** Room for the bytes of one scene after another; see FileTree.read. */
export const roomForScenes = () => new Uint8Array(1024 * 1024);

/**
 * Reads a file of the tree without judging it; null when it is no scene file. Unreadable files give a problem. With `room`, the
 * reading's bytes last until the next one.
 */
export async function readScene(
  tree: Pick<FileTree, 'stat' | 'read'>,
  path: TreePath,
  room?: Uint8Array,
): Promise<FileReading | { problems: Problem[] } | null> {
  if (!formatOfName(path)) return null;
  try {
    const stat = await tree.stat(path);
    if (!stat) return { problems: [{ code: 'not-found', message: `${path} is not there any more.`, path }] };
    return await readReferences(path, stat.size, (range) => tree.read(path, range, room));
  } catch (cause) {
    return {
      problems: [
        {
          code: 'unreadable',
          message: `${path} could not be read: ${cause instanceof Error ? cause.message : String(cause)}`,
          path,
        },
      ],
    };
  }
}

function judgedAs(r: Reference, found: Resolution): JudgedReference {
  return {
    at: r.at,
    kind: r.kind,
    written: r.written,
    span: r.span,
    encoding: r.encoding,
    uncertain: r.uncertain ?? false,
    syntax: r.syntax,
    prefix: r.prefix,
    suffix: r.suffix,
    frames: r.frames,
    choice: r.choice,
    quoting: r.quoting,
    state: found.state,
    target: found.target,
    real: found.real,
    inside: found.inside,
    targets: found.targets,
    gaps: found.gaps,
    oddities: found.oddities,
    via: found.via,
    members: found.members,
  };
}

/** Judges what a reader found. Other readings of the same bytes are taken where they name an existing file. */
export async function judge(place: ScenePlace, reading: FileReading, setting: Setting): Promise<SceneReport> {
  const judged: JudgedReference[] = [];
  for (const reference of reading.references) {
    const found = resolveReference(reference, reading.format, place, setting);
    const resolved = found instanceof Promise ? await found : found;
    judged.push(judgedAs(reference, await withEmptiness(resolved, setting)));
  }
  const { references, alternatives } = chosen(
    reading.otherReadings?.length ? await withOtherReadings(judged, reading, place, setting) : judged,
  );
  const problems: Problem[] = [...reading.problems];
  for (const r of references) {
    for (const oddity of r.oddities)
      problems.push({
        code: oddity,
        message: oddityMessage(oddity, r.written),
        ...(r.span ? { span: r.span } : {}),
      });
  }
  for (const r of references) if (r.uncertain) problems.push(uncertainProblem(r));
  return {
    path: typeof place === 'string' ? place : place.outside,
    format: reading.format.id,
    references,
    alternatives,
    problems,
  };
}

/** A file of 0 bytes is there, and opens nowhere. */
async function withEmptiness(r: Resolution, setting: Setting): Promise<Resolution> {
  if (!r.inside || r.target === null) return r;
  for (const file of filesOf(r))
    if (await setting.lookup.isEmpty(file as TreePath))
      return { ...r, oddities: [...r.oddities, 'empty-file'] };
  return r;
}

/** Code of the problem that marks a reference as a guess; by itself it is nothing to mend. */
export const uncertain = 'unknown-extension';

function uncertainProblem(r: Reference): Problem {
  return {
    code: uncertain,
    message: `${r.at} stands where the format has no rule of its own (an extension or extras that are not known here): that it names a file is a guess. It is not rewritten unless you ask for it.`,
    ...(r.span ? { span: r.span } : {}),
  };
}

/** Of alternatives, those that are found stay; none found: all of them. The first that loads is used, so the others are not missing. */
function chosen(all: JudgedReference[]): { references: JudgedReference[]; alternatives: JudgedReference[] } {
  const met = new Set<number>();
  for (const r of all) if (r.choice !== undefined && r.target !== null) met.add(r.choice);
  if (met.size === 0) return { references: all, alternatives: [] };
  const isNeeded = (r: JudgedReference) => r.choice === undefined || r.target !== null || !met.has(r.choice);
  return { references: all.filter(isNeeded), alternatives: all.filter((r) => !isNeeded(r)) };
}

async function withOtherReadings(
  judged: JudgedReference[],
  reading: FileReading,
  place: ScenePlace,
  setting: Setting,
): Promise<JudgedReference[]> {
  const dropped = new Set<number>();
  const placed = new Map<number, JudgedReference>();
  for (const other of reading.otherReadings ?? []) {
    const found = await resolveReference(other.reference, reading.format, place, setting);
    if (found.target === null || other.instead.some((i) => placed.has(i))) continue;
    placed.set(other.instead[0]!, judgedAs(other.reference, found));
    for (const i of other.instead.slice(1)) dropped.add(i);
  }
  return judged.flatMap((r, i) => (dropped.has(i) ? [] : [placed.get(i) ?? r]));
}

/** What is said of a scene that cannot be read. */
const unread = (path: string, problems: Problem[]): SceneReport => ({
  path,
  format: formatOfName(path)!.id,
  references: [],
  alternatives: [],
  problems,
});

/** Reads and judges one file; null when it is no scene file. */
export async function reportScene(
  tree: FileTree,
  path: TreePath,
  setting: Setting,
  room?: Uint8Array,
): Promise<SceneReport | null> {
  const reading = await readScene(tree, path, room);
  if (!reading) return null;
  if (!('format' in reading)) return unread(path, reading.problems);
  return judge(path, reading, setting);
}

export interface ScanOptions {
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, path: string) => void) | undefined;
}

/** Scenes by their names, and folders that may not be read: who knows what lies in them. Both in path order. */
export interface ScenesFound {
  scenes: TreePath[];
  unread: Problem[];
}

/** Paths of all scenes below a folder; the workspace's own records are left out, links not followed (what they lead to has a path of its own). */
export async function scenePaths(
  tree: Pick<FileTree, 'entries'>,
  folder: TreePath = rootPath,
): Promise<ScenesFound> {
  const scenes: TreePath[] = [];
  const unread: Problem[] = [];
  const waiting: TreePath[] = [folder];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    for (const entry of await entriesOr(tree, at, unread)) {
      if (entry.link !== undefined || entry.kind === 'other') continue;
      const path = join(at, entry.name);
      if (entry.kind === 'folder') {
        if (path !== ownFolder) waiting.push(path);
      } else if (formatOfName(path)) scenes.push(path);
    }
  }
  return { scenes: scenes.sort(comparePaths), unread };
}

/** Names in a folder; one that may not be read becomes a problem. */
async function entriesOr(
  tree: Pick<FileTree, 'entries'>,
  folder: TreePath,
  unread: Problem[],
): Promise<readonly Entry[]> {
  try {
    return (await tree.entries(folder)) ?? [];
  } catch (cause) {
    if (!(cause instanceof AppError)) throw cause;
    const message = `The folder ${folder === '' ? 'itself' : folder} could not be read: ${cause.message} What lies in it is not known.`;
    unread.push({ code: 'unreadable', message, path: folder });
    return [];
  }
}

/** Reports the scenes given, in their order. */
export async function* reportScenes(
  tree: FileTree,
  setting: Setting,
  scenes: readonly TreePath[],
  options: ScanOptions = {},
): AsyncIterable<SceneReport> {
  const room = roomForScenes();
  let done = 0;
  for (const path of scenes) {
    options.signal?.throwIfAborted();
    const report = await reportScene(tree, path, setting, room);
    if (report) yield report;
    options.onScene?.(++done, path);
  }
}

/** Reports every scene and material library below `folder`, in path order: each file once, by its own paths. `unread` hears of folders that may not be read. */
export async function* scan(
  tree: FileTree,
  setting: Setting,
  folder: TreePath = rootPath,
  options: ScanOptions & { unread?: (problem: Problem) => void } = {},
): AsyncIterable<SceneReport> {
  const found = await scenePaths(tree, folder);
  for (const problem of found.unread) options.unread?.(problem);
  yield* reportScenes(tree, setting, found.scenes, options);
}

/** Reads and judges a scene outside the root; null when it is no scene file. */
async function reportOutside(
  outside: OutsideFiles,
  path: string,
  setting: Setting,
): Promise<SceneReport | null> {
  const reading = await readScene(outsideTree(outside, folderOf(path)), treePath(nameOf(path)));
  if (!reading) return null;
  if (!('format' in reading)) return unread(path, reading.problems);
  return judge({ outside: path }, reading, setting);
}

/**
 * The scenes given and all that they reference, through any formats, each judged from the file it stands in: each file once, in path
 * order. Cycles end. `outside`: where scenes that lie outside the root are followed too (libraries, other projects); null: they are not.
 */
export async function followChain(
  tree: FileTree,
  outside: OutsideFiles | null,
  setting: Setting,
  scenes: readonly TreePath[],
  options: ScanOptions = {},
): Promise<SceneReport[]> {
  const reports = new Map<string, SceneReport>();
  const waiting: ScenePlace[] = [...scenes];
  const room = roomForScenes();
  for (let n = 0; n < waiting.length; n++) {
    options.signal?.throwIfAborted();
    const place = waiting[n]!;
    const path = typeof place === 'string' ? place : place.outside;
    if (reports.has(path)) continue;
    const report =
      typeof place === 'string'
        ? await reportScene(tree, place, setting, room)
        : outside && outside.mayRead?.(path) !== false
          ? await reportOutside(outside, path, setting)
          : null;
    if (!report) continue;
    reports.set(path, report);
    options.onScene?.(reports.size, path);
    for (const r of report.references) {
      if (r.target === null || !formatOfName(r.target)) continue;
      for (const target of targetsOf(r)) waiting.push(r.inside ? (target as TreePath) : { outside: target });
    }
  }
  return [...reports.values()].sort((a, b) => comparePaths(a.path, b.path));
}

/** All that a reference stands for: its target, or all of its frames or tiles; paths as `target` has them. */
export function targetsOf(r: Pick<JudgedReference, 'target' | 'members'>): string[] {
  if (r.target === null) return [];
  const folder = r.target.slice(0, r.target.lastIndexOf('/') + 1);
  return r.members?.map((name) => folder + name) ?? [r.target];
}

/** The files themselves that it stands for inside the root, links followed. */
export function filesOf(r: Pick<JudgedReference, 'target' | 'real' | 'inside' | 'members'>): string[] {
  return r.inside ? targetsOf({ target: r.real ?? r.target, members: r.members }) : [];
}

/** Counts by state, in the order of the states' urgency. */
export function countStates(reports: Iterable<SceneReport>): Record<string, number> {
  const counts: Record<string, number> = {};
  for (const report of reports)
    for (const r of report.references) counts[r.state] = (counts[r.state] ?? 0) + 1;
  return counts;
}

/** Whether a report is of a scene proper, or of a material library that belongs to one. */
export function isScene(report: Pick<SceneReport, 'format'>): boolean {
  return isSceneFormat(report.format);
}
