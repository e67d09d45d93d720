// Opens a workspace on another place, in simulation: which files could lie there, and for every reference whether it would be
// found there by that system's rules. Nothing outside the root exists there unless the place map says so.

import { isOwn } from '../files/records';
import type { FileStat, FileTree, PassedOver } from '../files/fileTree';
import { behindLink } from '../files/behindLink';
import { rootPath, type TreePath } from '../files/treePath';
import type { JudgedReference } from '../references/scan';
import { isReady, resolveReference, type Resolution, type Setting } from '../references/resolve';
import { Lookup, type Listing } from '../references/lookup';
import { foldName } from '../names/portable';
import { formatOfName } from '../formats/formats';
import { judge, readScene, scenePaths } from '../references/scan';
import { checkFile, shown, type Machine } from './machine';

/** What would go wrong with a file or a reference. */
export interface Failure {
  kind: 'file' | 'reference';
  code: string;
  path: string;
  at: string | null;
  written: string | null;
  message: string;
}

export interface Rehearsal {
  place: Machine;
  references: number;
  open: number;
  files: number;
  failures: Failure[];
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

  async entries(folder: TreePath) {
    const names = this.folders.get(folder);
    return names ? [...names].map(([name, kind]) => ({ name, kind })) : null;
  }
}

/** A failure of a file. */
function fileFailure(code: string, path: string, message: string): Failure {
  return { kind: 'file', code, path, at: null, written: null, message };
}

/** The files of a tree as they could lie on a place. */
interface Laid {
  files: number;
  there: SimulatedListing;
  /** Files that could not lie there, with the reason. */
  refused: ReadonlyMap<string, string>;
}

async function layOut(tree: FileTree, place: Machine, failures: Failure[]): Promise<Laid> {
  const there = new SimulatedListing();
  const folded = new Map<string, string>();
  const refused = new Map<string, string>();
  let files = 0;
  for await (const stat of filesOfBag(tree, failures)) {
    if (isOwn(stat.path)) continue;
    files++;
    const twin = place.ignoresCase ? folded.get(foldName(stat.path)) : undefined;
    const collision = twin && {
      code: 'case-collision',
      message: `${stat.path} and ${twin} differ only in letter case; ${place.name} would keep one of them.`,
    };
    const wrong = checkFile(place, stat.path, stat.size) ?? collision;
    if (wrong) {
      failures.push(fileFailure(wrong.code, stat.path, wrong.message));
      refused.set(stat.path, wrong.message);
      continue;
    }
    folded.set(foldName(stat.path), stat.path);
    there.add(stat.path);
  }
  return { files, there, refused };
}

/** Rehearses a tree on a place. `name` is the workspace's folder name there. */
export async function rehearse(
  tree: FileTree,
  place: Machine,
  name: string,
  file: { libraries: Setting['libraries'] },
  onScene?: (path: string) => void,
): Promise<Rehearsal> {
  const at: Machine = { ...place, root: place.root.replace('<name>', name) };
  const failures: Failure[] = [];
  const { files, there, refused } = await layOut(tree, at, failures);
  const here = { lookup: new Lookup(tree), outside: null, libraries: [], places: [], root: at.root };
  const setting: Setting = { ...here, lookup: new Lookup(there) };
  const found = await scenePaths(tree);
  for (const p of found.unread) failures.push(fileFailure(p.code, p.path ?? '', p.message));
  let references = 0;
  let open = 0;
  for (const path of found.scenes) {
    onScene?.(path);
    const reading = await readScene(tree, path);
    if (!reading || !('format' in reading)) {
      const why = reading?.problems[0]?.message ?? 'This file could not be read.';
      failures.push(fileFailure('unreadable', path, why));
      continue;
    }
    for (const r of (await judge(path, reading, here)).references) {
      references++;
      const failure = refused.has(path)
        ? { code: 'scene-refused', message: refused.get(path)! }
        : await failureOf(r, path, at, setting, refused);
      if (failure === null) open++;
      else failures.push({ kind: 'reference', ...failure, path, at: r.at, written: r.written });
    }
    for (const p of reading.problems)
      if (p.code === 'truncated' || p.code === 'not-json' || p.code === 'bad-json')
        failures.push(fileFailure(p.code, path, p.message));
  }
  return {
    place: at,
    references,
    open,
    files,
    failures,
    sentence: sentenceOf(at, references, open, failures, file.libraries.length),
  };
}

/** Every file that a bag of the tree would hold: of a link that leads inside, what it leads to, under the link's name. */
async function* filesOfBag(tree: FileTree, failures: Failure[]): AsyncIterable<FileStat> {
  const links: TreePath[] = [];
  const passedOver = (path: string, why: PassedOver) => {
    if (why === 'link') links.push(path as TreePath);
    else {
      const message =
        why === 'unreadable' ? 'This folder may not be read.' : 'This is no file that can travel.';
      failures.push(fileFailure(why, path, message));
    }
  };
  yield* tree.list(rootPath, passedOver);
  for (const link of links)
    for await (const found of behindLink(tree, link)) if ('file' in found) yield found.file;
}

/** Why a reference would not open on the place; null when it would. */
async function failureOf(
  r: JudgedReference,
  scene: TreePath,
  place: Machine,
  setting: Setting,
  refused: ReadonlyMap<string, string>,
): Promise<{ code: string; message: string } | null> {
  const there = await resolveReference(r, formatOfName(scene)!, scene, setting);
  if (r.oddities.includes('empty-file'))
    return { code: 'empty-file', message: 'The file is empty: there is nothing in it to open.' };
  if (there.target !== null && there.gaps.length > 0)
    return {
      code: 'gaps',
      message: `Of its row ${there.gaps.length === 1 ? 'one is' : `${there.gaps.length} are`} missing: ${there.gaps.slice(0, 8).join(', ')}.`,
    };
  if (isReady(there)) return null;
  if (there.state === 'case' && place.ignoresCase) return null;
  // Backslashes are path separators on Windows: what is odd elsewhere is at home there.
  if (
    there.target !== null &&
    there.state !== 'case' &&
    place.system === 'windows' &&
    there.oddities.every((o) => o === 'backslash')
  )
    return null;
  if (there.state === 'absolute') return null;
  return { code: there.state, message: whyNot(r, there, place, refused) };
}

function whyNot(
  r: JudgedReference,
  there: Resolution,
  place: Machine,
  refused: ReadonlyMap<string, string>,
): string {
  if (there.target === null && r.target !== null && refused.has(r.target))
    return `Its target could not lie there. ${refused.get(r.target)!}`;
  switch (there.state) {
    case 'case':
      return `The letters differ from the file's, ${there.target}; ${place.name} takes them for two names.`;
    case 'remote':
      return 'It is a web address and needs the network.';
    case 'offline':
      return `It lies on ${there.via}, which is not there.`;
    default:
      if (there.oddities.length > 0 && there.target !== null)
        return 'Its spelling is not understood by every program there.';
      if (r.state === 'absolute')
        return `It is absolute: it would open only if the workspace lay at the same path again.`;
      return /^([A-Za-z]:|[\\/])/.test(r.written) || /^file:/i.test(r.written)
        ? `It is absolute and leaves the root: nothing lies at that path on ${place.name}.`
        : `Nothing lies there: the file is not inside the root.`;
  }
}

function sentenceOf(
  place: Machine,
  references: number,
  open: number,
  failures: readonly Failure[],
  libraries: number,
): string {
  const where = `on ${place.name} at ${shown(place)}`;
  const files = failures.filter((f) => f.kind === 'file').length;
  const lost = references - open;
  const fine =
    references === 0
      ? `There is no reference to judge; the files would open ${where}.`
      : `All ${references} references would open ${where}.`;
  const parts: string[] = [];
  if (lost > 0) parts.push(`${open} of ${references} references would open ${where}; ${lost} would not.`);
  else if (files === 0) parts.push(fine);
  else parts.push(`All ${references} references would open ${where}, but not every file could lie there.`);
  if (files > 0) parts.push(`${files} ${files === 1 ? 'file needs' : 'files need'} attention.`);
  if (libraries > 0 && lost > 0) parts.push('Libraries are not part of the workspace.');
  return parts.join(' ');
}
