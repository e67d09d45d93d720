// Collecting on disk: into a folder that is empty, with a report in it. The records of what was done lie in the application's own folder, so that what is handed over holds
// only what it is to hold; a collected workspace has its own.

import { bytesToWrite, type Plan } from '@/core/changes/plan';
import type { JournalRecord } from '@/core/changes/journal';
import { closureOf, type Closure, type Source } from '@/core/collect/closure';
import { reportPage } from '@/core/collect/page';
import { place, type ByHand, type Placement, type Rule } from '@/core/collect/placement';
import { reportNames, reportOf, reportTable, type About, type Report } from '@/core/collect/report';
import { AppError } from '@/core/errors';
import type { CancelSignal } from '@/core/files/fileTree';
import { isWithin, nameOf, treePath } from '@/core/files/treePath';
import { planCollect } from '@/core/plans/planCollect';
import { settingOf } from '@/core/plans/workspace';
import { checkNewName } from '@/core/names/portable';
import { latin1, utf8 } from '@/core/text/bytes';
import { count } from '@/core/text/figures';
import { diskOutside } from '../disk/diskOutside';
import { applyPlan, type Records } from './changing';
import { checkNoTwin, inNewFolder, rootOf, type OpenWorkspace } from './open';
import { recordsOf, shelfRecords } from './shelf';

export interface CollectOptions {
  /** Scenes, or other files, by absolute path. */
  chosen: readonly string[];
  rule: Rule;
  excluded?: readonly string[] | undefined;
  unticked?: ReadonlySet<string> | undefined;
  byHand?: ByHand | undefined;
  /** The new folder, absolute. */
  to: string;
  /** What it is called; absent: after what was chosen. */
  name?: string | undefined;
  signal?: CancelSignal | undefined;
  onFile?: ((found: number, path: string) => void) | undefined;
}

export interface Collecting {
  source: Source;
  closure: Closure;
  placement: Placement;
  plan: Plan;
  name: string;
  to: string;
}

/** What collecting would do. Throws AppError where the folder cannot be. */
export async function planCollecting(workspace: OpenWorkspace, options: CollectOptions): Promise<Collecting> {
  await checkTarget(workspace.root, options.to);
  const { root, outside, file } = workspace;
  const source: Source = { root, outside, setting: settingOf(workspace), homes: file.homes };
  const closure = await closureOf(source, options);
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
  const plan = await planCollect(source, { closure, placement, name, signal: options.signal });
  return { source, closure, placement, plan, name, to: options.to };
}

/** The new folder: not there yet, or empty; in a folder that is there, and in no workspace. */
async function checkTarget(root: string, to: string): Promise<void> {
  const name = nameOf(to);
  const parent = to.slice(0, to.lastIndexOf('/')) || '/';
  const wrong = checkNewName(name);
  if (wrong.length > 0) throw new AppError('bad-name', `“${name}” cannot be the name. ${wrong[0]!.message}`);
  const kind = await diskOutside.kind(to);
  if (kind === 'file') throw new AppError('exists', `${to} is a file.`);
  if (kind === 'folder') {
    const there = (await diskOutside.entries(to)) ?? [];
    if (there.length > 0)
      throw new AppError(
        'exists',
        `${to} is not empty: ${there[0]!.name} lies there. Choose an empty folder.`,
      );
  } else {
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
}

export interface Collected {
  record: JournalRecord;
  report: Report;
}

/** Copies what was planned, and writes the report. */
export async function collect(
  collecting: Collecting,
  dataFolder: string,
  options: {
    draw: Draw;
    signal?: CancelSignal | undefined;
    onProgress?: ((done: { steps: number; bytes: number; of: number }) => void) | undefined;
  },
): Promise<Collected> {
  const { plan, to } = collecting;
  return inNewFolder(to, async () => {
    const records = shelfRecords(to, recordsOf(dataFolder, to));
    const of = bytesToWrite(plan);
    const record = await applyPlan(
      to,
      plan,
      { signal: options.signal, onProgress: (d) => options.onProgress?.({ ...d, of }) },
      records,
    );
    const about = new Map<string, About>();
    for (const [n, step] of plan.steps.entries())
      if (step.do === 'put')
        about.set(step.path, { size: step.size, digest: record.about.get(n)?.digest ?? null });
    const report = await writeReport(collecting, about, records, options.draw).catch((cause: unknown) => {
      throw cause instanceof AppError ? withoutReport(to, record.id, cause) : cause;
    });
    return { record, report };
  });
}

/** What is to be said where all was copied and the report was not written. */
const withoutReport = (to: string, id: string, { code, message }: AppError) =>
  new AppError(
    code,
    `Everything was copied to ${to}, but its report could not be written. ${message}`,
    `The copies are whole and stay (ledger entry ${id}). Write the report into another folder, or collect again where there is room.`,
  );

/** The report alone, into the empty folder: nothing is copied, every file is read for its checksum. */
export async function collectReportOnly(
  collecting: Collecting,
  dataFolder: string,
  draw: Draw,
): Promise<Report> {
  const { to, closure, placement, source } = collecting;
  const about = new Map<string, About>();
  for (const file of closure.files.values())
    about.set(placement.files.get(file.from)!.to, {
      size: file.state.size,
      digest: await source.outside.digest(file.from),
    });
  return inNewFolder(to, () =>
    writeReport(collecting, about, shelfRecords(to, recordsOf(dataFolder, to)), draw),
  );
}

async function writeReport(
  { source, closure, placement, name, to }: Collecting,
  about: ReadonlyMap<string, About>,
  records: Records,
  draw: Draw,
): Promise<Report> {
  const report = reportOf({
    root: source.root,
    name,
    made: new Date().toISOString(),
    closure,
    placement,
    about,
  });
  const pictures = await smallPictures({ closure, placement }, draw);
  const files: [string, string][] = [
    [reportNames.page, reportPage(report, pictures)],
    [reportNames.data, `${JSON.stringify(report, null, 1)}\n`],
    [reportNames.table, reportTable(report)],
  ];
  await applyPlan(
    to,
    {
      kind: 'collect',
      title: 'Say what is in here',
      steps: files.map(([path, text]) => {
        const bytes = utf8(text);
        return {
          do: 'put',
          path: treePath(path),
          before: null,
          size: bytes.length,
          modified: null,
          from: { from: 'bytes', latin1: latin1(bytes) },
        };
      }),
      notes: [],
      paths: [],
      readiness: null,
    },
    {},
    records,
  );
  return report;
}

/** So many files get a picture; a page of thousands would not open. */
const mostPictures = 300;
const side = 48;

/** Draws a file small, as WebP; null where there is no picture of it. */
export type Draw = (path: string, side: number) => Promise<Uint8Array | null>;

/** Small pictures of textures, as data URIs, by where they lie. */
async function smallPictures(
  { closure, placement }: Pick<Collecting, 'closure' | 'placement'>,
  draw: Draw,
): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  const drawn = [...closure.files.values()].filter((f) => f.kind === 'texture').slice(0, mostPictures);
  for (const file of drawn) {
    const picture = await draw(file.from, side);
    if (picture)
      found.set(
        placement.files.get(file.from)!.to,
        `data:image/webp;base64,${Buffer.from(picture).toString('base64')}`,
      );
  }
  return found;
}
