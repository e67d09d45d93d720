// Where what is needed will lie in a new folder: by a rule, then as a hand changed it. A map from → to; nothing is read or written. The same needs, rule and hand give
// the same map.

import { folderOf, isWithin, nameOf, stemOf, treePath, type TreePath } from '../files/treePath';
import { homeOf, type Homes } from '../layouts/homes';
import { checkNewName, foldName, freeName, legalName } from '../names/portable';
import { setName } from '../names/sequences';
import { isUsualName } from '../names/usual';
import type { Closure, NeededFile } from './closure';

/** How files are laid out. `homes`: the folder of each kind. `tail`: so many of the folders they lie in are kept. */
export type Rule = { by: 'kind'; homes: Homes } | { by: 'mirror' } | { by: 'tail'; folders: number };

/** What a hand changed: where single files and whole sets go instead (by what they come from), and folders that are made though nothing lies in them. */
export interface ByHand {
  to: ReadonlyMap<string, string>;
  folders: readonly string[];
}

export const nothingByHand: ByHand = { to: new Map(), folders: [] };

export interface Placed {
  to: TreePath;
  byHand: boolean;
  /** The name it would have had: another of that name was there first, or it is not legal everywhere. */
  instead: { name: string; why: 'taken' | 'illegal' } | null;
}

/** A place that a hand chose and that cannot be. */
export interface Clash {
  from: string;
  to: string;
  why: string;
}

export interface Placement {
  files: ReadonlyMap<string, Placed>;
  /** Of a sequence or set: the path with marks, where it will lie. */
  sets: ReadonlyMap<string, TreePath>;
  folders: readonly TreePath[];
  clashes: readonly Clash[];
}

/** What is asked of a placement. `root`, and `libraries` by name: where a mirror begins. */
export interface Placing {
  root: string;
  libraries: readonly { name: string; path: string }[];
  rule: Rule;
  byHand?: ByHand | undefined;
  /** Names at the top that are kept free: the report's. */
  reserved?: readonly string[] | undefined;
}

/** Works it out. */
export function place(closure: Pick<Closure, 'files' | 'sets'>, placing: Placing): Placement {
  return new Placer(closure, placing).run();
}

class Placer {
  private readonly files = new Map<string, Placed>();
  private readonly sets = new Map<string, TreePath>();
  private readonly clashes: Clash[] = [];
  /** Folded paths of files, and of the folders around them. */
  private readonly takenFiles = new Set<string>();
  private readonly takenFolders = new Set<string>();
  private readonly commons: ReadonlyMap<string, string>;

  constructor(
    private readonly closure: Pick<Closure, 'files' | 'sets'>,
    private readonly placing: Placing,
  ) {
    this.commons = commonFolders(
      [...closure.files.values()].filter((f) => f.lies.in === 'outside').map((f) => f.from),
    );
  }

  run(): Placement {
    const hand = this.placing.byHand ?? nothingByHand;
    for (const name of this.placing.reserved ?? []) this.takenFiles.add(foldName(name));
    // What a hand placed stands first: the rule goes around it.
    for (const [from, to] of hand.to) this.byHand(from, to);
    const folders = hand.folders.flatMap((folder) => {
      const why = wrongIn(folder);
      if (why !== null || this.takenFiles.has(foldName(folder))) {
        this.clashes.push({ from: '', to: folder, why: why ?? 'A file of this name lies there.' });
        return [];
      }
      this.takeFolders(`${folder}/x`);
      return [treePath(folder)];
    });
    for (const file of this.closure.files.values())
      if (!this.files.has(file.from)) {
        if (file.set === null) this.single(file);
        else this.wholeSet(file.set);
      }
    return { files: this.files, sets: this.sets, folders, clashes: this.clashes };
  }

  private byHand(from: string, to: string): void {
    const members = this.closure.sets.get(from)?.filter((m) => this.closure.files.has(m));
    const file = this.closure.files.get(from);
    // What is not needed any more keeps its place for when it is again.
    if (!members?.length && !file) return;
    const all = members
      ? members.map((m) => [m, join(folderOf(treePath(to)), nameOf(m))] as const)
      : [[from, to] as const];
    const wrong = all.map(([, path]) => wrongIn(path) ?? this.occupied(path)).find((why) => why !== null);
    if (wrong !== undefined && wrong !== null) {
      this.clashes.push({ from, to, why: wrong });
      return;
    }
    for (const [member, path] of all) this.put(member, path, true, null);
    if (members) this.sets.set(from, treePath(to));
  }

  private occupied(path: string): string | null {
    const folded = foldName(path);
    if (this.takenFiles.has(folded)) return 'Another file will lie there.';
    if (this.takenFolders.has(folded)) return 'A folder of this name will lie there.';
    for (let at = folderOf(treePath(path)); at !== ''; at = folderOf(at))
      if (this.takenFiles.has(foldName(at))) return `${at} is a file.`;
    return null;
  }

  private put(from: string, to: string, byHand: boolean, instead: Placed['instead']): void {
    this.files.set(from, { to: treePath(to), byHand, instead });
    this.takenFiles.add(foldName(to));
    this.takeFolders(to);
  }

  private takeFolders(path: string): void {
    for (let at = folderOf(treePath(path)); at !== ''; at = folderOf(at)) this.takenFolders.add(foldName(at));
  }

  private single(file: NeededFile): void {
    const folder = this.folderFor(file);
    const legal = legalName(nameOf(file.from));
    const name = freeName(legal, (n) => this.occupied(join(folder, n)) !== null);
    const why = name !== legal ? 'taken' : legal !== nameOf(file.from) ? 'illegal' : null;
    this.put(file.from, join(folder, name), false, why && { name: nameOf(file.from), why });
  }

  /** All of a set into one folder, under their own names: else they would be no set. */
  private wholeSet(set: string): void {
    const members = this.closure.sets.get(set)!.filter((m) => this.closure.files.has(m));
    const folder = this.folderFor(this.closure.files.get(members[0]!)!);
    const own = setName(nameOf(set));
    let into = folder;
    for (let n = 1; members.some((m) => this.occupied(join(into, nameOf(m))) !== null); n++)
      into = join(folder, n === 1 ? own : `${own}_${n}`);
    for (const member of members) {
      if (this.files.has(member)) continue;
      this.put(
        member,
        join(into, nameOf(member)),
        false,
        into === folder ? null : { name: nameOf(member), why: 'taken' },
      );
    }
    this.sets.set(set, treePath(join(into, nameOf(set))));
  }

  private folderFor(file: NeededFile): string {
    return this.notAFile(this.wantedFolder(file));
  }

  /** A folder, under another name where a file lies in its way. */
  private notAFile(folder: string): string {
    let at = '';
    for (const part of folder === '' ? [] : folder.split('/')) {
      const above = at;
      at = join(
        above,
        freeName(part, (n) => this.takenFiles.has(foldName(join(above, n)))),
      );
    }
    return at;
  }

  private wantedFolder(file: NeededFile): string {
    const owner = file.owner === null ? undefined : this.files.get(file.owner);
    switch (this.placing.rule.by) {
      case 'kind': {
        if (owner) return folderOf(owner.to);
        const home = join(homeOf(file.kind, this.placing.rule.homes), file.below);
        // What has a usual name tells nobody whose it is: where it is not filed yet, it comes in a folder of its scene.
        const scene =
          file.below === '' && file.lies.in !== 'root' && isUsualName(file.from)
            ? this.files.get(file.neededBy[0]?.scene ?? '')
            : undefined;
        return scene ? join(home, stemOf(scene.to)) : home;
      }
      case 'tail': {
        const parts = partsOf(folderOf(treePath(bare(file.from))));
        const { folders } = this.placing.rule;
        return folders === 0 ? '' : legalPath(parts.slice(-folders));
      }
      case 'mirror':
        return legalPath(this.mirrored(file));
    }
  }

  private mirrored({ from, lies }: NeededFile): string[] {
    const below = (top: string) => partsOf(from.slice(top.length)).slice(0, -1);
    if (lies.in === 'root') return below(this.placing.root);
    if (lies.in === 'library') {
      const library = this.placing.libraries.find((l) => l.name === lies.name && isWithin(from, l.path))!;
      return ['libraries', library.name, ...below(library.path)];
    }
    const common = this.commons.get(driveOf(from))!;
    return ['outside', ...partsOf(bare(common)).slice(-1), ...below(common)];
  }
}

const join = (folder: string, name: string) =>
  folder === '' ? name : name === '' ? folder : `${folder}/${name}`;
const partsOf = (path: string) => path.split('/').filter((p) => p !== '');
/** A path without its drive or the slashes in front. */
const bare = (path: string) => path.replace(/^[A-Za-z]:/, '').replace(/^\/+/, '');
const driveOf = (path: string) => /^[A-Za-z]:|^\/\/[^/]+\/[^/]+/.exec(path)?.[0].toLowerCase() ?? '';

/** Of each drive the folder around all files that lie on it. */
function commonFolders(paths: readonly string[]): Map<string, string> {
  const commons = new Map<string, string>();
  for (const path of paths) {
    const folder = folderOf(path);
    const before = commons.get(driveOf(path));
    if (before === undefined) commons.set(driveOf(path), folder);
    else {
      const [a, b] = [before.split('/'), folder.split('/')];
      let n = 0;
      while (n < a.length && a[n] === b[n]) n++;
      commons.set(driveOf(path), a.slice(0, n).join('/'));
    }
  }
  return commons;
}

const legalPath = (parts: readonly string[]) => parts.map((p) => legalName(p) || '_').join('/');

/** Why a path that a hand chose cannot be; null: it can. */
function wrongIn(path: string): string | null {
  const parts = path.split('/');
  if (parts.some((p) => p === '' || p === '.' || p === '..')) return 'It is no path below the folder.';
  for (const part of parts) {
    const problem = checkNewName(part)[0];
    if (problem) return problem.message;
  }
  return null;
}
