// Renames and moves with references kept, and changes of homes: the files of a kind follow, the marker says where they live.

import type { Note, Plan, Step } from '../changes/plan';
import { isWithin, nameOf, treePath, type TreePath } from '../files/treePath';
import type { FileKind, Homes } from '../layouts/homes';
import { markerPath, writeWorkspaceFile, type WorkspaceFile } from '../layouts/workspace';
import { checkName } from '../names/portable';
import { latin1, utf8 } from '../text/bytes';
import { filesOf, scan } from '../references/scan';
import { isOwn, moving, plainMoves, type MoveRequest } from './moving';
import { kindOfFile } from './planTidy';
import { settingOf, stateOf, type Workspace } from './workspace';

/** A workspace with all its marker says. */
export type MarkedWorkspace = Workspace & { file: WorkspaceFile };

type Watched = Pick<MoveRequest, 'signal' | 'onScene'>;

/** The step that writes a new marker; null where it says the same. */
export async function markerStep(workspace: Workspace, file: WorkspaceFile): Promise<Step | null> {
  const text = utf8(writeWorkspaceFile(file));
  const before = await stateOf(workspace.tree, markerPath);
  if (before !== null && latin1(await workspace.tree.read(markerPath)) === latin1(text)) return null;
  return { do: 'put', path: markerPath, before, size: text.length, modified: null, from: { from: 'bytes', latin1: latin1(text) } };
}

/** What a marker says once folders have moved. */
export function markerAfter(file: WorkspaceFile, folders: readonly { path: string; to: string }[]): WorkspaceFile {
  const place = (path: string) => {
    const m = folders.find((f) => isWithin(path, f.path));
    return m ? m.to + path.slice(m.path.length) : path;
  };
  const homes = Object.fromEntries(Object.entries(file.homes).map(([kind, home]) => [kind, place(home)])) as Homes;
  const parents = folders.flatMap((m) => m.to.split('/').map((_, i, parts) => parts.slice(0, i + 1).join('/')));
  return { ...file, homes, folders: [...new Set([...file.folders.map(place), ...(file.folders.some((f) => folders.some((m) => isWithin(f, m.path))) ? parents : [])])].sort(), ...(file.search ? { search: file.search.map(place) } : {}) };
}

/** Renames or moves files and folders; homes in moved folders move along. */
export async function planMove(workspace: MarkedWorkspace, moves: readonly { path: string; to: string }[], watched: Watched = {}): Promise<Plan> {
  const notes: Note[] = [];
  const files = new Map<string, string>();
  const folders: { path: string; to: string }[] = [];
  for (const { path, to } of moves) {
    const wrong = to.split('/').flatMap((part) => checkName(part));
    if (wrong.length > 0) notes.push({ level: 'blocker', code: 'bad-name', message: `${to}: ${wrong[0]!.message}`, path });
    const kind = isOwn(path) || isOwn(to) ? null : await workspace.tree.kind(treePath(path));
    if (kind === 'folder') folders.push({ path, to });
    else if (kind === 'file') files.set(path, to);
    else notes.push({ level: 'blocker', code: 'not-found', message: `${path} is nothing that can be moved.`, path });
  }
  const moved = await moving(workspace, { files, folders, clearEmptied: false, ...watched });
  const marker = folders.length > 0 && workspace.file.created !== '' ? await markerStep(workspace, markerAfter(workspace.file, folders)) : null;
  const one = moves[0];
  const title = moves.length === 1 && one ? (nameOf(one.path) === nameOf(one.to) ? `Move ${nameOf(one.path)}` : `Rename ${nameOf(one.path)} to ${nameOf(one.to)}`) : `Move ${moves.length} files and folders`;
  return { kind: 'move', title, steps: [...moved.steps, ...(marker ? [marker] : [])], notes: [...notes, ...moved.notes], paths: moved.paths, readiness: null };
}

/** Gives kinds other homes: their files move there with every reference kept, the marker says so. Null: the kind has no home any more. */
export async function planHomes(workspace: MarkedWorkspace, changes: Readonly<Partial<Record<FileKind, string | null>>>, watched: Watched = {}): Promise<Plan> {
  const notes: Note[] = [];
  const old = workspace.file.homes;
  const homes: Homes = { ...old };
  const files = new Map<string, string>();
  const folders: { path: string; to: string }[] = [];
  const kinds = (Object.entries(changes) as [FileKind, string | null][]).filter(([kind, to]) => (old[kind] ?? null) !== to);
  for (const [kind, to] of kinds) {
    const from = old[kind];
    if (to === null) delete homes[kind];
    else homes[kind] = to;
    const wrong = to?.split('/').flatMap((part) => checkName(part)) ?? [];
    if (wrong.length > 0 || (to !== null && isOwn(to))) {
      notes.push({ level: 'blocker', code: 'bad-name', message: `“${to}” cannot be a home. ${wrong[0]?.message ?? 'It is kept for the workspace itself.'}`, path: to ?? '' });
      continue;
    }
    if (to === null || from === undefined || (await workspace.tree.kind(treePath(from))) !== 'folder') continue;
    const sharers = (Object.entries(old) as [FileKind, string][]).filter(([k, f]) => k !== kind && f === from && (changes[k] === undefined ? true : changes[k] !== to));
    const inner = Object.values(old).some((f) => f !== from && isWithin(f, from));
    if (sharers.length === 0 && !inner && (await workspace.tree.kind(treePath(to))) === null && !isWithin(to, from)) {
      if (!folders.some((m) => m.path === from)) folders.push({ path: from, to });
      continue;
    }
    // Others live there too: only files of this kind go.
    for await (const f of workspace.tree.list(treePath(from))) {
      if (isWithin(f.path, to) || (await kindOfFile(workspace, f.path)) !== kind) continue;
      files.set(f.path, to + f.path.slice(from.length));
    }
  }
  const moved = await moving(workspace, { files, folders, clearEmptied: true, ...watched });
  const after = markerAfter(workspace.file, folders);
  const wanted = Object.values(homes).filter((f) => f !== '');
  const file: WorkspaceFile = { ...after, homes, folders: [...new Set([...after.folders.filter((f) => !folders.some((m) => f === m.path)), ...wanted])].sort() };
  const made = new Set(moved.steps.flatMap((s) => (s.do === 'make-folder' ? [s.path as string] : s.do === 'move-folder' ? [s.to as string] : [])));
  const makes: Step[] = [];
  for (const home of wanted) for (let i = 0; i >= 0; ) {
    i = home.indexOf('/', i + 1);
    const folder = i < 0 ? home : home.slice(0, i);
    if (!made.has(folder) && ![...made].some((m) => isWithin(folder, m)) && (await workspace.tree.kind(treePath(folder))) === null) makes.push({ do: 'make-folder', path: treePath(folder) });
    made.add(folder);
  }
  const marker = await markerStep(workspace, file);
  const title = kinds.length === 1 ? (kinds[0]![1] === null ? `Take the home of ${kinds[0]![0]} files away` : `Let ${kinds[0]![0]} files live in ${kinds[0]![1]}`) : `Change ${kinds.length} homes`;
  return { kind: 'homes', title, steps: [...moved.steps, ...makes, ...(marker ? [marker] : [])], notes: [...notes, ...moved.notes], paths: moved.paths, readiness: null };
}

/** Changes what the marker says, and nothing else. */
export async function planSettings(workspace: MarkedWorkspace, file: WorkspaceFile, title: string): Promise<Plan> {
  const step = await markerStep(workspace, file);
  return { kind: 'settings', title, steps: step ? [step] : [], notes: step ? [] : [{ level: 'info', code: 'nothing', message: 'It is so already.' }], paths: [], readiness: null };
}

/** Moves files to the workspace's bin: they keep their paths in it, under the time of the clearing (ISO, made a legal name). What a scene that stays still uses is left. */
export async function planBin(workspace: Workspace, paths: readonly TreePath[], now: string): Promise<Plan> {
  const bin = `.satchel/bin/${now.replace(/[:.]/g, '-')}`;
  const notes: Note[] = [];
  const going = new Set<string>(paths);
  const setting = settingOf(workspace);
  for (let again = true; again; ) {
    // A scene that stays keeps what it uses, and what that uses in turn.
    again = false;
    for await (const report of scan(workspace.tree, setting)) {
      if (going.has(report.path)) continue;
      for (const r of report.references) for (const file of filesOf(r)) if (going.delete(file)) {
        again = true;
        notes.push({ level: 'warning', code: 'in-use', message: `${file} stays: ${report.path} uses it.`, path: file });
      }
    }
  }
  const moved = await plainMoves(workspace, new Map([...going].map((p) => [p, `${bin}/${p}`])));
  return { kind: 'bin', title: `Clear ${going.size === 1 ? nameOf([...going][0]!) : `${going.size} files`} to the bin`, steps: moved.steps, notes: [...notes, ...moved.notes], paths: [], readiness: null };
}
