// Opens a workspace on other machines, in simulation: which files could lie there, and for every reference whether it would be found there by
// that system's rules. Nothing outside the root exists there but what is connected there. The tree is listed, and each scene read, once for all
// machines.

import { behindLink } from '../files/behindLink';
import type { FileStat, FileTree, PassedOver } from '../files/fileTree';
import { isOwn } from '../files/records';
import { folderOf, join, joinInside, rootPath, type TreePath } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { checkFile, Fitting, type Misfit } from '../places/fits';
import { shown, type Machine } from '../places/machine';
import { isUnderHead } from '../references/elsewhere';
import { Lookup, type Listing } from '../references/lookup';
import { isReady, resolveReference, type Resolution, type Setting } from '../references/resolve';
import { judge, readScene, scenePaths, type JudgedReference } from '../references/scan';
import { normaliseAbsolute, understand } from '../references/written';
import { bytes, count } from '../text/figures';

/** How something could be mended before it is sent: by other names, shorter paths, a path that is relative, or by finding what is missing. */
export type Repair = 'rename' | 'shorten' | 'relative' | 'relink';

/** What would go wrong with a file or a reference. */
export interface Failure {
  kind: 'file' | 'reference';
  code: string;
  path: string;
  at: string | null;
  written: string | null;
  message: string;
  /** Null: nothing that is done here mends it. */
  repair: Repair | null;
}

export interface Rehearsal {
  place: Machine;
  references: number;
  open: number;
  files: number;
  bytes: number;
  failures: Failure[];
  /** Drives and shares that references lean on: they open while those are connected there with the same files. */
  leansOn: { head: string; references: number }[];
  /** The result in one sentence. */
  sentence: string;
}

class SimulatedListing implements Listing {
  private readonly folders = new Map<string, Map<string, 'file' | 'folder'>>([['', new Map()]]);

  add(path: string): void {
    const parts = path.split('/');
    let at = '';
    parts.forEach((part, i) => {
      const last = i === parts.length - 1;
      this.folders.get(at)!.set(part, last ? 'file' : 'folder');
      at = at === '' ? part : `${at}/${part}`;
      if (!last && !this.folders.has(at)) this.folders.set(at, new Map());
    });
  }

  /** The same without some files. */
  without(refused: ReadonlyMap<string, unknown>): Listing {
    return {
      entries: async (folder) =>
        (await this.entries(folder))?.filter(
          (e) => e.kind === 'folder' || !refused.has(join(folder, e.name)),
        ) ?? null,
    };
  }

  async entries(folder: TreePath) {
    const names = this.folders.get(folder);
    return names ? [...names].map(([name, kind]) => ({ name, kind })) : null;
  }
}

/** A failure of a file. */
function fileFailure(code: string, path: string, message: string, repair: Repair | null = null): Failure {
  return { kind: 'file', code, path, at: null, written: null, message, repair };
}

const repairOf: Record<Misfit['code'], Repair | null> = {
  name: 'rename',
  'case-collision': 'rename',
  'path-too-long': 'shorten',
  'file-too-large': null,
  'too-many-in-folder': null,
};

/** One machine while it is rehearsed. */
class Stage {
  readonly failures: Failure[] = [];
  /** Files that could not lie there. */
  readonly refused = new Map<string, Misfit>();
  private readonly fitting: Fitting;
  private readonly leaning = new Map<string, number>();
  private setting!: Setting;
  private open = 0;
  private references = 0;

  constructor(
    readonly machine: Machine,
    private readonly libraries: Setting['libraries'],
  ) {
    this.fitting = new Fitting(machine);
  }

  lay(path: string, size: number): void {
    const wrong = this.fitting.add(path, size);
    if (!wrong) return;
    this.failures.push(fileFailure(wrong.code, path, wrong.message, repairOf[wrong.code]));
    this.refused.set(path, wrong);
  }

  /** Once all files lie. */
  raise(listing: SimulatedListing): void {
    const lookup = new Lookup(this.refused.size > 0 ? listing.without(this.refused) : listing);
    this.setting = { root: this.machine.root, lookup, outside: null, libraries: [], places: [] };
  }

  async judge(r: JudgedReference, scene: TreePath): Promise<void> {
    this.references++;
    const failure = await this.failureOf(r, scene);
    if (failure === null) this.open++;
    else this.failures.push({ kind: 'reference', ...failure, path: scene, at: r.at, written: r.written });
  }

  result(files: number, size: number): Rehearsal {
    const { machine, failures, references, open } = this;
    if (machine.free !== null && size > machine.free)
      failures.unshift(
        fileFailure(
          'no-room',
          '',
          `${bytes(size)} are to lie there; ${machine.name} has ${bytes(machine.free)} free.`,
        ),
      );
    return {
      place: machine,
      references,
      open,
      files,
      bytes: size,
      failures,
      leansOn: [...this.leaning].map(([head, n]) => ({ head, references: n })),
      sentence: sentenceOf(machine, references, open, failures, this.leaning),
    };
  }

  /** Why a reference would not open there; null when it would. */
  private async failureOf(
    r: JudgedReference,
    scene: TreePath,
  ): Promise<Pick<Failure, 'code' | 'message' | 'repair'> | null> {
    const { machine } = this;
    const sceneRefused = this.refused.get(scene);
    if (sceneRefused)
      return { code: 'scene-refused', message: sceneRefused.message, repair: repairOf[sceneRefused.code] };
    const there = await resolveReference(r, formatOfName(scene)!, scene, this.setting);
    if (r.oddities.includes('empty-file'))
      return {
        code: 'empty-file',
        message: 'The file is empty: there is nothing in it to open.',
        repair: null,
      };
    if (there.target !== null && there.gaps.length > 0)
      return {
        code: 'gaps',
        message: `Of its row ${there.gaps.length === 1 ? 'one is' : `${there.gaps.length} are`} missing: ${there.gaps.slice(0, 8).join(', ')}.`,
        repair: null,
      };
    if (isReady(there)) return null;
    if (there.state === 'case' && machine.ignoresCase) return null;
    // Backslashes are path separators on Windows: what is odd elsewhere is at home there.
    const isAtHome = machine.system === 'windows' && there.oddities.every((o) => o === 'backslash');
    if (there.target !== null && there.state !== 'case' && isAtHome) return null;
    if (there.state === 'absolute') return null;
    if (there.target === null) {
      const away = this.awayFrom(r, scene);
      if (away !== null && 'head' in away) {
        this.leaning.set(away.head, (this.leaning.get(away.head) ?? 0) + 1);
        return null;
      }
      if (away !== null) return away;
    }
    return { code: there.state, ...this.whyNot(r, there, scene) };
  }

  /** What leads out of the root: to a drive that is connected there, or to a library that is not. */
  private awayFrom(
    r: JudgedReference,
    scene: TreePath,
  ): { head: string } | Pick<Failure, 'code' | 'message' | 'repair'> | null {
    const u = understand(
      `${r.prefix ?? ''}${r.written}${r.suffix ?? ''}`,
      r.syntax ?? formatOfName(scene)!.syntax,
    );
    if (u.form !== 'absolute' && u.form !== 'relative') return null;
    const path = normaliseAbsolute(
      u.form === 'absolute' ? u.path : `${this.machine.root}/${folderOf(scene)}/${u.path}`,
    );
    // What leads out of the root by its own relative path leads to what lies beside it here, which is not there.
    const head = u.form === 'absolute' ? this.machine.mounts.find((m) => isUnderHead(path, m)) : undefined;
    if (head !== undefined && !isUnderHead(path, this.machine.root)) return { head };
    const library = u.form === 'absolute' ? this.libraries.find((l) => isUnderHead(path, l.path)) : undefined;
    if (!library) return null;
    return {
      code: 'library',
      message: `It lies in the library ${library.name} at ${library.path}, which is not known to be on ${this.machine.name}: bring along what is used of it, or say in Settings that it is connected there.`,
      repair: null,
    };
  }

  private leavesRoot(r: JudgedReference, scene: TreePath): boolean {
    const u = understand(r.written, r.syntax ?? formatOfName(scene)!.syntax);
    return u.form === 'relative' && joinInside(folderOf(scene), u.path) === null;
  }

  private whyNot(
    r: JudgedReference,
    there: Resolution,
    scene: TreePath,
  ): Pick<Failure, 'message' | 'repair'> {
    const { machine, refused } = this;
    const target = there.target === null && r.target !== null ? refused.get(r.target) : undefined;
    if (target)
      return { message: `Its target could not lie there. ${target.message}`, repair: repairOf[target.code] };
    switch (there.state) {
      case 'case':
        return {
          message: `The letters differ from the file's, ${there.target}; ${machine.name} takes them for two names.`,
          repair: 'relative',
        };
      case 'remote':
        return { message: 'It is a web address and needs the network.', repair: null };
      case 'offline':
        return { message: `It lies on ${there.via}, which is not there.`, repair: null };
      default:
        return this.whyNowhere(r, there, this.leavesRoot(r, scene));
    }
  }

  private whyNowhere(
    r: JudgedReference,
    there: Resolution,
    isOut: boolean,
  ): Pick<Failure, 'message' | 'repair'> {
    if (there.oddities.length > 0 && there.target !== null)
      return { message: 'Its spelling is not understood by every program there.', repair: 'relative' };
    if (r.state === 'absolute')
      return {
        message: `It is absolute: it would open only if the workspace lay at the same path again.`,
        repair: 'relative',
      };
    if (/^([A-Za-z]:|[\\/])/.test(r.written) || /^file:/i.test(r.written))
      return {
        message: `It is absolute and leaves the root: nothing lies at that path on ${this.machine.name}.`,
        repair: 'relative',
      };
    return isOut
      ? { message: `It leaves the root: what lies there stays behind.`, repair: 'relative' }
      : { message: `Nothing lies there: the file is missing.`, repair: 'relink' };
  }
}

/** What is rehearsed: how its folder is called there, and the libraries it knows here. */
export interface Rehearsing {
  name: string;
  libraries: Setting['libraries'];
  onScene?: ((path: string) => void) | undefined;
}

/** Rehearses a tree on machines; one result for each, in their order. */
export async function rehearse(
  tree: FileTree,
  machines: readonly Machine[],
  { name, libraries, onScene }: Rehearsing,
): Promise<Rehearsal[]> {
  const stages = machines.map((m) => new Stage({ ...m, root: m.root.replace('<name>', name) }, libraries));
  const all = (failure: Failure) => stages.forEach((s) => s.failures.push(failure));
  const listing = new SimulatedListing();
  let files = 0;
  let size = 0;
  for await (const stat of filesOfBag(tree, all)) {
    if (isOwn(stat.path)) continue;
    files++;
    size += stat.size;
    listing.add(stat.path);
    for (const stage of stages) stage.lay(stat.path, stat.size);
  }
  for (const stage of stages) stage.raise(listing);
  const here = { lookup: new Lookup(tree), outside: null, libraries: [], places: [] };
  const found = await scenePaths(tree);
  for (const p of found.unread) all(fileFailure(p.code, p.path ?? '', p.message));
  for (const path of found.scenes) {
    onScene?.(path);
    const reading = await readScene(tree, path);
    if (!reading || !('format' in reading)) {
      all(fileFailure('unreadable', path, reading?.problems[0]?.message ?? 'This file could not be read.'));
      continue;
    }
    for (const stage of stages) {
      const { references } = await judge(path, reading, { ...here, root: stage.machine.root });
      for (const r of references) await stage.judge(r, path);
    }
    for (const p of reading.problems)
      if (p.code === 'truncated' || p.code === 'not-json' || p.code === 'bad-json')
        all(fileFailure(p.code, path, p.message));
  }
  return stages.map((s) => s.result(files, size));
}

/** Every file that a bag of the tree would hold: of a link that leads inside, what it leads to, under the link's name. */
async function* filesOfBag(tree: FileTree, failed: (failure: Failure) => void): AsyncIterable<FileStat> {
  const links: TreePath[] = [];
  const passedOver = (path: string, why: PassedOver) => {
    if (why === 'link') links.push(path as TreePath);
    else {
      const message =
        why === 'unreadable' ? 'This folder may not be read.' : 'This is no file that can travel.';
      failed(fileFailure(why, path, message));
    }
  };
  yield* tree.list(rootPath, passedOver);
  for (const link of links)
    for await (const found of behindLink(tree, link)) if ('file' in found) yield found.file;
}

function sentenceOf(
  machine: Machine,
  references: number,
  open: number,
  failures: readonly Failure[],
  leaning: ReadonlyMap<string, number>,
): string {
  const where = `on ${machine.name} at ${shown(machine)}`;
  const files = failures.filter((f) => f.kind === 'file').length;
  const lost = references - open;
  const all = references === 1 ? 'Its one reference' : `All ${references} references`;
  const parts: string[] = [];
  if (lost > 0)
    parts.push(`${open} of ${count(references, 'reference')} would open ${where}; ${lost} would not.`);
  else if (references === 0) parts.push(`There is no reference to judge; the files would open ${where}.`);
  else if (files === 0) parts.push(`${all} would open ${where}.`);
  else parts.push(`${all} would open ${where}, but not every file could lie there.`);
  if (files > 0) parts.push(`${files} ${files === 1 ? 'file needs' : 'files need'} attention.`);
  for (const [head, n] of leaning)
    parts.push(`${count(n, 'reference')} ${n === 1 ? 'leans' : 'lean'} on ${head} being connected there.`);
  return parts.join(' ');
}

/** Whether a file alone could lie on a machine, by the machine's own folder name: for warnings while working. */
export function misfitOn(machine: Machine, name: string, path: string, size: number): Misfit | null {
  return checkFile({ ...machine, root: machine.root.replace('<name>', name) }, path, size);
}
