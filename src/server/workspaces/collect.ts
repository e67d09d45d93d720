// Collecting on disk: into a folder that is empty, with a report in it. The records of what was done lie in the application's own folder, so that what is handed over holds
// only what it is to hold; a collected workspace has its own.

import { putBytes, type Plan } from '@/core/changes/plan';
import type { JournalRecord } from '@/core/changes/journal';
import { closureOf, type Closure, type Need, type Source } from '@/core/collect/closure';
import { leaveOut } from '@/core/collect/reach';
import { usedOf, type Used } from '@/core/collect/used';
import type { FrameRange } from '@/core/collect/frameRanges';
import { bytesToSay, pictureSays } from '@/core/collect/pictureSays';
import { reportPage } from '@/core/collect/page';
import type { HandStep } from '@/core/collect/hand';
import { place, type Placement, type Rule } from '@/core/collect/placement';
import { reportNames, reportOf, reportTable, type Report } from '@/core/collect/report';
import { AppError } from '@/core/errors';
import type { CancelSignal, OutsideFiles } from '@/core/files/fileTree';
import { comparePaths, extensionOf, isWithin, nameOf, treePath } from '@/core/files/treePath';
import { newMarkerStep } from '@/core/plans/marker';
import { planCollect } from '@/core/plans/planCollect';
import { allSeries } from '@/core/plans/planSave';
import { settingOf } from '@/core/plans/workspace';
import { checkNewName } from '@/core/names/portable';
import { utf8 } from '@/core/text/bytes';
import { count } from '@/core/text/figures';
import type { WorkspaceFile } from '@/core/layouts/workspace';
import type { CollectNeeds, CollectRequest, CollectScope, NeededWire, ReportDraft } from '@/wire/collect';
import { diskOutside } from '../disk/diskOutside';
import type { Allowed } from '../disk/bounds';
import { smallPicture } from '../facts/picture';
import { applyPlan, type ApplyOptions, type Records } from './changing';
import { beginParts, checkEmpty, endParts, hasInterruptedRun, undoParts, wasBegun } from './inParts';
import { checkNoTwin, inNewFolder, rootOf, type OpenWorkspace } from './open';
import { shelfRecords } from './shelf';

export interface CollectOptions {
  /** Scenes, or other files, by absolute path. */
  chosen: readonly string[];
  rule: Rule;
  excluded?: readonly string[] | undefined;
  unticked?: ReadonlySet<string> | undefined;
  /** Frames and tiles that nothing shows. */
  notUsed?: ReadonlySet<string> | undefined;
  /** They are looked for. */
  usedOnly?: boolean | undefined;
  byHand?: readonly HandStep[] | undefined;
  /** The new folder, absolute. */
  to: string;
  /** The folder for the records of the new folder. */
  records?: string | undefined;
  /** The new folder is a workspace of its own. */
  asWorkspace?: boolean | undefined;
  /** What it is called; absent: after what was chosen. */
  name?: string | undefined;
  signal?: CancelSignal | undefined;
  onFile?: ((found: number, path: string) => void) | undefined;
}

export interface Collecting extends ToCollect {
  draft: ReportDraft;
  source: Source;
  closure: Closure;
  placement: Placement;
}

/** What is to be done, as it waits for its review. */
export interface ToCollect {
  /** The new folder, absolute. */
  to: string;
  plan: Plan;
  /** Null: there is no report to write after it. */
  draft: ReportDraft | null;
  /** What the folder says of itself where it is to be a workspace. */
  marker: WorkspaceFile | null;
}

/** What collecting would do. Throws AppError where the folder cannot be. */
export async function planCollecting(workspace: OpenWorkspace, options: CollectOptions): Promise<Collecting> {
  const { to } = options;
  const isResumed = await checkTarget(workspace.root, to, options.records);
  const { root, file } = workspace;
  const source = sourceOf(workspace);
  const all = await closureOf(source, options);
  const notUsed = options.usedOnly
    ? new Set((await usedOf(source, all, new Map(), options.signal)).notUsed.flatMap((u) => u.files))
    : options.notUsed;
  const closure = leaveOut(all, options.unticked, notUsed);
  const placement = place(closure, {
    root,
    libraries: file.libraries,
    rule: options.rule,
    byHand: options.byHand,
    reserved: Object.values(reportNames),
  });
  const [one] = options.chosen;
  const name =
    options.name ??
    (options.chosen.length === 1
      ? nameOf(one!)
      : `${nameOf(one!)} and ${count(options.chosen.length - 1, 'other')}`);
  const planned = await planCollect(source, { closure, placement, name, signal: options.signal });
  const plan = isResumed ? { ...planned, notes: [undoneFirst(to), ...planned.notes] } : planned;
  const report = reportOf({ root, name, made: '', closure, placement });
  const sources = [...placement.files].map(([from, { to: path }]): [string, string] => [path, from]);
  const marker = options.asWorkspace ? markerOf(workspace, options.rule, placement, to) : null;
  return { source, closure, placement, plan, to, draft: { report, sources }, marker };
}

const undoneFirst = (to: string): Plan['notes'][number] => ({
  level: 'info',
  code: 'broken-off',
  message: `An earlier collection into ${to} was interrupted. Its files are removed first.`,
});

/** Where scenes of a workspace are read. */
export const sourceOf = (workspace: OpenWorkspace): Source => ({
  root: workspace.root,
  outside: workspace.outside,
  setting: settingOf(workspace),
  homes: workspace.file.homes,
});

/** What a collected folder says of itself as a workspace: units and names as they were, homes where its files lie. */
function markerOf({ file }: OpenWorkspace, rule: Rule, placement: Placement, to: string): WorkspaceFile {
  const paths = [...placement.files.values()].map((f) => f.to);
  const homes = Object.entries(rule.by === 'kind' ? rule.homes : {}).filter(
    ([, home]) => home !== '' && paths.some((p) => isWithin(p, home)),
  );
  return {
    format: 1,
    name: nameOf(to),
    created: new Date().toISOString(),
    layout: file.layout,
    folders: [...new Set(homes.map(([, home]) => home))].sort(),
    homes: Object.fromEntries(homes),
    units: file.units,
    names: file.names,
    net: file.net,
    libraries: [],
    places: file.places,
  };
}

/**
 * Checks that the new folder is missing or empty, that its parent exists, and that it is in no workspace. Returns true when it holds an interrupted
 * collection, which is undone first.
 */
async function checkTarget(root: string, to: string, records?: string): Promise<boolean> {
  const name = nameOf(to);
  const parent = to.slice(0, to.lastIndexOf('/')) || '/';
  const wrong = checkNewName(name);
  if (wrong.length > 0) throw new AppError('bad-name', `“${name}” cannot be the name. ${wrong[0]!.message}`);
  const kind = await diskOutside.kind(to);
  if (kind === 'file') throw new AppError('exists', `${to} is a file.`);
  const isUnfinished =
    kind === 'folder' &&
    records !== undefined &&
    wasBegun(records) &&
    (await hasInterruptedRun(shelfRecords(to, records), 'collect'));
  if (isUnfinished) return true;
  if (kind === 'folder') await checkEmpty(to);
  else {
    if ((await diskOutside.kind(parent)) !== 'folder')
      throw new AppError('not-found', `${parent} is no folder.`);
    await checkNoTwin(parent, name);
  }
  const holder = isWithin(to, root) ? root : await rootOf(parent);
  if (holder !== null)
    throw new AppError(
      'inside-workspace',
      `${to} lies inside the workspace ${holder}. Choose a folder outside.`,
    );
  return false;
}

export interface Collected {
  record: JournalRecord;
  report: Report | null;
}

/** Copies what was planned, and writes the report. `records`: the folder in which those of the new one lie. */
export async function collect(
  { plan, to, draft, marker }: ToCollect,
  of: string,
  options: ApplyOptions & { draw: Draw },
): Promise<Collected> {
  return inNewFolder(to, async () => {
    const records = shelfRecords(to, of);
    await undoParts(records, 'collect');
    beginParts(records, 1 + (draft ? 1 : 0) + (marker ? 1 : 0));
    const { draw, ...applying } = options;
    const record = await applyPlan(to, plan, { ...applying, check: () => checkEmpty(to) }, records).catch(
      (cause: unknown) => {
        endParts(records);
        throw cause;
      },
    );
    const report = draft && (await writeReport({ plan, to, draft }, record, draw, records));
    if (marker) await applyPlan(to, planMark(marker));
    endParts(records);
    if (report instanceof AppError) throw report;
    return { record, report };
  });
}

/** Writes the report of the copied files. Returns the error when that fails. */
async function writeReport(
  { plan, to, draft }: { plan: Plan; to: string; draft: ReportDraft },
  record: JournalRecord,
  draw: Draw,
  records: Records,
): Promise<Report | AppError> {
  const about = new Map<string, { size: number; blake3: string | null }>();
  for (const [n, step] of plan.steps.entries())
    if (step.do === 'put')
      about.set(step.path, { size: step.size, blake3: record.about.get(n)?.digest ?? null });
  const files = draft.report.files.map((f) => ({ ...f, ...about.get(f.path) }));
  const report = {
    ...draft.report,
    made: new Date().toISOString(),
    files: await withPictureSays(diskOutside, files, (f) => `${to}/${f.path}`),
  };
  try {
    await applyPlan(to, await reportPlan(report, draft.sources, draw), {}, records);
  } catch (cause) {
    if (cause instanceof AppError) return withoutReport(to, record.id, cause);
    throw cause;
  }
  return report;
}

/** Its own ledger begins with this: that of what was copied names paths of this machine, and stays here. */
const planMark = (marker: WorkspaceFile): Plan => ({
  kind: 'create',
  title: `Make ${marker.name} a workspace`,
  steps: [newMarkerStep(marker)],
  notes: [],
  paths: [],
  readiness: null,
});

/** What is to be said where all was copied and the report was not written. */
const withoutReport = (to: string, id: string, { code, message }: AppError) =>
  new AppError(
    code,
    `Everything was copied to ${to}, but its report could not be written. ${message}`,
    `The copies are whole and stay (ledger entry ${id}). Write the report into another folder, or collect again where there is room.`,
  );

/** The report alone, as a plan: nothing is copied, every file is read for its checksum. */
export async function planReportOnly({ source, draft }: Collecting, draw: Draw): Promise<Plan> {
  const from = new Map(draft.sources);
  const files: Report['files'] = [];
  for (const file of draft.report.files)
    files.push({ ...file, blake3: await source.outside.digest(from.get(file.path)!) });
  const said = await withPictureSays(source.outside, files, (f) => from.get(f.path)!);
  return reportPlan({ ...draft.report, made: new Date().toISOString(), files: said }, draft.sources, draw);
}

/** What pictures say of their making, from their first bytes. */
async function withPictureSays(
  outside: Pick<OutsideFiles, 'read'>,
  files: Report['files'],
  at: (file: Report['files'][number]) => string,
): Promise<Report['files']> {
  const said: Report['files'] = [];
  for (const file of files) {
    const length = file.kind === 'texture' || extensionOf(file.path) === '.svg' ? bytesToSay(file.path) : 0;
    const head = length === 0 ? null : await outside.read(at(file), [0, length]).catch(() => null);
    said.push({ ...file, ...(head && pictureSays(file.path, head)) });
  }
  return said;
}

async function reportPlan(report: Report, sources: ReportDraft['sources'], draw: Draw): Promise<Plan> {
  const pictures = await smallPictures(report, new Map(sources), draw);
  const files: [string, string][] = [
    [reportNames.page, reportPage(report, pictures)],
    [reportNames.data, `${JSON.stringify(report, null, 1)}\n`],
    [reportNames.table, reportTable(report)],
  ];
  return {
    kind: 'collect',
    title: 'Say what is in here',
    steps: files.map(([path, text]) => putBytes(treePath(path), utf8(text))),
    notes: [],
    paths: [],
    readiness: null,
  };
}

/** So many files get a picture; a page of thousands would not open. */
const mostPictures = 300;
const side = 48;

/** Draws a file small, as WebP; null where there is no picture of it. */
export type Draw = (path: string, side: number) => Promise<Uint8Array | null>;

/** Draws what may be looked at. */
export function drawWithin(allowed: Allowed): Draw {
  return async (path, side) => {
    try {
      return await smallPicture({ path, allowed, side });
    } catch (cause) {
      if (cause instanceof AppError) return null;
      throw cause;
    }
  };
}

/** Small pictures of textures, as data URIs, by where they lie. */
async function smallPictures(
  { files }: Report,
  from: ReadonlyMap<string, string>,
  draw: Draw,
): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  for (const { path } of files.filter((f) => f.kind === 'texture').slice(0, mostPictures)) {
    const picture = await draw(from.get(path)!, side);
    if (picture) found.set(path, `data:image/webp;base64,${Buffer.from(picture).toString('base64')}`);
  }
  return found;
}

/** Scenes of a workspace that are worked on, with their versions that lie there as files. */
async function workedOn(workspace: OpenWorkspace): Promise<CollectNeeds['scenes']> {
  return (await allSeries(workspace))
    .flatMap(({ scene, versions }) => [
      ...(versions.some((v) => v.path === scene) ? [] : [{ path: scene, isLatest: true }]),
      ...versions.filter((v) => !v.compact).map(({ path }) => ({ path, isLatest: path === scene })),
    ])
    .sort((a, b) => comparePaths(a.path, b.path));
}

/** The scenes that are asked for, as absolute paths, among all there are. */
export async function scenesIn(
  workspace: OpenWorkspace,
  scope: CollectScope,
): Promise<{ all: CollectNeeds['scenes']; chosen: string[] }> {
  const { root } = workspace;
  const all = await workedOn(workspace);
  const named = Array.isArray(scope)
    ? scope
    : all.filter((s) => scope === 'all' || s.isLatest).map((s) => s.path);
  const known = new Set(all.map((s) => s.path));
  const unknown = named.find((scene) => !known.has(scene));
  if (unknown !== undefined) throw new AppError('not-found', `${unknown} is no scene of this workspace.`);
  return { all, chosen: named.map((scene) => `${root === '/' ? '' : root}/${scene}`) };
}

/** What scenes need, as the page shows it. */
export async function needsOf(
  workspace: OpenWorkspace,
  request: Pick<CollectRequest, 'scenes' | 'excluded'>,
  options: Pick<CollectOptions, 'signal' | 'onFile'>,
): Promise<CollectNeeds> {
  const { all, chosen } = await scenesIn(workspace, request.scenes);
  const closure = await closureOf(sourceOf(workspace), { chosen, excluded: request.excluded, ...options });
  const { libraries, homes } = workspace.file;
  return { ...neededWire(workspace.root, closure), scenes: all, libraries, homes };
}

/** What is needed, with numbers for names that come again and again. */
export function neededWire(root: string, closure: Closure): NeededWire {
  const at = new Map([...closure.files.keys()].map((from, n) => [from, n]));
  const by = (needs: readonly Need[]) => [
    ...new Set(needs.flatMap((n) => (at.has(n.scene) ? [at.get(n.scene)!] : []))),
  ];
  return {
    root,
    files: [...closure.files.values()].map((f) => ({
      from: f.from,
      size: f.state.size,
      kind: f.kind,
      below: f.below,
      lies: f.lies,
      chosen: f.chosen,
      owner: f.owner === null ? null : (at.get(f.owner) ?? null),
      by: by(f.neededBy),
      set: f.set,
    })),
    sets: [...closure.sets].map(([path, members]): [string, number[]] => [
      path,
      members.flatMap((m) => at.get(m) ?? []),
    ]),
    left: closure.left.map(({ why, path, files, size, via, neededBy }) => ({
      why,
      path,
      written: neededBy[0]?.written ?? '',
      files,
      size,
      via,
      by: by(neededBy),
    })),
    notes: closure.notes.map((n) => n.message),
  };
}

/** Frames and tiles of it that nothing shows. `frames`: what somebody said of sequences that no scene says anything of. */
export async function usedIn(
  workspace: OpenWorkspace,
  request: Pick<CollectRequest, 'scenes' | 'excluded'> & {
    frames: readonly (readonly [string, FrameRange])[];
  },
  options: Pick<CollectOptions, 'signal' | 'onFile'>,
): Promise<Used> {
  const { chosen } = await scenesIn(workspace, request.scenes);
  const source = sourceOf(workspace);
  const all = await closureOf(source, { chosen, excluded: request.excluded, ...options });
  return usedOf(source, all, new Map(request.frames), options.signal);
}
