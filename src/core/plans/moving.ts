// Moves and renames inside a workspace, with every reference kept: those to what moves, and those that stand in what moves.
// What cannot be kept is not moved: a path in a packed file that cannot be rewritten holds its target where it is, frames that would be
// parted stay together. References that are missing already stay as they are, to the byte.

import type { Note, PathChange, Step } from '../changes/plan';
import { foldName } from '../names/portable';
import type { CancelSignal } from '../files/fileTree';
import {
  comparePaths,
  folderOf,
  isWithin,
  join,
  joinInside,
  nameOf,
  treePath,
  type TreePath,
} from '../files/treePath';
import type { Syntax } from '../formats/format';
import type { FileReading } from '../formats/formats';
import { markerPath, versionsFolder } from '../layouts/workspace';
import type { Setting } from '../references/resolve';
import { filesOf, judge, readScene, scenePaths, uncertain, type JudgedReference } from '../references/scan';
import { spell, understand } from '../references/written';
import { rewrite, writtenRelative, type Rewriting } from './rewrite';
import { settingOf, type Workspace } from './workspace';

export interface MoveRequest {
  /** Files: where each lies, and where it shall lie. */
  files?: ReadonlyMap<string, string>;
  /** Whole folders, with all that is in them. A folder whose new place exists is poured into it. */
  folders?: readonly { path: string; to: string }[];
  /** True: folders that fall empty are taken away, but for those in `kept`. */
  clearEmptied?: boolean;
  kept?: readonly string[];
  /** The scenes that may name what moves; absent: all of the tree. */
  scenes?: readonly TreePath[] | undefined;
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, of: number, path: string) => void) | undefined;
}

export interface Moved {
  steps: Step[];
  paths: PathChange[];
  notes: Note[];
  /** Files that will lie elsewhere, those in moved folders not counted. */
  files: ReadonlyMap<string, string>;
}

/** What a scene says of one file inside the root or, from a scene that moves, outside it. */
interface Tie {
  scene: TreePath;
  files: readonly string[];
  target: string;
  /** False where the path stands in no text that can be changed. */
  canChange: boolean;
  reference: JudgedReference;
  syntax: Syntax;
}

/** Works out moves. Blocker notes say what prevents them as a whole. */
export async function moving(workspace: Workspace, request: MoveRequest): Promise<Moved> {
  const { tree } = workspace;
  const notes: Note[] = [];
  const files = new Map(request.files ?? []);
  const folders: { path: TreePath; to: TreePath }[] = [];
  for (const { path, to } of request.folders ?? []) {
    if (isWithin(to, path))
      notes.push({
        level: 'blocker',
        code: 'into-itself',
        message: `${path} cannot be moved into itself.`,
        path,
      });
    else if ((await tree.kind(treePath(path))) !== 'folder')
      notes.push({ level: 'blocker', code: 'not-found', message: `${path} is no folder.`, path });
    else if ((await tree.kind(treePath(to))) === 'folder')
      for await (const f of tree.list(treePath(path))) files.set(f.path, to + f.path.slice(path.length));
    else folders.push({ path: treePath(path), to: treePath(to) });
  }
  for (const [path, to] of files) if (path === to) files.delete(path);
  const setting = settingOf(workspace);
  const scenes = request.scenes ?? (await scenePaths(tree));
  const ties = await tiesOf(workspace, setting, scenes, request);
  holdBack(ties, files, folders, notes);
  // What is blocked is not worked out further.
  const blocked = (): Moved | null =>
    notes.some((n) => n.level === 'blocker') ? { steps: [], paths: [], notes, files } : null;
  for (;;) {
    const stop = blocked();
    if (stop) return stop;
    const place = placing(files, folders);
    const failed = new Set<string>();
    const puts: Step[] = [];
    const paths: PathChange[] = [];
    const told: Note[] = [];
    for (const scene of scenes) {
      const own = ties.get(scene)!;
      if (
        own.length === 0 ||
        (place(scene) === scene && !own.some((t) => t.files.some((f) => place(f) !== f)))
      )
        continue;
      request.signal?.throwIfAborted();
      const done = await rewriteScene(workspace, setting, scene, place, told);
      if (done === null) continue;
      if (done.failed.length > 0) for (const f of done.failed) failed.add(f);
      else if (done.step) {
        puts.push(done.step);
        paths.push(...done.paths);
      }
    }
    if (failed.size === 0) {
      notes.push(...told);
      const steps = await moveSteps(
        workspace,
        files,
        folders,
        request.clearEmptied ? (request.kept ?? []) : null,
        notes,
      );
      return { steps: [...steps.before, ...puts, ...steps.after], paths, notes, files };
    }
    let held = false;
    for (const f of failed)
      held = hold(f, files, folders, notes, 'a path to it cannot be said by its format') || held;
    if (!held)
      notes.push({
        level: 'blocker',
        code: 'held',
        message: `A path to ${[...failed][0]} cannot be said by its format.`,
      });
  }
}

/** Every reference of every scene whose target is known, as far as moving needs it. */
async function tiesOf(
  workspace: Workspace,
  setting: Setting,
  scenes: readonly TreePath[],
  request: MoveRequest,
): Promise<Map<TreePath, Tie[]>> {
  const ties = new Map<TreePath, Tie[]>();
  for (const [i, scene] of scenes.entries()) {
    request.signal?.throwIfAborted();
    request.onScene?.(i + 1, scenes.length, scene);
    const own: Tie[] = [];
    ties.set(scene, own);
    const reading = await readScene(workspace.tree, scene);
    if (!reading || !('format' in reading)) continue;
    for (const r of (await judge(scene, reading, setting)).references)
      if (r.target !== null)
        own.push({
          scene,
          files: filesOf(r),
          target: r.target,
          canChange: canChange(reading, r),
          reference: r,
          syntax: r.syntax ?? reading.format.syntax,
        });
  }
  return ties;
}

function canChange(reading: FileReading, r: JudgedReference): boolean {
  return reading.rewrite !== undefined || r.span !== null;
}

function hold(
  file: string,
  files: Map<string, string>,
  folders: readonly { path: string }[],
  notes: Note[],
  why: string,
): boolean {
  if (files.delete(file))
    notes.push({ level: 'warning', code: 'held', message: `${file} stays where it is: ${why}.`, path: file });
  else if (folders.some((m) => isWithin(file, m.path)) && !notes.some((n) => n.path === file))
    notes.push({ level: 'blocker', code: 'held', message: `${file} cannot be moved: ${why}.`, path: file });
  else return false;
  return true;
}

/** Takes out moves that would break what cannot be mended; what depends on them in turn is looked at again. */
function holdBack(
  ties: ReadonlyMap<TreePath, readonly Tie[]>,
  files: Map<string, string>,
  folders: readonly { path: TreePath; to: TreePath }[],
  notes: Note[],
): void {
  for (let again = true; again;) {
    again = false;
    const place = placing(files, folders);
    for (const own of ties.values())
      for (const tie of own) {
        if (tie.files.length === 0) {
          // Outside: only a path that cannot be changed, in a scene that moves, would be lost.
          if (
            !tie.canChange &&
            place(tie.scene) !== tie.scene &&
            !stillFinds(tie.reference, tie.syntax, tie.scene, place(tie.scene), tie.target as TreePath)
          )
            again =
              hold(
                tie.scene,
                files,
                folders,
                notes,
                'it is a packed file whose path to a file outside cannot be changed',
              ) || again;
          if (again) break;
          continue;
        }
        const moved = tie.files.map(place);
        if (
          tie.files.length > 1 &&
          moved.some((m, i) => folderOf(m) !== folderOf(moved[0]!) || nameOf(m) !== nameOf(tie.files[i]!))
        ) {
          for (const f of tie.files)
            if (hold(f, files, folders, notes, 'its frames or tiles must keep their names and stay together'))
              again = true;
        } else if (
          !tie.canChange &&
          !stillFinds(
            tie.reference,
            tie.syntax,
            tie.scene,
            place(tie.scene),
            targetAfter(tie.reference, place),
          )
        ) {
          const why = `${nameOf(tie.scene)} is a packed file whose paths cannot be changed`;
          for (const f of [tie.scene, ...tie.files])
            if (place(f) !== f && hold(f, files, folders, notes, why)) again = true;
        }
        if (again) break;
      }
  }
}

type Place = (path: string) => TreePath;

/** Where each path will lie. */
function placing(
  files: ReadonlyMap<string, string>,
  folders: readonly { path: TreePath; to: TreePath }[],
): Place {
  const byDepth = folders.toSorted((a, b) => b.path.length - a.path.length);
  return (path) => {
    const to = files.get(path);
    if (to !== undefined) return to as TreePath;
    const folder = byDepth.find((m) => isWithin(path, m.path));
    return (folder ? folder.to + path.slice(folder.path.length) : path) as TreePath;
  };
}

/** The rewriting of one scene at its new place. `failed`: files inside whose paths cannot be said, which must not move. */
async function rewriteScene(
  workspace: Workspace,
  setting: Setting,
  scene: TreePath,
  place: Place,
  told: Note[],
): Promise<{ step: Step | null; paths: PathChange[]; failed: string[] } | null> {
  const reading = await readScene(workspace.tree, scene);
  if (!reading || !('format' in reading)) return null;
  const to = place(scene);
  const rewritings: Rewriting[] = [];
  for (const reference of (await judge(scene, reading, setting)).references) {
    const written = newWriting(workspace, reading, scene, to, reference, place);
    if (written === null) continue;
    rewritings.push({ reference, written });
    if (reference.uncertain)
      told.push({
        level: 'info',
        code: uncertain,
        message: `${reference.written} at ${reference.at} may be a path or not; it named a file that moves, so it is changed with it.`,
        path: scene,
      });
  }
  if (rewritings.length === 0) return null;
  const stat = await workspace.tree.stat(scene);
  if (!stat) return null;
  const state = { size: stat.size, modified: stat.modified, digest: await workspace.tree.digest(scene) };
  const done = rewrite(reading, state.size, rewritings, to);
  if (done.notes.some((n) => n.code === 'cannot-say'))
    return {
      step: null,
      paths: [],
      failed: [scene, ...rewritings.flatMap((r) => filesOf(r.reference))].filter((f) => place(f) !== f),
    };
  told.push(...done.notes);
  if (!done.pieces) return null;
  return {
    step: {
      do: 'put',
      path: to,
      before: state,
      size: done.size,
      modified: null,
      from: { from: 'tree', path: to, state, pieces: done.pieces },
    },
    paths: done.paths,
    failed: [],
  };
}

/** How a reference is written after the move; null where it stays. */
function newWriting(
  workspace: Workspace,
  reading: FileReading,
  scene: TreePath,
  to: TreePath,
  r: JudgedReference,
  place: Place,
): string | null {
  if (r.target === null) return null;
  const syntax = r.syntax ?? reading.format.syntax;
  const understood = understand(`${r.prefix ?? ''}${r.written}`, syntax);
  const isAbsolute = understood.form === 'absolute';
  if (!r.inside)
    return isAbsolute || to === scene || r.oddities.includes('home-folder')
      ? null
      : writtenRelative(reading, `${workspace.root}/${to}`, r.target, r);
  const target = targetAfter(r, place);
  if (stillFinds(r, syntax, scene, to, target)) return null;
  if (isAbsolute && understood.path.toLowerCase().startsWith(`${workspace.root.toLowerCase()}/`))
    return spell(`${workspace.root}/${target}`, syntax, r.written) + understood.tail;
  return writtenRelative(reading, to, target, r);
}

/** Where the target of a reference inside the root will lie; of a sequence the name with its marks. */
function targetAfter(r: JudgedReference, place: Place): TreePath {
  const [first] = filesOf(r);
  return r.members ? join(folderOf(place(first!)), nameOf(r.target!)) : place(r.target!);
}

/** Whether a reference, as it is written, leads to `target` from the scene's new place `to`. */
function stillFinds(
  r: JudgedReference,
  syntax: Syntax,
  scene: TreePath,
  to: TreePath,
  target: TreePath,
): boolean {
  const understood = understand(`${r.prefix ?? ''}${r.written}`, syntax);
  const isByItself =
    understood.form === 'absolute' ||
    r.via === 'search path' ||
    r.oddities.includes('working-folder') ||
    r.oddities.includes('home-folder');
  if (target === r.target && (to === scene || isByItself)) return true;
  return (
    !isByItself &&
    understood.form === 'relative' &&
    joinInside(folderOf(to), `${understood.path}${r.suffix ?? ''}`) === target
  );
}

/** Steps that move files and nothing else, for what leaves the work: paths that name them, and those in them, stay as they are. */
export async function plainMoves(
  workspace: Workspace,
  files: ReadonlyMap<string, string>,
  kept: readonly string[],
): Promise<{ steps: Step[]; notes: Note[] }> {
  const notes: Note[] = [];
  const { before, after } = await moveSteps(workspace, files, [], kept, notes);
  return { steps: [...before, ...after], notes };
}

/** Steps that move: folders made first, whole folders, then files in an order in which each finds its place free; emptied folders last. */
async function moveSteps(
  workspace: Workspace,
  files: ReadonlyMap<string, string>,
  folders: readonly { path: TreePath; to: TreePath }[],
  kept: readonly string[] | null,
  notes: Note[],
): Promise<{ before: Step[]; after: Step[] }> {
  const { tree } = workspace;
  const byFolders = placing(new Map(), folders);
  const made = new Set<string>(['', ...folders.map((m) => m.to)]);
  const steps: Step[] = [];
  const makeParents = async (path: string) => {
    for (let i = path.indexOf('/'); i > 0; i = path.indexOf('/', i + 1)) {
      if (made.has(path.slice(0, i))) continue;
      const folder = treePath(path.slice(0, i));
      made.add(folder);
      const kind = await tree.kind(folder);
      if (kind === 'file')
        notes.push({
          level: 'blocker',
          code: 'in-the-way',
          message: `${folder} is a file, where a folder is needed.`,
          path: folder,
        });
      else if (kind === null && !folders.some((m) => isWithin(folder, m.to)))
        steps.push({ do: 'make-folder', path: folder });
    }
  };
  const noteFiles = new Map<string, string>();
  const noteFolders: { path: TreePath; to: TreePath }[] = [];
  if ((await tree.kind(versionsFolder)) === 'folder') {
    // Notes about versions lie by the scene's own path, and go with it.
    for (const [path, to] of files)
      if ((await tree.kind(treePath(`${versionsFolder}/${path}.json`))) === 'file')
        noteFiles.set(`${versionsFolder}/${path}.json`, `${versionsFolder}/${to}.json`);
    for (const { path, to } of folders)
      if (
        (await tree.kind(treePath(`${versionsFolder}/${path}`))) === 'folder' &&
        (await tree.kind(treePath(`${versionsFolder}/${to}`))) === null
      )
        noteFolders.push({
          path: treePath(`${versionsFolder}/${path}`),
          to: treePath(`${versionsFolder}/${to}`),
        });
  }
  const all = [...folders, ...noteFolders];
  for (const m of all) {
    await makeParents(m.to);
    if ((await tree.kind(m.to)) !== null)
      notes.push({ level: 'blocker', code: 'in-the-way', message: `${m.to} is there already.`, path: m.to });
    steps.push({ do: 'move-folder', ...m });
  }
  const leaving = new Set([...files.keys()]);
  const taken = new Map<string, string>();
  const waiting: {
    path: TreePath;
    to: TreePath;
    content: { size: number; modified: number; digest: null };
  }[] = [];
  for (const [path, to] of [...files, ...noteFiles].sort((a, b) => comparePaths(a[0], b[0]))) {
    const stat = await tree.stat(treePath(path));
    if (!stat) {
      notes.push({ level: 'blocker', code: 'not-found', message: `${path} is not there.`, path });
      continue;
    }
    const twin = taken.get(foldName(to));
    if (twin !== undefined)
      notes.push({
        level: 'blocker',
        code: 'in-the-way',
        message: `${path} and ${twin} would both become ${to}.`,
        path,
      });
    taken.set(foldName(to), path);
    const there = await tree.kind(treePath(to));
    if (there !== null && !leaving.has(to) && !folders.some((m) => isWithin(to, m.path)))
      notes.push({
        level: 'blocker',
        code: 'in-the-way',
        message: `${path} cannot become ${to}: that is there already.`,
        path,
      });
    await makeParents(to);
    waiting.push({
      path: byFolders(path),
      to: treePath(to),
      content: { size: stat.size, modified: stat.modified, digest: null },
    });
  }
  steps.push(...inOrder(waiting));
  return {
    before: steps,
    after: kept ? await emptied(workspace, files, folders, new Set([...made, ...kept])) : [],
  };
}

/** An order in which no move finds its place taken by one that is still to leave; rings go by way of a name beside. */
function inOrder(
  moves: { path: TreePath; to: TreePath; content: { size: number; modified: number; digest: null } }[],
): Step[] {
  const steps: Step[] = [];
  const bySource = new Map(moves.map((m) => [m.path as string, m]));
  const done = new Set<string>();
  const aside = new Map<string, TreePath>();
  const go = (m: (typeof moves)[number], open: Set<string>) => {
    if (done.has(m.path)) return;
    open.add(m.path);
    const next = bySource.get(m.to);
    if (next && next !== m && !done.has(next.path)) {
      if (open.has(next.path)) {
        const beside = treePath(`${next.path}.moving-${aside.size + 1}`);
        aside.set(next.path, beside);
        steps.push({ do: 'move', path: next.path, to: beside, content: next.content });
      } else go(next, open);
    }
    done.add(m.path);
    steps.push({ do: 'move', path: aside.get(m.path) ?? m.path, to: m.to, content: m.content });
  };
  for (const m of moves) go(m, new Set());
  return steps;
}

/** Steps that take away folders which hold nothing any more, deepest first. */
async function emptied(
  workspace: Workspace,
  files: ReadonlyMap<string, string>,
  folders: readonly { path: TreePath; to: TreePath }[],
  kept: ReadonlySet<string>,
): Promise<Step[]> {
  const gone = new Set<string>([...files.keys(), ...folders.map((m) => m.path)]);
  const candidates = new Set<string>();
  for (const path of gone) for (let f: string = folderOf(path); f !== ''; f = folderOf(f)) candidates.add(f);
  const arriving = new Set<string>();
  for (const to of [...files.values(), ...folders.map((m) => m.to)])
    for (let f: string = folderOf(to); f !== '' && !arriving.has(f); f = folderOf(f)) arriving.add(f);
  const steps: Step[] = [];
  for (const folder of [...candidates].sort(
    (a, b) => b.split('/').length - a.split('/').length || comparePaths(a, b),
  )) {
    if (kept.has(folder) || arriving.has(folder) || folders.some((m) => isWithin(folder, m.path))) continue;
    const entries = (await workspace.tree.entries(treePath(folder))) ?? [];
    if (!entries.every((e) => gone.has(`${folder}/${e.name}`))) continue;
    gone.add(folder);
    steps.push({ do: 'remove-folder', path: treePath(folder) });
  }
  return steps;
}

/** Whether a path is one of our own records, which nobody moves. */
export function isOwn(path: string): boolean {
  return isWithin(path, folderOf(markerPath));
}
