// Moves and renames inside a workspace, with every reference kept: those to what moves, and those that stand in what moves. Links are ties like
// references. What cannot be kept is not moved: a path in a packed file that cannot be rewritten holds its target where it is, frames that
// would be parted stay together. What cannot be read, but names what moves, is said, or holds it (`holdNamed`).

import type { Basis, Note, PathChange, Step } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import {
  isAbsolutePath,
  isWithin,
  nameOf,
  relativePath,
  folderOf,
  rootPath,
  treePath,
  type TreePath,
} from '../files/treePath';
import { fullPath } from '../formats/format';
import { foldName } from '../names/portable';
import { meaningOf } from '../references/meant';
import { resolveReference } from '../references/resolve';
import { uncertain } from '../references/scan';
import { moveSteps } from './moveSteps';
import { LinkWorld, linksOf, placing, type Place } from './placing';
import { writtenRelative, type Rewriting } from './rewrite';
import { SceneSet, type Scene } from './sceneSet';
import { hold, holdBack, isMoved, newWriting, tiesOf, type Tie } from './ties';
import type { Workspace } from './workspace';

export interface MoveRequest {
  /** Files (or links): where each lies, and where it shall lie. */
  files?: ReadonlyMap<string, string>;
  /** Whole folders, with all that is in them. A folder whose new place exists is poured into it. */
  folders?: readonly { path: string; to: string }[];
  /** True: folders that fall empty are taken away, but for those in `kept`. */
  clearEmptied?: boolean;
  kept?: readonly string[];
  /** The scenes that may name what moves; absent: all of the tree. */
  scenes?: readonly TreePath[] | undefined;
  /** The folders in which links are looked for; absent: all of the tree. */
  below?: readonly TreePath[] | undefined;
  /** True: what is named by a file that cannot be changed stays where it is, and so does that file; else this is a warning. */
  holdNamed?: boolean;
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, of: number, path: string) => void) | undefined;
}

export interface Moved {
  steps: Step[];
  paths: PathChange[];
  notes: Note[];
  /** Files that will lie elsewhere, those in moved folders not counted. */
  files: ReadonlyMap<string, string>;
  basis?: Basis | undefined;
}

/** A move being worked out. */
interface Work {
  workspace: Workspace;
  request: MoveRequest;
  files: Map<string, string>;
  folders: { path: TreePath; to: TreePath }[];
  links: ReadonlyMap<TreePath, string>;
  notes: Note[];
}

function world(work: Work): { place: Place; links: LinkWorld } {
  const place = placing(work, work.links);
  return { place, links: new LinkWorld(work.links, work.workspace.root, place) };
}

/** What the request means on this tree: folders whose new place exists as their files. */
async function begin(workspace: Workspace, request: MoveRequest): Promise<Work> {
  const { tree } = workspace;
  const notes: Note[] = [];
  const links = await linksOf(tree, request.below);
  const files = new Map(request.files ?? []);
  const folders: Work['folders'] = [];
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
    else if ((await tree.kind(treePath(to))) === 'folder') {
      for await (const f of tree.list(treePath(path))) files.set(f.path, to + f.path.slice(path.length));
      for (const link of links.keys())
        if (isWithin(link, path)) files.set(link, to + link.slice(path.length));
    } else folders.push({ path: treePath(path), to: treePath(to) });
  }
  for (const [path, to] of files) if (path === to) files.delete(path);
  return { workspace, request, files, folders, links, notes };
}

const isBlocked = (notes: readonly Note[]) => notes.some((n) => n.level === 'blocker');

/** Works out moves. Blocker notes say what prevents them as a whole. */
export async function moving(workspace: Workspace, request: MoveRequest): Promise<Moved> {
  const work = await begin(workspace, request);
  const { files, folders, notes } = work;
  if (files.size === 0 && folders.length === 0) return { steps: [], paths: [], notes, files };
  const scenes = await SceneSet.of(workspace, request, request.scenes);
  const ties = new Map<TreePath, Tie[]>();
  for await (const scene of scenes.each()) ties.set(scene.path, tiesOf(scene));
  await heedNaming(work, scenes);
  const wanted = new Map(files);
  const holdAll = () => {
    do holdBack(ties.values(), files, () => world(work), notes);
    while (holdFollowers(work, wanted));
  };
  holdAll();
  // What is blocked is not worked out further.
  while (!isBlocked(notes)) {
    const done = await rewriteAll(work, scenes, ties);
    if ('puts' in done) return finish(work, scenes, done);
    const { place } = world(work);
    let held = false;
    for (const f of done.failed)
      held = hold(f, files, place, notes, 'a path to it cannot be said by its format') || held;
    if (held) holdAll();
    else
      notes.push({
        level: 'blocker',
        code: 'held',
        message: `A path to ${[...done.failed][0]} cannot be said by its format.`,
      });
  }
  return { steps: [], paths: [], notes, files };
}

/** What would take the name of a file that was held stays, too; true where there was any. */
function holdFollowers(work: Work, wanted: ReadonlyMap<string, string>): boolean {
  const { files, notes } = work;
  const { place } = world(work);
  const takers = new Map([...files].map(([path, to]) => [to, path]));
  const kept = [...wanted.keys()].filter((path) => !files.has(path));
  let held = false;
  for (let at = kept.pop(); at !== undefined; at = kept.pop()) {
    const taker = takers.get(at);
    if (taker === undefined || !files.has(taker)) continue;
    held = hold(taker, files, place, notes, `${nameOf(at)} keeps its name`) || held;
    kept.push(taker);
  }
  return held;
}

interface AllRewritten {
  puts: Step[];
  paths: PathChange[];
  told: Note[];
}

async function finish(work: Work, scenes: SceneSet, { puts, paths, told }: AllRewritten): Promise<Moved> {
  const { workspace, request, files, folders, notes } = work;
  const { place, links } = world(work);
  notes.push(...told);
  if (files.size > 0 || folders.length > 0)
    notes.push(...unreadNotes(scenes, place), ...strangers(work, scenes));
  const steps = await moveSteps(
    workspace,
    { files, folders },
    request.clearEmptied ? (request.kept ?? []) : null,
    notes,
  );
  const isThere = async (path: TreePath) =>
    (await workspace.tree.kind(path)) !== null || (await workspace.tree.entries(path)) !== null;
  const relinked = await links.steps(isThere);
  const all = [...steps.before, ...puts, ...relinked, ...steps.after];
  const basis = request.scenes || all.length === 0 ? undefined : scenes.basis();
  return { steps: all, paths, notes, files, ...(basis ? { basis } : {}) };
}

/** Scenes and folders that could not be read: what they name may move. */
function unreadNotes(scenes: SceneSet, place: Place): Note[] {
  return scenes
    .notes('warning', 'If it names what moves, it will not find it any more.')
    .map((n) =>
      n.path !== undefined && place(n.path) !== n.path
        ? { ...n, message: `${n.message} It moves itself, too.` }
        : n,
    );
}

/** Rewrites every scene that the moves concern; or the files that must not move, since a path to them cannot be said. */
async function rewriteAll(
  work: Work,
  scenes: SceneSet,
  ties: ReadonlyMap<TreePath, readonly Tie[]>,
): Promise<AllRewritten | { failed: Set<string> }> {
  const { place, links } = world(work);
  const failed = new Set<string>();
  const done: AllRewritten = { puts: [], paths: [], told: [] };
  for (const [path, own] of ties) {
    if (place(path) === path && !own.some((t) => isMoved(t, place))) continue;
    work.request.signal?.throwIfAborted();
    const scene = await scenes.read(path);
    if (!scene) continue;
    const to = place(path);
    const wishes = [
      ...wishesOf(work, scene, to, place, links, done.told),
      ...(await lostWishes(work, scenes, scene, to)),
    ];
    if (wishes.length === 0) continue;
    const rewritten = await scenes.rewriteStep(scene, wishes, to);
    if (rewritten.failed) {
      const named = wishes.flatMap((w) => own.find((t) => t.reference.at === w.reference.at)?.files ?? []);
      for (const f of [path, ...named]) if (place(f) !== f) failed.add(f);
      continue;
    }
    done.told.push(...rewritten.notes);
    if (!rewritten.step) continue;
    done.puts.push(rewritten.step);
    done.paths.push(...rewritten.paths);
  }
  return failed.size > 0 ? { failed } : done;
}

function wishesOf(
  { workspace }: Work,
  scene: Scene,
  to: TreePath,
  place: Place,
  links: LinkWorld,
  told: Note[],
): Rewriting[] {
  const wishes: Rewriting[] = [];
  for (const tie of tiesOf(scene)) {
    const written = newWriting(workspace.root, scene, tie, to, place, links);
    if (written === undefined) continue;
    const { reference } = tie;
    wishes.push({ reference, written });
    if (reference.uncertain)
      told.push({
        level: 'info',
        code: uncertain,
        message: `${reference.written} at ${reference.at} may be a path or not; it named a file that moves, so it is changed with it.`,
        path: scene.path,
      });
  }
  return wishes;
}

/** A missing reference stays missing: where its scene moves to a folder in which it would find a stranger, it goes on meaning what it meant. */
async function lostWishes(work: Work, scenes: SceneSet, scene: Scene, to: TreePath): Promise<Rewriting[]> {
  if (to === scene.path) return [];
  const arriving = new Set([...work.files.values()].map(foldName));
  const wishes: Rewriting[] = [];
  for (const reference of scene.references) {
    if (reference.target !== null || reference.state !== 'missing') continue;
    const { format } = scene.reading;
    const then = await resolveReference(reference, format, to, scenes.setting);
    const places = await scenes.placesFor(to, reference, format);
    const isAwaited = places.some((p) => arriving.has(foldName(p)));
    if (then.target === null && !isAwaited) continue;
    const meaning = meaningOf(
      work.workspace.root,
      scene.path,
      fullPath(reference),
      reference.syntax ?? format.syntax,
    );
    if (meaning && !isAbsolutePath(meaning.meant))
      wishes.push({ reference, written: writtenRelative(scene.reading, to, meaning.meant, reference) });
  }
  return wishes;
}

/** What the moves bring to a place where a missing reference looks for something else. */
function strangers(work: Work, scenes: SceneSet): Note[] {
  return [...work.files].flatMap(([path, to]): Note[] => {
    const scene = scenes.awaits(to);
    return scene === null
      ? []
      : [
          {
            level: 'warning',
            code: 'found-by-stranger',
            message: `${scene} misses a file at ${to}, or in the row it joins there; it will take ${nameOf(path)} for it.`,
            path: to,
          },
        ];
  });
}

/** Files whose paths we cannot read or change, but in whose bytes the names of what moves stand. */
async function heedNaming(work: Work, scenes: SceneSet): Promise<void> {
  const { workspace, request, files, notes } = work;
  if (request.scenes) return;
  const byName = new Map<string, TreePath[]>();
  for await (const f of workspace.tree.list(rootPath, () => undefined)) {
    const same = byName.get(nameOf(f.path));
    if (same) same.push(f.path);
    else byName.set(nameOf(f.path), [f.path]);
  }
  const naming = await scenes.namingFiles(new Set(byName.keys()), notes);
  for (let again = true; again;) {
    again = false;
    const { place } = world(work);
    const parts = (a: string, b: string) =>
      relativePath(folderOf(a), b) !== relativePath(folderOf(place(a)), place(b));
    for (const { path, names, why } of naming) {
      const parted = [...names]
        .flatMap((n) => byName.get(n) ?? [])
        .filter((f) => f !== path && parts(path, f));
      if (parted.length === 0) continue;
      if (!request.holdNamed) {
        const [one] = parted;
        notes.push({
          level: 'warning',
          code: 'names-it',
          message: `${path} names ${nameOf(one!)}${parted.length > 1 ? ` and ${parted.length - 1} more` : ''}, and its paths cannot be changed here: it will not find ${parted.length > 1 ? 'them' : 'it'}. ${why}`,
          path,
        });
        continue;
      }
      for (const f of [path, ...parted])
        if (hold(f, files, place, notes, `${nameOf(path)} names it, and its paths cannot be changed here`))
          again = true;
    }
  }
}
