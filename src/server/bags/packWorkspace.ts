// Packs what was chosen of a workspace: its own files as they lie; what is used of libraries and of other places, with paths in the bag's copies
// written for there; and what the bag says of itself.

import { arrivalNames, arrivalPage } from '@/core/bags/arrivalPage';
import {
  travellingOf,
  usualChoice,
  type TravelChoice,
  type TravelClass,
  type Travelling,
} from '@/core/bags/travelling';
import type { Closure, NeededFile, Source } from '@/core/collect/closure';
import { reportOf, reportTable } from '@/core/collect/report';
import { AppError } from '@/core/errors';
import { isOwn, versionsFolder } from '@/core/files/records';
import { insideOf } from '@/core/files/treePath';
import { fileSystemNamed, fileSystems } from '@/core/names/fileSystems';
import { contentAt } from '@/core/plans/contentAt';
import { placedTarget } from '@/core/collect/placement';
import { isReady } from '@/core/references/resolve';
import { decodeText } from '@/core/text/bytes';
import { bytes as bytesText } from '@/core/text/figures';
import { storedBy, versionOfNote } from '@/core/versions/note';
import { signsOf } from '../disk/signs';
import { fromSystem } from '../disk/system';
import type { OpenWorkspace } from '../workspaces/open';
import { lookAtTravel, type Looked } from './travelLook';
import { lineageInfo, lineageOf } from '../arrive/lineage';
import { pack, type BagTag, type Packed, type PackOptions } from './pack';
import type { BagSource, Contents, LeftOut } from './contents';

export interface TravelOptions extends Omit<PackOptions, 'tags' | 'select'> {
  choice?: TravelChoice | undefined;
  /** Tag files beside the report and the arrival page. */
  moreTags?: readonly BagTag[] | undefined;
}

export interface Travelled extends Packed {
  /** Of the scenes that travel; `ready`: those that open from the bag alone. */
  references: number;
  ready: number;
  /** What was left out by choice, by class. */
  without: { class: TravelClass; files: number; bytes: number }[];
  /** Needed by what travels, and left out by choice. */
  broken: Travelling['broken'];
  /** Libraries it leans on ('' for other places outside). */
  leansOn: readonly string[];
}

/** Packs what is chosen of a workspace. Throws AppError where the drive cannot hold it. */
export async function packWorkspace(
  workspace: OpenWorkspace,
  to: string,
  { choice = usualChoice, moreTags = [], ...options }: TravelOptions = {},
): Promise<Travelled> {
  const looked = await lookAtTravel(workspace, { signal: options.signal });
  const travelling = travellingOf(looked.look, choice);
  const does = new Map(looked.look.files.map((f, n) => [f.path, travelling.travels[n]!]));
  const along = await filesAlong(looked, choice, does);
  const without = [...travelling.byClass]
    .map(([name, sum]) => ({ name, sum }))
    .filter(({ sum }) => sum.travelling < sum.files)
    .map(({ name }) => {
      const left = looked.look.files.filter((f, n) => f.class === name && !travelling.travels[n]);
      return { class: name, files: left.length, bytes: left.reduce((s, f) => s + f.size, 0) };
    });
  // What came after the look travels by its folder's rule: by class it is new, and nobody left it out.
  const isTaken = (path: string) => does.get(path) ?? !(isOwn(path) && choice.without.includes('history'));
  const select = (contents: Contents): Contents => ({
    ...contents,
    files: [
      ...contents.files.filter((f) => isTaken(f.at)).map((f) => along.rewritten.get(f.at) ?? f),
      ...along.files,
    ].sort((a, b) => (a.at < b.at ? -1 : 1)),
    empty: contents.empty.filter((folder) => isTaken(`${folder}/`)),
  });
  const tags = (contents: Contents) => {
    const isSet = options.volume !== undefined;
    return Promise.resolve([
      ...tagsOf(workspace, looked, { contents, travelling, without, isSet }),
      ...moreTags,
    ]);
  };
  const limit = await largestAt(to);
  const packed = await pack(workspace.root, to, {
    ...options,
    info: [...(options.info ?? []), ...lineageInfo(await lineageOf(workspace))],
    outside: workspace.outside,
    tags,
    select(contents) {
      const selected = select(contents);
      if (limit !== null) checkLargest(selected, to, limit, options.volume);
      return selected;
    },
  });
  const { references, ready } = readiness(looked, does, along.taken);
  packed.leftOut.push(...(await compactedLeft(workspace, choice)));
  return { ...packed, references, ready, without, broken: travelling.broken, leansOn: travelling.leansOn };
}

/** Versions that should travel, and are kept compact in the store, which does not. */
async function compactedLeft({ tree }: OpenWorkspace, { without }: TravelChoice): Promise<LeftOut[]> {
  const left: LeftOut[] = [];
  if (without.includes('versions') || !without.includes('history')) return left;
  for await (const { path } of tree.list(versionsFolder)) {
    const version = versionOfNote(path);
    const stored = version && storedBy(decodeText(await tree.read(path)).text);
    if (version === null || stored?.length === 0) continue;
    const why = stored
      ? 'it is kept compact: make it a file again to pack it'
      : 'the note about it is damaged';
    left.push({ path: version, why });
  }
  return left;
}

/** The longest file of the drive that a bag goes to; null: it can hold any. */
async function largestAt(to: string): Promise<{ name: string; longest: number } | null> {
  const folder = fromSystem(to.slice(0, to.lastIndexOf('/')) || '/');
  const signs = await signsOf(folder).catch(() => null);
  const id = fileSystemNamed(signs?.fileSystem ?? null);
  return id === null ? null : { name: fileSystems[id].name, longest: fileSystems[id].longestFile };
}

function checkLargest(
  { files }: Contents,
  to: string,
  { name, longest }: { name: string; longest: number },
  volume: number | undefined,
): void {
  const asZip = /\.zip$/i.test(to);
  const large = files.filter((f) => f.size > longest);
  if (large.length > 0)
    throw new AppError(
      'bad-request',
      `${large[0]!.at} has ${bytesText(large[0]!.size)}; the drive is formatted as ${name}, which holds files of at most ${bytesText(longest)}. Leave it out, or take another drive.`,
      'No bag was made.',
      large.map((f) => f.at),
    );
  const total = files.reduce((sum, f) => sum + f.size, 0);
  if (asZip && total > longest && (volume === undefined || volume > longest))
    throw new AppError(
      'bad-request',
      `As one ZIP it would have ${bytesText(total)}; the drive is formatted as ${name}, which holds files of at most ${bytesText(longest)}. Pack it as a folder, or in volumes of at most that.`,
      'No bag was made.',
    );
}

/** What comes from outside, and the files of the root whose paths lead there. */
async function filesAlong(
  { closure, placement, source, look }: Looked,
  choice: TravelChoice,
  does: ReadonlyMap<string, boolean>,
): Promise<{
  files: BagSource[];
  rewritten: Map<string, BagSource>;
  taken: ReadonlyMap<string, NeededFile>;
}> {
  const comes = (f: NeededFile) =>
    f.lies.in !== 'root' && choice.along.includes(f.lies.in === 'library' ? f.lies.name : '');
  const along = new Map(
    [...closure.files].filter(([, f]) => comes(f) && isNeededThere(f, closure, source, does)),
  );
  const files: BagSource[] = [];
  const rewritten = new Map<string, BagSource>();
  if (along.size === 0) return { files, rewritten, taken: along };
  const known = new Set(look.files.map((f) => f.path));
  for (const f of closure.files.values()) {
    const inside = insideOf(source.root, f.from);
    if (inside === null ? !along.has(f.from) : !known.has(inside)) continue;
    if (inside !== null && !f.references?.some((r) => isAlong(r.target, along, closure))) continue;
    const to = placement.files.get(f.from)!.to;
    const content = await contentAt(source, f, to, (r) => {
      const target = placedTarget(source.root, f.from, r, closure, placement);
      // Only what leads to something that comes along is written anew; in what comes along itself, all that leads into the bag.
      return inside === null || isAlong(r.target, along, closure) ? target : null;
    });
    const bag: BagSource = {
      at: to,
      from: inside ?? { outside: f.from },
      size: content.size,
      modified: f.state.modified,
      ...(content.pieces ? { rewritten: { pieces: content.pieces, size: f.state.size } } : {}),
    };
    if (inside === null) files.push(bag);
    else if (content.pieces) rewritten.set(inside, bag);
  }
  return { files, rewritten, taken: along };
}

const isAlong = (target: string | null, along: ReadonlyMap<string, NeededFile>, { sets }: Closure) =>
  target !== null && (along.has(target) || (sets.get(target)?.some((m) => along.has(m)) ?? false));

function readiness(
  { closure, source }: Looked,
  does: ReadonlyMap<string, boolean>,
  along: ReadonlyMap<string, NeededFile>,
): { references: number; ready: number } {
  let references = 0;
  let ready = 0;
  for (const f of closure.files.values()) {
    const scene = insideOf(source.root, f.from);
    if (scene === null || !does.get(scene)) continue;
    for (const r of f.references ?? []) {
      references++;
      const comes = r.members
        ? r.members.every((m) => does.get(r.target!.slice(0, r.target!.lastIndexOf('/') + 1) + m))
        : does.get(r.target ?? '');
      if ((isReady(r) && comes) || isAlong(r.target, along, closure)) ready++;
    }
  }
  return { references, ready };
}

/** Whether something that travels leads to it, through whatever chain. */
function isNeededThere(
  file: NeededFile,
  closure: Closure,
  { root }: Source,
  does: ReadonlyMap<string, boolean>,
): boolean {
  const seen = new Set<string>([file.from]);
  const waiting = [file];
  for (let f = waiting.pop(); f; f = waiting.pop())
    for (const n of f.neededBy) {
      const inside = insideOf(root, n.scene);
      if (inside !== null && does.get(inside)) return true;
      if (seen.has(n.scene)) continue;
      seen.add(n.scene);
      const next = closure.files.get(n.scene);
      if (next && inside === null) waiting.push(next);
    }
  return false;
}

/** The report and the arrival page. */
function tagsOf(
  workspace: OpenWorkspace,
  { closure, placement }: Looked,
  of: {
    contents: Contents;
    travelling: Travelling;
    without: Travelled['without'];
    isSet: boolean;
  },
): BagTag[] {
  const made = new Date().toISOString();
  const there = new Set<string>(of.contents.files.map((f) => f.at));
  const all = reportOf({ root: workspace.root, name: workspace.file.name, made, closure, placement });
  const report = {
    ...all,
    files: all.files.filter((f) => there.has(f.path)),
    scenes: all.scenes.filter((s) => there.has(s.path)),
    left: [
      ...all.left.filter((l) => l.neededBy.some((n) => there.has(n.scene))),
      ...all.files
        .filter((f) => !there.has(f.path) && f.neededBy.some((n) => there.has(n.scene)))
        .map((f) => ({
          why: 'unticked' as const,
          what: f.path,
          files: 1,
          size: f.size,
          neededBy: f.neededBy,
        })),
    ],
  };
  const open = all.files
    .filter((f) => f.chosen && f.neededBy.length === 0 && there.has(f.path))
    .map((f) => f.path);
  const modified = new Map(of.contents.files.map((f) => [f.at as string, f.modified]));
  const page = arrivalPage({
    name: workspace.file.name,
    day: made.slice(0, 10),
    report: { ...report, left: all.left.filter((l) => l.neededBy.some((n) => there.has(n.scene))) },
    files: of.contents.files.length,
    bytes: of.contents.files.reduce((sum, f) => sum + f.size, 0),
    open: open.sort((a, b) => (modified.get(b) ?? 0) - (modified.get(a) ?? 0)),
    without: of.without,
    broken: of.travelling.broken,
    isSet: of.isSet,
  });
  return [
    { name: arrivalNames.page, text: page },
    { name: arrivalNames.data, text: `${JSON.stringify(report, null, 1)}\n` },
    { name: arrivalNames.table, text: reportTable(report) },
  ];
}
