// Files what lies about: each file to the home of its kind, with what must stay beside it, every reference kept.

import { ownFolder, markerPath, isOwn } from '../files/records';
import type { Plan } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { folderOf, isTreePath, isWithin, join, nameOf, treePath, type TreePath } from '../files/treePath';
import { formatOf, formatOfName } from '../formats/formats';
import { leafOf } from '../formats/leaves';
import { fileKinds, homeOf, kindOfName, needsLook, type FileKind, type Homes } from '../layouts/homes';
import { countedSet, isInPlace, kindInFolders } from '../layouts/recognise';

import { foldName, numberedBeside } from '../names/portable';
import { filesOf } from '../references/scan';
import { SceneSet } from './sceneSet';
import { moving, type Moved } from './moving';
import type { Workspace } from './workspace';

export interface TidyRequest {
  /** Workspaces inside whose files are not to be touched; absent: all there are. */
  nested?: readonly TreePath[] | undefined;
  /** Parts of a kit: its folders say nothing of what is rendered here. */
  ofKit?: boolean | undefined;
  /** Only these files; null: everything that lies out of place. */
  only: readonly string[] | null;
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, of: number, path: string) => void) | undefined;
}

/** A file's kind, by its first bytes where its name tells none. */
export async function kindOfFile(workspace: Pick<Workspace, 'tree'>, path: TreePath): Promise<FileKind> {
  if (!needsLook(path)) return kindOfName(path);
  const head = await workspace.tree.read(path, [0, 512]).catch(() => new Uint8Array());
  const leaf = leafOf(head);
  if (leaf) return (fileKinds as readonly string[]).includes(leaf.kind) ? (leaf.kind as FileKind) : 'other';
  const format = formatOfName(path) ? formatOf(path, head) : null;
  return format ? 'scene' : 'other';
}

/** The plan that files what lies out of place in a workspace. */
export async function planTidy(workspace: Workspace, request: TidyRequest): Promise<Plan> {
  const moved = await tidying(workspace, workspace.file.homes, request);
  const n = moved.files.size;
  if (n === 0)
    moved.notes.push({ level: 'info', code: 'nothing', message: 'Every file lies where its kind belongs.' });
  const one = n === 1 ? nameOf([...moved.files.keys()][0]!) : null;
  return {
    kind: 'tidy',
    title: one ? `File ${one}` : `File ${n} files`,
    steps: moved.steps,
    notes: moved.notes,
    paths: moved.paths,
    readiness: null,
    basis: moved.basis,
  };
}

/** The same by other homes than the workspace has yet. */
export async function tidying(workspace: Workspace, homes: Homes, request: TidyRequest): Promise<Moved> {
  const files = await newPlaces(workspace, homes, request);
  return moving(workspace, {
    files,
    clearEmptied: true,
    holdNamed: true,
    kept: Object.values(homes),
    signal: request.signal,
    onScene: request.onScene,
  });
}

/** Files that lie out of place, with their kinds, in path order. */
export async function outOfPlace(
  workspace: Workspace,
  homes: Homes,
  signal?: CancelSignal,
): Promise<{ path: TreePath; kind: FileKind; size: number }[]> {
  const found: { path: TreePath; kind: FileKind; size: number }[] = [];
  const { beside } = await companions(workspace, signal);
  const nested = await nestedIn(workspace);
  for await (const { path, size } of workspace.tree.list()) {
    signal?.throwIfAborted();
    if (isOwn(path) || beside.has(path) || nested.some((n) => isWithin(path, n))) continue;
    const kind = kindInFolders(path, await kindOfFile(workspace, path), homes);
    if (!isInPlace(path, kind, homes)) found.push({ path, kind, size });
  }
  return found;
}

/** Roots of workspaces inside this one: what lies in them is theirs. */
export async function nestedIn(workspace: Pick<Workspace, 'tree'>): Promise<TreePath[]> {
  const found: TreePath[] = [];
  const waiting: TreePath[] = [treePath('')];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    for (const e of (await workspace.tree.entries(at)) ?? []) {
      if (e.kind !== 'folder' || e.link !== undefined) continue;
      const path = join(at, e.name);
      if (e.name !== ownFolder) waiting.push(path);
      else if (at !== '' && (await workspace.tree.kind(join(at, markerPath))) === 'file') found.push(at);
    }
  }
  return found.sort();
}

/** Files that belong to a scene and stay beside it: geometry buffers and material libraries, each with the scene that needs it. */
async function companions(
  workspace: Workspace,
  signal?: CancelSignal,
): Promise<{ beside: Map<string, TreePath>; scenes: SceneSet }> {
  const beside = new Map<string, TreePath>();
  const scenes = await SceneSet.of(workspace, { signal });
  for await (const { path: scene, references } of scenes.each())
    for (const r of references) {
      if (r.kind !== 'buffer' && r.kind !== 'material') continue;
      for (const path of filesOf(r))
        if (folderOf(path) === folderOf(scene) && !beside.has(path)) beside.set(path, scene);
    }
  return { beside, scenes };
}

/** Names that are free for files on their way into homes. */
class FreeNames {
  private readonly taken = new Set<string>();
  private readonly nextNumber = new Map<string, number>();
  /** Frames of one row keep together: all of them go where the first found its place. */
  private readonly setFolders = new Map<string, string>();

  /** `scenes`: a name that one of their missing references looks for would be found by a stranger. */
  constructor(private readonly scenes: SceneSet) {}

  take(path: string): void {
    this.taken.add(foldName(path));
  }

  private isFree(path: string): boolean {
    return !this.taken.has(foldName(path)) && this.scenes.awaits(path) === null;
  }

  /** Takes the name in a folder, or one beside it. */
  takeFree(folder: string, name: string): string {
    const prefix = folder === '' ? '' : `${folder}/`;
    const wanted = foldName(prefix + name);
    let to = prefix + name;
    // Hundreds may want one name: each goes on where the one before found its number.
    for (let n = this.nextNumber.get(wanted) ?? 2; !this.isFree(to); n++) {
      to = prefix + numberedBeside(name, n);
      this.nextNumber.set(wanted, n + 1);
    }
    this.take(to);
    return to;
  }

  /** The folder below a home to which a row of frames goes: they keep their names, so it is one of their own, as they have it or named after them. */
  folderForSet(home: string, path: TreePath): string {
    const set = countedSet(path)!;
    const known = this.setFolders.get(set);
    if (known !== undefined) return known;
    const own = nameOf(folderOf(path)) || nameOf(path).replace(/[._-]*\d+\D*$/, '') || 'sequence';
    let folder = `${home}/${own}`;
    for (let n = 2; this.scenes.awaits(`${folder}/${nameOf(path)}`) !== null; n++)
      folder = `${home}/${own}_${n}`;
    this.setFolders.set(set, folder);
    return folder;
  }
}

/** Where each file that is to be filed will lie. Names that are taken in a home give way, sets of numbered files go together. */
async function newPlaces(
  workspace: Workspace,
  homes: Homes,
  request: TidyRequest,
): Promise<Map<string, string>> {
  const { beside, scenes } = await companions(workspace, request.signal);
  const names = new FreeNames(scenes);
  const all: { path: TreePath; kind: FileKind }[] = [];
  const sets = new Map<string, number>();
  const nested = request.nested ?? (await nestedIn(workspace));
  const only = request.only && new Set(request.only.filter(isTreePath));
  const isWanted = (path: TreePath, kind: FileKind) =>
    only
      ? only.has(path) && homeOf(kind, homes) !== '' && !isWithin(path, homeOf(kind, homes))
      : !isInPlace(path, kind, homes);
  for await (const { path } of workspace.tree.list()) {
    request.signal?.throwIfAborted();
    names.take(path);
    if (isOwn(path)) continue;
    const set = countedSet(path);
    if (set !== null) sets.set(set, (sets.get(set) ?? 0) + 1);
    if (beside.has(path) || nested.some((n) => isWithin(path, n))) continue;
    const own = await kindOfFile(workspace, path);
    const kind = request.ofKit ? own : kindInFolders(path, own, homes);
    if (isWanted(path, kind)) all.push({ path, kind });
  }
  const places = new Map<string, string>();
  for (const { path, kind } of all) {
    const home = homeOf(kind, homes);
    const set = countedSet(path);
    const together = set !== null && (sets.get(set) ?? 0) >= 3;
    const to = together
      ? `${names.folderForSet(home, path)}/${nameOf(path)}`
      : names.takeFree(home, nameOf(path));
    if (to === path) continue;
    names.take(to);
    places.set(path, to);
  }
  // What belongs beside a scene goes with it.
  for (const [path, scene] of beside) {
    const to = places.get(scene);
    if (to !== undefined) places.set(path, names.takeFree(folderOf(treePath(to)), nameOf(path)));
  }
  return places;
}
