// Where what is needed will lie in a new folder: by a rule, then as a hand changed it. A map from → to; nothing is read or written. The same needs, rule and hand give
// the same map.

import { folderOf, isWithin, nameOf, stemOf, treePath, type TreePath } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { homeOf, type Homes } from '../layouts/homes';
import { checkNewName, foldName, freeName, legalName } from '../names/portable';
import { sequencePattern, setName } from '../names/sequences';
import { isUsualName } from '../names/usual';
import { placesLookedAt } from '../references/meant';
import type { JudgedReference } from '../references/scan';
import { absoluteTarget, type Closure, type NeededFile } from './closure';
import { handed, type HandStep } from './hand';

/** How files are laid out. `homes`: the folder of each kind; `flat`: without the folders below it that they lie in. `tail`: so many of the folders they lie in are kept. */
export type Rule =
  | { by: 'kind'; homes: Homes; flat?: boolean | undefined }
  | { by: 'mirror' }
  | { by: 'tail'; folders: number }
  /** As it lies below the root; what lies elsewhere goes to the home of its kind. */
  | { by: 'kept'; homes: Homes };

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
  byHand?: readonly HandStep[] | undefined;
  /** Names at the top that are kept free: the report's. */
  reserved?: readonly string[] | undefined;
}

/** A file, as far as its place depends on it. */
export type PlacedFile = Pick<
  NeededFile,
  'from' | 'kind' | 'below' | 'lies' | 'owner' | 'neededBy' | 'set' | 'beside'
> &
  Partial<Pick<NeededFile, 'references'>>;

/** What is placed. */
export interface ToPlace {
  files: ReadonlyMap<string, PlacedFile>;
  sets: Closure['sets'];
}

/** Where what a reference leads to will lie; null where it does not come along. */
export function placedTarget(
  root: string,
  scene: string,
  reference: JudgedReference,
  closure: Pick<Closure, 'sets'>,
  placement: Placement,
): TreePath | null {
  const target = absoluteTarget(root, scene, reference);
  if (target === null) return null;
  if (!reference.members) return placement.files.get(target)?.to ?? null;
  return closure.sets.has(target) ? (placement.sets.get(target) ?? null) : null;
}

/**
 * Works it out. A reference whose file does not come along stays as it is written, and may find a file of that name at its new place: such paths are kept free,
 * unless a hand puts a file there.
 */
export function place(closure: ToPlace, placing: Placing): Placement {
  const reserved = new Set(placing.reserved);
  for (let tries = 1; ; tries++) {
    const placement = placedOnce(closure, { ...placing, reserved: [...reserved] });
    const before = reserved.size;
    for (const path of metByStrangers(closure, placing.root, placement)) reserved.add(path);
    // Each try moves a file to another name, at which another reference may find it.
    if (reserved.size === before || tries === mostTries) return placement;
  }
}

const mostTries = 20;

/** Paths of placed files that a reference would find whose own file does not come along. */
function metByStrangers(closure: ToPlace, root: string, placement: Placement): Set<string> {
  const placedAt = new Map<string, string>();
  const inFolder = new Map<string, string[]>();
  for (const { to, byHand } of placement.files.values()) {
    if (byHand) continue;
    placedAt.set(foldName(to), to);
    const folder = foldName(folderOf(to));
    inFolder.set(folder, [...(inFolder.get(folder) ?? []), to]);
  }
  const met = new Set<string>();
  for (const { from, references } of closure.files.values()) {
    const format = formatOfName(from);
    const scene = placement.files.get(from)?.to;
    if (!format || scene === undefined) continue;
    for (const r of references ?? []) {
      if (placedTarget(root, from, r, closure, placement) !== null) continue;
      for (const path of placesLookedAt(newRoot, scene, r, format)) {
        const there = placedAt.get(foldName(path));
        if (there !== undefined) met.add(there);
        const pattern = sequencePattern(nameOf(path));
        if (pattern)
          for (const to of inFolder.get(foldName(folderOf(path))) ?? [])
            if (pattern.numberOf(nameOf(to)) !== null) met.add(to);
      }
    }
  }
  return met;
}

// Absolute paths as they are written lead to no file of the new folder, wherever that will be.
const newRoot = '/\0';

function placedOnce(closure: ToPlace, placing: Placing): Placement {
  const byRule = new Placer(closure, placing).run([], nothingByHand);
  if (!placing.byHand?.length) return byRule;
  const at = new Map<string, string>(byRule.sets);
  for (const file of closure.files.values())
    if (file.set === null) at.set(file.from, byRule.files.get(file.from)!.to);
  const { to, folders } = handed(placing.byHand, at);
  // What a hand placed stands first: the rule goes around it.
  return new Placer(closure, placing).run(folders, to);
}

const nothingByHand: ReadonlyMap<string, string> = new Map();

class Placer {
  private readonly files = new Map<string, Placed>();
  private readonly sets = new Map<string, TreePath>();
  private readonly clashes: Clash[] = [];
  /** Folded paths of files, and of the folders around them. */
  private readonly takenFiles = new Set<string>();
  private readonly takenFolders = new Set<string>();
  /** Files whose scenes are being placed first. */
  private readonly open = new Set<string>();
  private readonly commons: ReadonlyMap<string, string>;

  constructor(
    private readonly closure: ToPlace,
    private readonly placing: Placing,
  ) {
    this.commons = commonFolders(
      [...closure.files.values()].filter((f) => f.lies.in === 'outside').map((f) => f.from),
    );
  }

  run(folders: readonly string[], byHand: ReadonlyMap<string, string>): Placement {
    for (const name of this.placing.reserved ?? []) this.takenFiles.add(foldName(name));
    for (const [from, to] of byHand) this.byHand(from, to);
    const made = folders.flatMap((folder) => {
      const why = wrongIn(folder) ?? this.fileAbove(`${folder}/x`);
      if (why !== null) {
        this.clashes.push({ from: '', to: folder, why });
        return [];
      }
      this.takeFolders(`${folder}/x`);
      return [treePath(folder)];
    });
    for (const file of this.closure.files.values()) this.byRule(file);
    return { files: this.files, sets: this.sets, folders: made, clashes: this.clashes };
  }

  private byRule(file: PlacedFile): void {
    if (this.files.has(file.from) || this.open.has(file.from)) return;
    // What belongs to a scene lies where that lies.
    const owner = file.owner === null ? undefined : this.closure.files.get(file.owner);
    if (owner) {
      this.open.add(file.from);
      this.byRule(owner);
      this.open.delete(file.from);
    }
    if (file.set === null) this.single(file);
    else this.wholeSet(file.set);
  }

  /** Where a hand wants it; what cannot be is said, and shown there all the same. */
  private byHand(from: string, to: string): void {
    const members = this.closure.sets.get(from)?.filter((m) => this.closure.files.has(m));
    const all = members
      ? members.map((m) => [m, join(folderOf(to), nameOf(m))] as const)
      : [[from, to] as const];
    const wrong =
      members && nameOf(to) !== nameOf(from)
        ? 'Frames and tiles keep their names: scenes count on them.'
        : all.map(([, path]) => wrongIn(path) ?? this.occupied(path)).find((why) => why !== null);
    if (wrong) this.clashes.push({ from, to, why: wrong });
    for (const [member, path] of all) this.put(member, path, true, null);
    if (members) this.sets.set(from, to as TreePath);
  }

  private occupied(path: string): string | null {
    const folded = foldName(path);
    if (this.takenFiles.has(folded)) return 'Another file will lie there.';
    if (this.takenFolders.has(folded)) return 'A folder of this name will lie there.';
    return this.fileAbove(path);
  }

  /** What is wrong where a file lies in place of a folder that a path leads through. */
  private fileAbove(path: string): string | null {
    for (let at = folderOf(path); at !== ''; at = folderOf(at))
      if (this.takenFiles.has(foldName(at))) return `${at} is a file.`;
    return null;
  }

  private put(from: string, to: string, byHand: boolean, instead: Placed['instead']): void {
    // One that a hand chose may be no path at all: then it is a clash, and no plan is made of it.
    this.files.set(from, { to: to as TreePath, byHand, instead });
    this.takenFiles.add(foldName(to));
    this.takeFolders(to);
  }

  private takeFolders(path: string): void {
    for (let at = folderOf(path); at !== ''; at = folderOf(at)) this.takenFolders.add(foldName(at));
  }

  private single(file: PlacedFile): void {
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

  private folderFor(file: PlacedFile): string {
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

  private wantedFolder(file: PlacedFile): string {
    const { rule } = this.placing;
    switch (rule.by) {
      case 'kind':
        return this.homeFolder(file, rule.homes, rule.flat ? '' : file.below);
      case 'kept':
        return file.lies.in === 'root'
          ? legalPath(this.mirrored(file))
          : this.homeFolder(file, rule.homes, '');
      case 'tail': {
        const parts = partsOf(folderOf(treePath(bare(file.from))));
        return rule.folders === 0 ? '' : legalPath(parts.slice(-rule.folders));
      }
      case 'mirror':
        return legalPath(this.mirrored(file));
    }
  }

  private homeFolder(file: PlacedFile, homes: Homes, below: string): string {
    const owner = file.owner === null ? undefined : this.files.get(file.owner);
    if (file.beside !== undefined) return file.beside;
    const home = owner ? folderOf(owner.to) : join(homeOf(file.kind, homes), below);
    // What has a usual name tells nobody whose it is: where it is not filed yet, it comes in a folder of its scene.
    const scene =
      file.below === '' && file.lies.in !== 'root' && isUsualName(file.from)
        ? (owner ?? this.files.get(file.neededBy[0]?.scene ?? ''))
        : undefined;
    return scene ? join(home, stemOf(scene.to)) : home;
  }

  private mirrored({ from, lies }: PlacedFile): string[] {
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
