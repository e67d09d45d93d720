// Another habit of keeping versions: what is there is moved as the new habit has it, with every reference kept and with the way back to the bytes that
// each version had at its own place. Versions that lie in the store stay where they are, and are found in either habit.

import { putBytes, type Note, type Plan, type PlanPiece, type Step } from '../changes/plan';
import { isOwn } from '../files/records';
import { folderOf, join, nameOf, stemOf, type TreePath } from '../files/treePath';
import { firstNumbered, parseNumbered, withNumber } from '../names/counters';
import { patternFolder, versionPath, type Habit } from '../versions/habit';
import { versionNotePath, writeVersionNote, type VersionNote, type VersionPart } from '../versions/note';
import type { Series } from '../versions/series';
import { utf8 } from '../text/bytes';
import { markerStep, type MarkedWorkspace } from './marker';
import { composed, digestOfPieces, inverseOf } from './pieces';
import { planMove } from './planMove';
import { allSeries } from './planSave';
import { SceneSet } from './sceneSet';
import { alikeName, contentOf, habitOf, ownFiles, readNote } from './versionFiles';
import { stateOf, type Workspace } from './workspace';
import type { MoveRequest } from './moving';

/** The plan that changes the habit of a workspace. */
export async function planHabit(
  workspace: MarkedWorkspace,
  to: Habit,
  watched: Pick<MoveRequest, 'signal' | 'onScene'> = {},
): Promise<Plan> {
  const notes: Note[] = [];
  const scenes = await SceneSet.of(workspace, watched);
  const moves = new Map<TreePath, TreePath>();
  for (const series of await allSeries(workspace)) {
    watched.signal?.throwIfAborted();
    for (const [path, place] of movesOf(series, to, notes)) {
      if (path === place) continue;
      moves.set(path, place);
      const scene = await scenes.read(path);
      for (const own of scene ? ownFiles(scene) : [])
        moves.set(own, join(folderOf(place), alikeName(own, place)));
    }
  }
  const moved =
    moves.size === 0
      ? null
      : await planMove(
          workspace,
          [...moves].map(([path, place]) => ({ path, to: place })),
          watched,
        );
  const ways = moved ? await noteWays(workspace, moves, moved.steps) : [];
  const emptied = moved ? emptiedFolders(moves, habitOf(workspace)) : [];
  const file = { ...workspace.file, versions: { habit: to.kind, pattern: to.pattern } };
  const marker = await markerStep(workspace, file);
  if (!marker && moves.size === 0)
    notes.push({ level: 'info', code: 'nothing', message: 'It is so already.' });
  return {
    kind: 'habit',
    title:
      to.kind === 'folder'
        ? 'Keep versions in a folder, one current file'
        : 'Keep versions as numbered files',
    steps: [...(moved?.steps ?? []), ...ways, ...emptied, ...(marker ? [marker] : [])],
    notes: [...notes, ...(moved?.notes ?? [])],
    paths: moved?.paths ?? [],
    readiness: null,
    ...(moved?.basis ? { basis: moved.basis } : {}),
  };
}

/** Where the files of a series come to lie. */
function movesOf(series: Series, to: Habit, notes: Note[]): [TreePath, TreePath][] {
  const { scene } = series;
  const there = series.versions.filter((v) => !v.compact);
  const numbers = there.filter((v) => v.number !== null);
  const own = parseNumbered(nameOf(scene));
  const plain = own ? join(folderOf(scene), `${own.stem}${own.extension}`) : scene;
  if (to.kind === 'folder') {
    const folder = folderOf(plain);
    const filed = (number: number) => join(folder, versionPath(to.pattern, nameOf(plain), number));
    const isPlainThere = there.some((v) => v.path === plain) || scene === plain;
    if (own && isPlainThere)
      notes.push({
        level: 'info',
        code: 'stays-current',
        message: `${plain} stays the current file, as it is; ${nameOf(scene)} becomes its newest version.`,
        path: plain,
      });
    return numbers.map((v) => [v.path, v.path === scene && !isPlainThere ? plain : filed(v.number!)]);
  }
  if (numbers.length === 0) return [];
  const lying = numbers.find((v) => folderOf(v.path) === folderOf(plain));
  const beside = lying ? parseNumbered(nameOf(lying.path)) : null;
  const pattern = own ?? beside ?? { ...firstNumbered(nameOf(plain)), width: widthIn(series.habit.pattern) };
  const place = (number: number) =>
    join(
      folderOf(plain),
      withNumber(
        { ...pattern, stem: stemOf(plain), extension: nameOf(plain).slice(stemOf(plain).length) },
        number,
      ),
    );
  const moves: [TreePath, TreePath][] = numbers.map((v) => [
    v.path,
    v.path === scene ? scene : place(v.number!),
  ]);
  // What was worked on under its own name becomes the newest number, which then is what is worked on.
  if (!numbers.some((v) => v.path === scene)) moves.push([scene, place(series.next.number)]);
  return moves;
}

/** Digits of the number in a pattern. */
function widthIn(pattern: string): number {
  return Number(/\{number:(\d)\}/.exec(pattern)?.[1] ?? 3);
}

/** Steps that write into the moved notes how the moved files give back what they were made from. */
async function noteWays(
  workspace: Workspace,
  moves: ReadonlyMap<TreePath, TreePath>,
  steps: readonly Step[],
): Promise<Step[]> {
  const written = new Map(steps.flatMap((s) => (s.do === 'put' ? [[s.path as string, s] as const] : [])));
  const out: Step[] = [];
  for (const [path, to] of moves) {
    const note = await readNote(workspace, path);
    if (!note?.parts) continue;
    const parts: VersionPart[] = [];
    for (const part of note.parts) parts.push(await partAfter(workspace, path, to, part, moves, written));
    out.push(await putNote(workspace, versionNotePath(path), versionNotePath(to), { ...note, parts }));
  }
  return out;
}

async function partAfter(
  { tree }: Workspace,
  version: TreePath,
  to: TreePath,
  part: VersionPart,
  moves: ReadonlyMap<TreePath, TreePath>,
  written: ReadonlyMap<string, Step & { do: 'put' }>,
): Promise<VersionPart> {
  const old = join(folderOf(version), part.to);
  const place = moves.get(old);
  const state = place === undefined ? null : await stateOf(tree, old);
  if (place === undefined || !state || folderOf(place) !== folderOf(to)) return part;
  const put = written.get(place);
  const pieces: PlanPiece[] | null = put?.from.from === 'tree' ? put.from.pieces : null;
  const moved = { ...part, to: nameOf(place) };
  if (!pieces || (await contentOf(tree, old, state)) !== part.made) return moved;
  const inverse = await inverseOf(pieces, state.size, (range) => tree.read(old, range));
  return {
    ...moved,
    made: await digestOfPieces(tree, old, pieces),
    back: part.back ? composed(inverse, part.back) : inverse,
  };
}

/** The step that writes a note where it was moved to. */
async function putNote({ tree }: Workspace, from: TreePath, to: TreePath, note: VersionNote): Promise<Step> {
  return putBytes(to, utf8(writeVersionNote(note)), await stateOf(tree, from));
}

/** Folders of versions that fall empty. */
function emptiedFolders(moves: ReadonlyMap<TreePath, TreePath>, before: Habit): Step[] {
  const inside = patternFolder(before.pattern);
  const folders = new Set<TreePath>();
  for (const path of moves.keys()) {
    const folder = folderOf(path);
    if (!isOwn(path) && (folder === inside || folder.endsWith(`/${inside}`))) folders.add(folder);
  }
  const arriving = new Set([...moves.values()].map((p) => folderOf(p)));
  return [...folders].filter((f) => !arriving.has(f)).map((path) => ({ do: 'remove-folder', path }));
}
