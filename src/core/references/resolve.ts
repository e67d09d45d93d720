// Written path → target and state. The rule of the format comes first, letter for letter; only what that finds travels as it
// is. What some programs forgive (backslashes, undecoded escapes, letter case) is found too, and said.

import type { OutsideFiles } from '../files/fileTree';
import { folderOf, isWithin, join, joinInside, nameOf, type TreePath, insideOf } from '../files/treePath';
import type { Format, Reference, Syntax } from '../formats/format';
import { foldName } from '../names/portable';
import { isUsualName } from '../names/usual';
import { gapsOf, sequencePattern } from '../names/sequences';
import type { Lookup } from './lookup';
import { isUnderHead } from './elsewhere';
import { normaliseAbsolute, understand, type Oddity, type Understood } from './written';
import type { ReferenceState } from './states';

/** Where references are judged. */
export interface Setting {
  /** Absolute path of the root, '/'-separated, no slash at the end: '/home/a/boat', 'D:/work/boat'. */
  root: string;
  lookup: Lookup;
  /** Files outside the root; null where there are none to be seen (a bag). */
  outside: Pick<OutsideFiles, 'kind' | 'entries' | 'home'> | null;
  libraries: readonly { name: string; path: string }[];
  /** Path heads that mean the same folder on different machines; one that is a folder here is used. */
  places: readonly { name: string; heads: readonly string[] }[];
  /** Folders in which formats with a search path look further, absolute. */
  search?: readonly string[];
}

/** Where a scene stands: in the tree, or by its absolute path outside the root. */
export type ScenePlace = TreePath | { outside: string };

/** A reference, judged. */
export interface Resolution {
  state: ReferenceState;
  /** Inside the root: path in the tree. Outside: absolute. Null when nothing is there. */
  target: string | null;
  /** Where the file itself lies, where `target` leads to it through links inside the root. */
  real?: string | undefined;
  /** True when `target` is inside the root. */
  inside: boolean;
  /** How many files it stands for; 0 when none. */
  targets: number;
  gaps: number[];
  /** Names of the files that a sequence or set of tiles stands for, in the folder of `target`; absent for one file. */
  members?: readonly string[];
  oddities: Oddity[];
  /** Name of the library or place that counts here. */
  via: string | null;
}

const nothing: Resolution = {
  state: 'missing',
  target: null,
  inside: false,
  targets: 0,
  gaps: [],
  oddities: [],
  via: null,
};

function found(
  state: ReferenceState,
  target: string,
  inside: boolean,
  oddities: Oddity[] = [],
  via: string | null = null,
): Resolution {
  return { state, target, inside, targets: 1, gaps: [], oddities, via };
}

/** Whether a reference opens in a copy of the root alone, on another machine: found inside by its format's own rule, whole, and not empty. The one definition of "ready". */
export function isReady(r: Pick<Resolution, 'state' | 'oddities' | 'gaps'>): boolean {
  return r.state === 'travels' && r.oddities.length === 0 && r.gaps.length === 0;
}

/** Whether it opens there as soon as the library it names is there too. */
export function isReadyWithLibrary(r: Pick<Resolution, 'state' | 'oddities' | 'gaps'>): boolean {
  return isReady({ ...r, state: r.state === 'library' ? 'travels' : r.state });
}

/** What of a reference counts for judging it. */
export type Judged = Pick<Reference, 'written' | 'syntax' | 'prefix' | 'suffix' | 'frames'>;

/** Judges one reference that stands in the scene at `scene`. No promise is made where the folder's names are known already. */
export function resolveReference(
  reference: Judged,
  format: Pick<Format, 'syntax' | 'searches'>,
  scene: ScenePlace,
  setting: Setting,
): Resolution | Promise<Resolution> {
  const understood = understandReference(reference, reference.written, reference.syntax ?? format.syntax);
  if (understood.form === 'relative' && typeof scene === 'string') {
    const inside = joinInside(folderOf(scene), understood.path);
    if (inside !== null && !setting.lookup.hasLinks && setting.lookup.knownKind(inside) === 'file')
      return found('travels', inside, true, understood.oddities);
  }
  return resolveByAsking(reference, understood, format, scene, setting);
}

/** A written value, understood with what its format puts before and behind it. */
function understandReference(r: Judged, written: string, syntax: Syntax): Understood {
  const value = `${r.prefix ?? ''}${written}`;
  if (r.suffix === undefined) return understand(value, syntax);
  const u: Understood =
    value === '' ? { form: 'relative', path: '', oddities: [], tail: '' } : understand(value, syntax);
  return 'path' in u ? { ...u, path: u.path + r.suffix } : u;
}

async function resolveByAsking(
  reference: Judged,
  understood: Understood,
  format: Pick<Format, 'syntax' | 'searches'>,
  scene: ScenePlace,
  setting: Setting,
): Promise<Resolution> {
  const syntax = reference.syntax ?? format.syntax;
  const asked: Asked = {
    ...setting,
    marks: syntax !== 'uri' || reference.suffix !== undefined ? syntax : null,
    frames: reference.frames,
  };
  const first = await resolveUnderstood(understood, scene, asked);
  if (first.state !== 'missing') return first;
  if (understood.form === 'relative') {
    const further = await resolveFurther(understood, { syntax, searches: format.searches }, scene, asked);
    if (further) return further;
  }
  for (const [other, oddity] of otherSpellings(reference, syntax)) {
    const next = await resolveUnderstood(other, scene, asked);
    if (next.state !== 'missing' && next.state !== 'case')
      return { ...next, oddities: [...new Set([...next.oddities, oddity])] };
  }
  return first;
}

/** Where else a relative path is looked for: along a search path, below a library by its name, in the home folder; null where that says nothing. */
async function resolveFurther(
  understood: Understood & { form: 'relative' },
  format: Pick<Format, 'syntax' | 'searches'>,
  scene: ScenePlace,
  asked: Asked,
): Promise<Resolution | null> {
  const { path, oddities } = understood;
  const at = (folder: string, rest: string) =>
    resolveUnderstood(
      { form: 'absolute', system: 'posix', path: `${folder}/${rest}`, oddities, tail: '' },
      scene,
      asked,
    );
  const asInside = (r: Resolution): Resolution => ({
    ...r,
    state: r.state === 'absolute' ? 'travels' : r.state,
  });
  const isAnchored = /^\.{1,2}\//.test(path);
  if (format.searches === 'always' || (format.searches === 'unanchored' && !isAnchored)) {
    for (const folder of asked.search ?? []) {
      const next = await at(folder, path);
      if (next.target !== null) return { ...asInside(next), via: next.via ?? 'search path' };
    }
    const next = format.syntax === 'usd' ? await at(asked.root, path) : nothing;
    if (next.target !== null) return { ...asInside(next), oddities: [...next.oddities, 'working-folder'] };
  }
  const named = /^\{([^{}/]+)\}\/(.+)$/s.exec(path);
  const library = named && asked.libraries.find((l) => l.name === named[1]);
  if (named && library) {
    const next = await at(library.path, named[2]!);
    return { ...next, oddities: next.target === null ? [] : [...next.oddities, 'library-name'] };
  }
  const home = asked.outside?.home;
  const next = home && path.startsWith('~/') ? await at(home, path.slice(2)) : nothing;
  return next.target === null ? null : { ...next, oddities: [...next.oddities, 'home-folder'] };
}

/** Spellings the format's rule does not allow and that programs are known to forgive. */
function* otherSpellings(r: Judged, syntax: Syntax): Iterable<[Understood, Oddity]> {
  const w = r.written;
  if (w.includes('%') || (syntax === 'usd' && /^file:/i.test(w)))
    yield [understandReference(r, w, syntax === 'uri' ? 'native' : 'uri'), 'not-decoded'];
  else if (syntax === 'uri' && /[#?]/.test(w)) yield [understandReference(r, w, 'native'), 'not-decoded'];
  if (w.trim() !== w) yield [understandReference(r, w.trim(), syntax), 'outer-blanks'];
}

/** A setting with what one reference adds: how its marks are read (null: they mean nothing), and the frames it asks for. */
interface Asked extends Setting {
  marks: Syntax | null;
  frames: Judged['frames'];
}

/** Files a name with marks stands for; null when it has none, or when no file fits. */
async function manyOf(
  path: string,
  filesIn: (folder: string) => Promise<readonly string[] | null>,
  asked: Asked,
): Promise<Pick<Resolution, 'targets' | 'gaps' | 'members'> | null> {
  const pattern = asked.marks === null ? null : sequencePattern(nameOf(path), asked.marks !== 'usd');
  if (!pattern) return null;
  const numbers: number[] = [];
  const members: string[] = [];
  for (const name of (await filesIn(folderOf(path))) ?? []) {
    const n = pattern.numberOf(name);
    if (n === null) continue;
    numbers.push(n);
    members.push(name);
  }
  return members.length === 0
    ? null
    : { targets: members.length, gaps: gapsOf(numbers, pattern.of, asked.frames), members };
}

async function resolveUnderstood(u: Understood, scene: ScenePlace, setting: Asked): Promise<Resolution> {
  if (u.form === 'nothing') return nothing;
  if (u.form === 'remote') return { ...nothing, state: 'remote' };
  if (u.form === 'absolute') return resolveAbsolute(u, setting);
  if (typeof scene !== 'string') {
    // From outside: what leads into the root is found there, and is no more portable than the file it stands in.
    const beside = normaliseAbsolute(`${folderOf(scene.outside)}/${u.path}`);
    if (!isWithin(beside, setting.root)) return resolveOutside(beside, u.oddities, setting);
    return insideOrNothing(beside.slice(setting.root.length + 1) as TreePath, 'travels', setting);
  }
  const inside = joinInside(folderOf(scene), u.path);
  if (inside !== null) {
    const back = await insideOrNothing(inside, 'travels', setting);
    if (back.target !== null) return { ...back, oddities: u.oddities };
    // Not in the tree, yet on disk: a link that leaves the root.
    if (
      setting.outside &&
      inside !== '' &&
      (await setting.outside.kind(`${setting.root}/${inside}`)) === 'file'
    )
      return found('outside', `${setting.root}/${inside}`, false, u.oddities);
    return nothing;
  }
  const absolute = normaliseAbsolute(`${setting.root}/${folderOf(scene)}/${u.path}`);
  if (isWithin(absolute, setting.root)) {
    const back = await insideOrNothing(
      absolute.slice(setting.root.length + 1) as TreePath,
      'travels',
      setting,
    );
    return back.target === null ? back : { ...back, oddities: [...u.oddities, 'through-root-name'] };
  }
  return resolveOutside(absolute, u.oddities, setting);
}

async function insideOrNothing(path: TreePath, state: ReferenceState, setting: Asked): Promise<Resolution> {
  const { lookup } = setting;
  const withReal = async (r: Resolution, folder: TreePath, name: string): Promise<Resolution> => {
    if (!lookup.hasLinks) return r;
    const real = r.members ? join(await lookup.real(folder), name) : await lookup.real(r.target as TreePath);
    return real === r.target ? r : { ...r, real };
  };
  const folder = folderOf(path);
  if ((await lookup.kind(path)) === 'file') return withReal(found(state, path, true), folder, nameOf(path));
  const many = await manyOf(path, (f) => lookup.filesIn(f as TreePath), setting);
  if (many) return withReal({ ...found(state, path, true), ...many }, folder, nameOf(path));
  const loose = await lookup.findLoosely(path);
  return loose === null ? nothing : withReal(found('case', loose, true), folder, nameOf(loose));
}

/** The places a path lies in, those that say it more exactly first. */
function placesOf(path: string, places: Setting['places']) {
  const found = places.flatMap((place) => {
    const head = place.heads.filter((h) => isUnderHead(path, h)).sort((a, b) => b.length - a.length)[0];
    return head === undefined ? [] : [{ place, head }];
  });
  return found.sort((a, b) => b.head.length - a.head.length);
}

async function resolveAbsolute(u: Understood & { form: 'absolute' }, setting: Asked): Promise<Resolution> {
  const path = normaliseAbsolute(u.path);
  const rootIsWindows = /^([A-Za-z]:|\/\/)/.test(setting.root);
  const inside = insideOf(setting.root, path);
  if (inside !== null) return insideOrNothing(inside, 'absolute', setting);
  let away: string | null = null;
  for (const { place, head } of placesOf(path, setting.places)) {
    const tail = path.slice(head.replace(/\/$/, '').length);
    let connected = false;
    for (const here of place.heads) {
      if ((await setting.outside?.kind(here)) !== 'folder') continue;
      connected = true;
      const mapped = normaliseAbsolute(here.replace(/\/$/, '') + tail);
      if (isWithin(mapped, setting.root))
        return insideOrNothing(mapped.slice(setting.root.length + 1) as TreePath, 'absolute', setting);
      const there = await resolveOutside(mapped, u.oddities, setting);
      if (there.target !== null) return { ...there, via: there.via ?? place.name };
    }
    if (!connected) away ??= place.name;
  }
  if (away !== null) return { ...nothing, state: 'offline', via: away };
  // A drive letter or share means nothing on a system that has none, unless a place says what it is.
  if (u.system === 'windows' && !rootIsWindows) return nothing;
  return resolveOutside(path, u.oddities, setting);
}

async function resolveOutside(path: string, oddities: Oddity[], setting: Asked): Promise<Resolution> {
  const { outside } = setting;
  if (!outside) return nothing;
  const library = setting.libraries.find((l) => isUnderHead(path, l.path));
  const there = (many: object = {}): Resolution => ({
    ...(library
      ? found('library', path, false, oddities, library.name)
      : found('outside', path, false, oddities)),
    ...many,
  });
  if ((await outside.kind(path)) === 'file') return there();
  // Nothing of the library is there: its place is away, and so is all that lies in it.
  if (library && (await outside.kind(library.path)) !== 'folder')
    return { ...nothing, state: 'offline', via: library.name };
  const many = await manyOf(
    path,
    async (folder) =>
      (await outside.entries(folder))?.filter((e) => e.kind === 'file').map((e) => e.name) ?? null,
    setting,
  );
  return many ? there(many) : nothing;
}

/**
 * Where a missing absolute path's file lies inside the root, told by its tail: the longest tail of two or more parts that exists. Two parts with
 * a usual name (`textures/diffuse.png`) may be any project's: they count only below a folder of the root's own name.
 */
export async function findByTail(
  written: string,
  syntax: Syntax,
  setting: Pick<Setting, 'lookup' | 'root'>,
): Promise<TreePath | null> {
  const u = understand(written, syntax);
  if (u.form !== 'absolute') return null;
  const parts = u.path.split('/').filter((p) => p !== '' && p !== '.');
  for (let i = 1; i <= parts.length - 2; i++) {
    const tail = parts.slice(i).join('/') as TreePath;
    if (parts.slice(i).includes('..')) continue;
    const isAnybodys = parts.length - i === 2 && isUsualName(tail);
    if (isAnybodys && foldName(parts[i - 1]!) !== foldName(nameOf(setting.root))) continue;
    if ((await setting.lookup.kind(tail)) === 'file') return tail;
  }
  return null;
}

/** What is odd about the spelling, as a sentence about the reference. */
export function oddityMessage(oddity: Oddity, written: string): string {
  const name = nameOf(written.replaceAll('\\', '/'));
  return {
    backslash: `The path to ${name} is written with backslashes: it opens on Windows and in forgiving programs only.`,
    'through-root-name': `The path to ${name} leaves the root and comes back by the root's name: it breaks when the root is renamed.`,
    'not-decoded': `The path to ${name} is not percent-encoded as its format demands; it is found only when read literally.`,
    'working-folder': `The path to ${name} is found only from the root, as the working folder of the program that opens it.`,
    'library-name': `The path to ${name} begins with a library's name, which only Loyal Satchel reads: write it out before a program opens the scene.`,
    'home-folder': `The path to ${name} begins with ~: only programs that read this as the home folder find it.`,
    'empty-file': `The file ${name} is empty: there is nothing in it to open.`,
    query: `The path to ${name} has a query behind it (?…): programs that open files look for a name with it.`,
    'outer-blanks': `The path to ${name} has blanks around it; it is found only without them.`,
  }[oddity];
}
