// Scenes of a tree, each reference judged from the file it stands in. One bad file becomes a problem, never the end of a scan.

import type { CancelSignal, FileTree } from '../files/fileTree';
import { comparePaths, rootPath, treePath, type TreePath } from '../files/treePath';
import { formatOfName, isSceneFormat, readReferences, type FileReading } from '../formats/formats';
import type { FormatId, Reference } from '../formats/format';
import type { Problem } from '../problem';
import { oddityMessage, resolveReference, type Resolution, type Setting } from './resolve';

export interface JudgedReference extends Reference, Resolution {}

/** One scene (or material library), read and judged. */
export interface SceneReport {
  path: TreePath;
  format: FormatId;
  references: JudgedReference[];
  problems: Problem[];
}

/** The folder in which a workspace keeps its own records; scans leave it out. */
export const ownFolder = '.satchel';

/** Room for the bytes of one scene after another; see FileTree.read. */
export const roomForScenes = () => new Uint8Array(1024 * 1024);

/**
 * Reads a file of the tree without judging it; null when it is no scene file. Unreadable files give a problem. With `room`, the
 * reading's bytes last until the next one.
 */
export async function readScene(tree: FileTree, path: TreePath, room?: Uint8Array): Promise<FileReading | { problems: Problem[] } | null> {
  if (!formatOfName(path)) return null;
  try {
    const stat = await tree.stat(path);
    if (!stat) return { problems: [{ code: 'not-found', message: `${path} is not there any more.`, path }] };
    return await readReferences(path, stat.size, (range) => tree.read(path, range, room));
  } catch (cause) {
    return { problems: [{ code: 'unreadable', message: `${path} could not be read: ${cause instanceof Error ? cause.message : String(cause)}`, path }] };
  }
}

function judgedAs(r: Reference, found: Resolution): JudgedReference {
  return {
    at: r.at, kind: r.kind, written: r.written, span: r.span, encoding: r.encoding, uncertain: r.uncertain ?? false,
    syntax: r.syntax, prefix: r.prefix, suffix: r.suffix, frames: r.frames, choice: r.choice, quoting: r.quoting,
    state: found.state, target: found.target, inside: found.inside, targets: found.targets, gaps: found.gaps, oddities: found.oddities, via: found.via, members: found.members,
  };
}

/** Judges what a reader found. Other readings of the same bytes are taken where they name an existing file. */
export async function judge(path: TreePath, reading: FileReading, setting: Setting): Promise<SceneReport> {
  const judged: JudgedReference[] = [];
  for (const reference of reading.references) {
    const found = resolveReference(reference, reading.format, path, setting);
    judged.push(judgedAs(reference, found instanceof Promise ? await found : found));
  }
  const references = chosen(reading.otherReadings?.length ? await withOtherReadings(judged, reading, path, setting) : judged);
  const problems: Problem[] = [...reading.problems];
  for (const r of references) {
    for (const oddity of r.oddities) problems.push({ code: oddity, message: oddityMessage(oddity, r.written), ...(r.span ? { span: r.span } : {}) });
  }
  return { path, format: reading.format.id, references, problems };
}

/** Of alternatives, those that are found stay; none found: all of them. The first that loads is used, so the others are not missing. */
function chosen(references: JudgedReference[]): JudgedReference[] {
  const met = new Set<number>();
  for (const r of references) if (r.choice !== undefined && r.target !== null) met.add(r.choice);
  return met.size === 0 ? references : references.filter((r) => r.choice === undefined || r.target !== null || !met.has(r.choice));
}

async function withOtherReadings(judged: JudgedReference[], reading: FileReading, path: TreePath, setting: Setting): Promise<JudgedReference[]> {
  const dropped = new Set<number>();
  const placed = new Map<number, JudgedReference>();
  for (const other of reading.otherReadings ?? []) {
    const found = await resolveReference(other.reference, reading.format, path, setting);
    if (found.target === null || other.instead.some((i) => placed.has(i))) continue;
    placed.set(other.instead[0]!, judgedAs(other.reference, found));
    for (const i of other.instead.slice(1)) dropped.add(i);
  }
  return judged.flatMap((r, i) => (dropped.has(i) ? [] : [placed.get(i) ?? r]));
}

/** Reads and judges one file; null when it is no scene file. */
export async function reportScene(tree: FileTree, path: TreePath, setting: Setting, room?: Uint8Array): Promise<SceneReport | null> {
  const reading = await readScene(tree, path, room);
  if (!reading) return null;
  if (!('format' in reading)) return { path, format: formatOfName(path)!.id, references: [], problems: reading.problems };
  return judge(path, reading, setting);
}

export interface ScanOptions {
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, path: TreePath) => void) | undefined;
}

/** Paths of all scenes below a folder, in path order; the workspace's own records are left out. */
export async function scenePaths(tree: Pick<FileTree, 'entries'>, folder: TreePath = rootPath): Promise<TreePath[]> {
  const found: TreePath[] = [];
  const waiting: TreePath[] = [folder];
  while (waiting.length > 0) {
    const at = waiting.pop()!;
    for (const entry of (await tree.entries(at)) ?? []) {
      const path = treePath(at === '' ? entry.name : `${at}/${entry.name}`);
      if (entry.kind === 'folder') {
        if (path !== ownFolder) waiting.push(path);
      } else if (formatOfName(path)) found.push(path);
    }
  }
  return found.sort(comparePaths);
}

/** Reports the scenes given, in their order. */
export async function* reportScenes(tree: FileTree, setting: Setting, scenes: readonly TreePath[], options: ScanOptions = {}): AsyncIterable<SceneReport> {
  const room = roomForScenes();
  let done = 0;
  for (const path of scenes) {
    options.signal?.throwIfAborted();
    const report = await reportScene(tree, path, setting, room);
    if (report) yield report;
    options.onScene?.(++done, path);
  }
}

/** Reports every scene and material library below `folder`, in path order: each file once, by its own paths. */
export async function* scan(tree: FileTree, setting: Setting, folder: TreePath = rootPath, options: ScanOptions = {}): AsyncIterable<SceneReport> {
  yield* reportScenes(tree, setting, await scenePaths(tree, folder), options);
}

/** The scenes given and all that they reference, through any formats, each judged from the file it stands in. Cycles end. */
export async function followChain(tree: FileTree, setting: Setting, scenes: readonly TreePath[], options: ScanOptions = {}): Promise<SceneReport[]> {
  const reports = new Map<string, SceneReport>();
  const waiting = [...scenes];
  const room = roomForScenes();
  while (waiting.length > 0) {
    options.signal?.throwIfAborted();
    const path = waiting.shift()!;
    if (reports.has(path)) continue;
    const report = await reportScene(tree, path, setting, room);
    if (!report) continue;
    reports.set(path, report);
    options.onScene?.(reports.size, path);
    for (const r of report.references) if (r.target !== null && r.inside && formatOfName(r.target)) waiting.push(r.target as TreePath);
  }
  return [...reports.values()].sort((a, b) => comparePaths(a.path, b.path));
}

/** Counts by state, in the order of the states' urgency. */
export function countStates(reports: Iterable<SceneReport>): Record<string, number> {
  const counts: Record<string, number> = {};
  for (const report of reports) for (const r of report.references) counts[r.state] = (counts[r.state] ?? 0) + 1;
  return counts;
}

/** Whether a report is of a scene proper, or of a material library that belongs to one. */
export function isScene(report: Pick<SceneReport, 'format'>): boolean {
  return isSceneFormat(report.format);
}
