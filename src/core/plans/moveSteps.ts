// The steps of a move: folders made first, whole folders, then files in an order in which each finds its place free; emptied folders last.

import type { FileState, Note, Step } from '../changes/plan';
import { versionsFolder } from '../files/records';
import { comparePaths, folderOf, isWithin, join, nameOf, treePath, type TreePath } from '../files/treePath';
import { foldName } from '../names/portable';
import { placing, type Moving } from './placing';
import type { Workspace } from './workspace';

interface OneMove {
  path: TreePath;
  to: TreePath;
  content: FileState;
}

/** Steps that move files and nothing else, for what leaves the work: paths that name them, and those in them, stay as they are. */
export async function plainMoves(
  workspace: Workspace,
  files: ReadonlyMap<string, string>,
  kept: readonly string[],
): Promise<{ steps: Step[]; notes: Note[] }> {
  const notes: Note[] = [];
  const { before, after } = await moveSteps(workspace, { files, folders: [] }, kept, notes);
  return { steps: [...before, ...after], notes };
}

/** `kept`: folders that stay though they fall empty; null: none is taken away. */
export async function moveSteps(
  workspace: Workspace,
  { files, folders }: Moving,
  kept: readonly string[] | null,
  notes: Note[],
): Promise<{ before: Step[]; after: Step[] }> {
  const { tree } = workspace;
  const made = new Set<string>(['', ...folders.map((m) => m.to)]);
  const steps: Step[] = [];
  const makeParents = async (path: string) => {
    for (let i = path.indexOf('/'); i > 0; i = path.indexOf('/', i + 1)) {
      if (made.has(path.slice(0, i))) continue;
      const folder = treePath(path.slice(0, i));
      made.add(folder);
      if (folders.some((m) => isWithin(folder, m.to))) continue;
      const kind = await tree.kind(folder);
      const twin = kind === null ? await twinOf(folder) : null;
      if (twin !== null) notes.push(fallsTogether(folder, twin));
      const serves = kind === 'folder' || (kind === 'link' && (await tree.entries(folder)) !== null);
      if (kind === null) steps.push({ do: 'make-folder', path: folder });
      else if (!serves) notes.push(inTheWay(folder, `${folder} is there, where a folder is needed.`));
    }
  };
  const twinOf = twins(tree, { files, folders });
  const versions = await versionNotes(workspace, { files, folders });
  for (const m of [...folders, ...versions.folders]) {
    await makeParents(m.to);
    if ((await tree.kind(m.to)) !== null) notes.push(inTheWay(m.to, `${m.to} is there already.`));
    const twin = await twinOf(m.to);
    if (twin !== null) notes.push(fallsTogether(m.to, twin));
    steps.push({ do: 'move-folder', ...m });
  }
  const waiting = await fileMoves(workspace, { files, folders }, versions.files, makeParents, twinOf, notes);
  steps.push(...(await inOrder(tree, waiting)));
  return {
    before: steps,
    after: kept ? await emptied(workspace, { files, folders }, new Set([...made, ...kept])) : [],
  };
}

function inTheWay(path: string, message: string): Note {
  return { level: 'blocker', code: 'in-the-way', message, path };
}

function fallsTogether(path: string, twin: string): Note {
  return inTheWay(
    path,
    `${path}: “${nameOf(twin)}” is there already; other systems take the two names for one.`,
  );
}

/** Finds what is there and stays, whose name differs from a new one in letter case or Unicode form only. */
function twins(
  tree: Workspace['tree'],
  { files, folders }: Moving,
): (path: string) => Promise<string | null> {
  const names = new Map<string, Map<string, string[]>>();
  const goes = (path: string) => files.has(path) || folders.some((m) => isWithin(path, m.path));
  return async (path) => {
    const folder = folderOf(path);
    let known = names.get(folder);
    if (!known) {
      known = new Map();
      for (const { name } of (await tree.entries(folder)) ?? [])
        known.set(foldName(name), [...(known.get(foldName(name)) ?? []), name]);
      names.set(folder, known);
    }
    for (const name of known.get(foldName(nameOf(path))) ?? [])
      if (name !== nameOf(path) && !goes(join(folder, name))) return join(folder, name);
    return null;
  };
}

/** Notes about versions lie by the scene's own path, and go with it. */
async function versionNotes(
  { tree }: Workspace,
  { files, folders }: Moving,
): Promise<Moving & { files: Map<string, string> }> {
  const found = { files: new Map<string, string>(), folders: [] as { path: TreePath; to: TreePath }[] };
  if ((await tree.kind(versionsFolder)) !== 'folder') return found;
  const at = (path: string) => treePath(`${versionsFolder}/${path}`);
  for (const [path, to] of files)
    if ((await tree.kind(at(`${path}.json`))) === 'file')
      found.files.set(at(`${path}.json`), at(`${to}.json`));
  for (const { path, to } of folders)
    if ((await tree.kind(at(path))) === 'folder' && (await tree.kind(at(to))) === null)
      found.folders.push({ path: at(path), to: at(to) });
  return found;
}

/** What each file is now, and what stands in its way where it goes. */
async function fileMoves(
  { tree }: Workspace,
  { files, folders }: Moving,
  noteFiles: ReadonlyMap<string, string>,
  makeParents: (path: string) => Promise<void>,
  twinOf: (path: string) => Promise<string | null>,
  notes: Note[],
): Promise<OneMove[]> {
  const byFolders = placing({ files: new Map(), folders });
  const taken = new Map<string, string>();
  const waiting: OneMove[] = [];
  for (const [path, to] of [...files, ...noteFiles].sort((a, b) => comparePaths(a[0], b[0]))) {
    const content = await contentAt(tree, treePath(path));
    if (!content) {
      notes.push({ level: 'blocker', code: 'not-found', message: `${path} is not there.`, path });
      continue;
    }
    const twin = taken.get(foldName(to));
    if (twin !== undefined) notes.push(inTheWay(path, `${path} and ${twin} would both become ${to}.`));
    taken.set(foldName(to), path);
    // A name in other letters may be this very file, on a disk that ignores case.
    const isLeaving = files.has(to) || (foldName(to) === foldName(path) && to !== path);
    if (!isLeaving && !folders.some((m) => isWithin(to, m.path)) && (await tree.kind(treePath(to))) !== null)
      notes.push(inTheWay(path, `${path} cannot become ${to}: that is there already.`));
    const beside = await twinOf(to);
    if (beside !== null) notes.push(fallsTogether(path, beside));
    await makeParents(to);
    waiting.push({ path: byFolders(path), to: treePath(to), content });
  }
  return waiting;
}

async function contentAt(tree: Workspace['tree'], path: TreePath): Promise<FileState | null> {
  const link = await tree.readLink(path);
  if (link !== null) return { size: 0, modified: 0, digest: null, link };
  const stat = await tree.stat(path);
  return stat && { size: stat.size, modified: stat.modified, digest: null };
}

/** An order in which no move finds its place taken by one that is still to leave; rings go by way of a name beside, which nobody has. */
async function inOrder(tree: Workspace['tree'], moves: readonly OneMove[]): Promise<Step[]> {
  const steps: Step[] = [];
  const bySource = new Map(moves.map((m) => [m.path as string, m]));
  const done = new Set<string>();
  const aside = new Map<string, TreePath>();
  for (const first of moves) {
    // From each to the one whose place it takes, as far as that goes; then made from the end.
    const chain: OneMove[] = [];
    const open = new Set<string>();
    for (let m: OneMove | undefined = first; m && !done.has(m.path); m = bySource.get(m.to)) {
      if (open.has(m.path)) {
        const beside = await freeBeside(tree, m.path, aside.size + 1);
        aside.set(m.path, beside);
        steps.push({ do: 'move', path: m.path, to: beside, content: m.content });
        break;
      }
      open.add(m.path);
      chain.push(m);
    }
    for (const m of chain.toReversed()) {
      done.add(m.path);
      steps.push({ do: 'move', path: aside.get(m.path) ?? m.path, to: m.to, content: m.content });
    }
  }
  return steps;
}

/** A short name in a file's folder that nothing has. */
async function freeBeside(tree: Workspace['tree'], path: TreePath, first: number): Promise<TreePath> {
  for (let n = first; ; n++) {
    const beside = join(folderOf(path), `.moving-${n}`);
    if ((await tree.kind(beside)) === null) return beside;
  }
}

/** Steps that take away folders which hold nothing any more, deepest first. */
async function emptied(
  workspace: Workspace,
  { files, folders }: Moving,
  kept: ReadonlySet<string>,
): Promise<Step[]> {
  const gone = new Set<string>([...files.keys(), ...folders.map((m) => m.path)]);
  const candidates = new Set<string>();
  for (const path of gone)
    for (let f: string = folderOf(path); f !== '' && !candidates.has(f); f = folderOf(f)) candidates.add(f);
  const arriving = new Set<string>();
  for (const to of [...files.values(), ...folders.map((m) => m.to)])
    for (let f: string = folderOf(to); f !== '' && !arriving.has(f); f = folderOf(f)) arriving.add(f);
  const steps: Step[] = [];
  const depth = (path: string) => path.split('/').length;
  for (const folder of [...candidates].sort((a, b) => depth(b) - depth(a) || comparePaths(a, b))) {
    if (kept.has(folder) || arriving.has(folder) || folders.some((m) => isWithin(folder, m.path))) continue;
    const entries = (await workspace.tree.entries(treePath(folder))) ?? [];
    if (!entries.every((e) => gone.has(`${folder}/${e.name}`))) continue;
    gone.add(folder);
    steps.push({ do: 'remove-folder', path: treePath(folder) });
  }
  return steps;
}
