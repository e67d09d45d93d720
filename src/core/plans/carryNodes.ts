// What carrying a part of a scene into another has in common in all formats: what is asked for, what is shown, and files that come along.

import {
  foldersFor,
  type FilesPiece,
  type Note,
  type PieceFile,
  type Plan,
  type Step,
} from '../changes/plan';
import type { Source } from '../collect/closure';
import { AppError } from '../errors';
import {
  extensionOf,
  folderOf,
  insideOf,
  isAbsolutePath,
  join,
  nameOf,
  relativePath,
  type TreePath,
} from '../files/treePath';
import { homeOf } from '../layouts/homes';
import { foldName, freeName, legalName } from '../names/portable';
import type { ClashChoice, NodeClash } from '../nodes/clashes';
import { spell } from '../references/written';
import type { Syntax } from '../formats/format';
import { count } from '../text/figures';
import { foldedNamesIn, stateOf, type Workspace } from './workspace';

export interface CarryNodesRequest {
  /** The scene they are taken from, absolute. */
  from: string;
  /** Ids of nodes. */
  nodes: readonly string[];
  /** The scene they are put into. */
  into: TreePath;
  /** Id of the node there; null: the top. */
  under: string | null;
  /** Where they stand: where they stood in the world, or as they stood below what was above them. */
  place: 'world' | 'parent';
  clash: ClashChoice;
  /** Pictures beside the scene or in it; `as-there`: as the target holds its own. */
  pictures: 'as-there' | 'files' | 'inside';
  /** Of a glTF in text: geometry into a file of its own, or behind the target's. */
  buffer: 'own' | 'append';
}

/** Something that comes along. */
export interface NeededThing {
  key: string;
  /** In a word: 'mesh'. */
  kind: string;
  name: string;
  level: number;
  /** Names of what pulls it in; empty: it was chosen. */
  neededBy: readonly string[];
  bytes: number;
}

export interface NodesCarried {
  plan: Plan;
  things: readonly NeededThing[];
  clashes: readonly NodeClash[];
  /** How the scenes' units and axes differ, and what is done about it; empty: they do not. */
  converted: readonly string[];
}

/** What is needed to work: the source as it is read, the target. */
export interface Both {
  source: Source;
  target: Workspace;
}

/** Where things go that a scene of the target needs: files that are put, each once. */
export class FilesBeside {
  readonly steps: Step[] = [];
  private readonly made = new Set<string>();
  private readonly names = new Map<string, Promise<Set<string>>>();
  private readonly put = new Map<string, TreePath>();

  constructor(
    private readonly target: Workspace,
    /** The scene that names them. */
    private readonly scene: TreePath,
  ) {}

  /** Where a file outside can be named from the scene: as it is in the workspace, or copied. `folder`: where a copy goes. */
  async file(from: string, folder: TreePath, notes: Note[]): Promise<string> {
    const inside = insideOf(this.target.root, from);
    if (inside !== null) return inside;
    if (this.target.file.libraries.some((l) => insideOf(l.path, from) !== null)) return from;
    const known = this.put.get(from);
    if (known !== undefined) return known;
    const { outside } = this.target;
    const stat = await outside.stat(from);
    if (!stat) throw new AppError('not-found', `${from} is not there any more.`);
    const to = await this.place(folder, legalName(nameOf(from)), () => outside.digest(from), notes);
    if ('path' in to)
      await this.add(
        to.path,
        stat.size,
        {
          from: 'outside',
          path: from,
          state: { ...stat, digest: null },
          pieces: null,
        },
        stat.modified,
      );
    const path = 'path' in to ? to.path : to.there;
    this.put.set(from, path);
    return path;
  }

  /** A file made of pieces. `content`: the id of what it will hold; null: it is put in any case. */
  async pieces(
    folder: TreePath,
    name: string,
    made: { files: PieceFile[]; pieces: FilesPiece[]; size: number },
    content: (() => Promise<string | null>) | null,
    notes: Note[],
  ): Promise<TreePath> {
    const to = await this.place(folder, legalName(name), content, notes);
    if ('there' in to) return to.there;
    await this.add(to.path, made.size, { from: 'files', files: made.files, pieces: made.pieces }, null);
    return to.path;
  }

  private async place(
    folder: TreePath,
    name: string,
    content: (() => Promise<string | null>) | null,
    notes: Note[],
  ): Promise<{ path: TreePath } | { there: TreePath }> {
    const there = join(folder, name);
    const taken = await this.namesIn(folder);
    if (content && (await this.target.tree.kind(there)) === 'file') {
      const held = await this.target.tree.digest(there);
      if (held !== null && held === (await content())) {
        notes.push({
          level: 'info',
          code: 'reused',
          message: `${there} is there already with the same content; it is used.`,
          path: there,
        });
        return { there };
      }
    }
    const free = freeName(name, (n) => taken.has(foldName(n)));
    if (free !== name)
      notes.push({
        level: 'info',
        code: 'renamed',
        message: `${there} is another file: ${name} comes as ${free}.`,
        path: there,
      });
    taken.add(foldName(free));
    return { path: join(folder, free) };
  }

  private namesIn(folder: TreePath): Promise<Set<string>> {
    let names = this.names.get(folder);
    if (!names) this.names.set(folder, (names = foldedNamesIn(this.target.tree, folder)));
    return names;
  }

  private async add(
    path: TreePath,
    size: number,
    from: (Step & { do: 'put' })['from'],
    modified: number | null,
  ) {
    for (const step of foldersFor(path, (f) => this.made.has(f))) {
      this.made.add(step.path);
      if ((await this.target.tree.kind(step.path)) === null) this.steps.push(step);
    }
    this.steps.push({ do: 'put', path, before: null, size, modified, from });
  }

  /** How the scene names a file of the tree, or one elsewhere by its whole path. */
  written(path: string, syntax: Syntax): string {
    return spell(isAbsolutePath(path) ? path : relativePath(folderOf(this.scene), path), syntax, '');
  }
}

/** The folder for new pictures of a scene: where its own lie, else the home of textures, else its own. `own`: files it names, as tree paths. */
export function pictureFolder(target: Workspace, scene: TreePath, own: readonly string[]): TreePath {
  const [first] = own;
  if (first !== undefined) return folderOf(first);
  const { homes } = target.file;
  return homes.texture === undefined ? folderOf(scene) : (homeOf('texture', homes) as TreePath);
}

/** Scenes of different formats are not put together. */
export function checkFormats(from: string, into: TreePath, kin: readonly (readonly string[])[]): void {
  const [a, b] = [extensionOf(from), extensionOf(into)];
  const family = kin.find((k) => k.includes(a));
  if (!family)
    throw new AppError(
      'unsupported',
      `From ${a || 'this kind of file'} no part is carried: known are ${kin.flat().join(', ')}.`,
    );
  if (!family.includes(b))
    throw new AppError(
      'unsupported',
      `${nameOf(from)} and ${nameOf(into)} are of different formats: what one says, the other has no words for. Write one in the other's format first.`,
    );
}

/** The state of the scene that is put into. */
export async function sceneState({ target }: Both, into: TreePath) {
  const state = await stateOf(target.tree, into);
  if (!state) throw new AppError('not-found', `${into} is not there.`);
  return state;
}

/** So many clashes of one kind that go the same way are told one by one. */
const toldSingly = 5;

/** Notes on clashes: what is done about each; of many alike the first, and how many more. */
export function clashNotes(clashes: readonly NodeClash[], into: TreePath): Note[] {
  const groups = new Map<string, NodeClash[]>();
  for (const clash of clashes) {
    const key = `${clash.kind} ${clash.way} ${clash.isEqual}`;
    const held = groups.get(key);
    if (held) held.push(clash);
    else groups.set(key, [clash]);
  }
  return [...groups.values()].flatMap((group) => {
    const notes = group.slice(0, toldSingly).map((c) => clashNote(c, into));
    const more = group.length - notes.length;
    return more === 0
      ? notes
      : [...notes, { ...notes[0]!, message: `The same goes for ${count(more, 'other name')} of this kind.` }];
  });
}

function clashNote({ kind, name, way, isEqual, renamed }: NodeClash, into: TreePath): Note {
  const message = {
    rename: `${nameOf(into)} has a ${kind} “${name}” already${isEqual ? ' that is the same' : ''}: what comes is called “${renamed}”.`,
    target: `The ${kind} “${name}” of ${nameOf(into)} is used${isEqual ? ': it is the same' : ', though it is another'}.`,
    replace: `The ${kind} “${name}” of ${nameOf(into)} is replaced by what comes.`,
    skip: `The ${kind} “${name}” does not come along: ${nameOf(into)} has one of that name.`,
  }[way];
  const isLoss = way === 'replace' || way === 'skip' || (way === 'target' && !isEqual);
  return { level: isLoss && !isEqual ? 'warning' : 'info', code: `clash-${way}`, message, path: into };
}
