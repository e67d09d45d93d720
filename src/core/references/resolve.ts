// Written path → target and state. The rule of the format comes first, letter for letter; only what that finds travels as it
// is. What some programs forgive (backslashes, undecoded escapes, letter case) is found too, and said.

import type { OutsideFiles } from '../files/fileTree';
import { folderOf, isWithin, joinInside, nameOf, type TreePath } from '../files/treePath';
import type { Format, Reference } from '../formats/format';
import type { Lookup } from './lookup';
import { normaliseAbsolute, understand, type Oddity, type Understood } from './written';

/** States of a reference, as users see them. */
export const states = ['missing', 'offline', 'case', 'outside', 'absolute', 'remote', 'library', 'travels'] as const;
export type ReferenceState = (typeof states)[number];

/** Where references are judged. */
export interface Setting {
  /** Absolute path of the root, '/'-separated, no slash at the end: '/home/a/boat', 'D:/work/boat'. */
  root: string;
  lookup: Lookup;
  /** Files outside the root; null where there are none to be seen (a bag). */
  outside: Pick<OutsideFiles, 'kind'> | null;
  libraries: readonly { name: string; path: string }[];
  /** Path heads that mean the same folder on different machines; one that is a folder here is used. */
  places: readonly { name: string; heads: readonly string[] }[];
}

/** A reference, judged. */
export interface Resolution {
  state: ReferenceState;
  /** Inside the root: path in the tree. Outside: absolute. Null when nothing is there. */
  target: string | null;
  /** True when `target` is inside the root. */
  inside: boolean;
  /** How many files it stands for; 0 when none. */
  targets: number;
  gaps: number[];
  oddities: Oddity[];
  /** Name of the library or place that counts here. */
  via: string | null;
}

const nothing: Resolution = { state: 'missing', target: null, inside: false, targets: 0, gaps: [], oddities: [], via: null };

function found(state: ReferenceState, target: string, inside: boolean, oddities: Oddity[] = [], via: string | null = null): Resolution {
  return { state, target, inside, targets: 1, gaps: [], oddities, via };
}

/** True when a reference needs nothing: it will open on any machine that has what it names. */
export function isReady(r: Pick<Resolution, 'state' | 'oddities'>): boolean {
  return (r.state === 'travels' || r.state === 'library') && r.oddities.length === 0;
}

/** Judges one reference that stands in the scene at `scene`. No promise is made where the folder's names are known already. */
export function resolveReference(reference: Pick<Reference, 'written'>, format: Pick<Format, 'syntax'>, scene: TreePath, setting: Setting): Resolution | Promise<Resolution> {
  const understood = understand(reference.written, format.syntax);
  if (understood.form === 'relative') {
    const inside = joinInside(folderOf(scene), understood.path);
    if (inside !== null && setting.lookup.knownKind(inside) === 'file') return found('travels', inside, true, understood.oddities);
  }
  return resolveByAsking(reference, understood, format, scene, setting);
}

async function resolveByAsking(reference: Pick<Reference, 'written'>, understood: Understood, format: Pick<Format, 'syntax'>, scene: TreePath, setting: Setting): Promise<Resolution> {
  const first = await resolveUnderstood(understood, scene, setting);
  if (first.state !== 'missing') return first;
  for (const [other, oddity] of otherSpellings(reference.written, format.syntax)) {
    const next = await resolveUnderstood(other, scene, setting);
    if (next.state !== 'missing' && next.state !== 'case') return { ...next, oddities: [...new Set([...next.oddities, oddity])] };
  }
  return first;
}

/** Spellings the format's rule does not allow and that programs are known to forgive. */
function* otherSpellings(written: string, syntax: 'uri' | 'native'): Iterable<[Understood, Oddity]> {
  if (written.includes('%')) yield [understand(written, syntax === 'uri' ? 'native' : 'uri'), 'not-decoded'];
  else if (syntax === 'uri' && /[#?]/.test(written)) yield [understand(written, 'native'), 'not-decoded'];
  if (written.trim() !== written) yield [understand(written.trim(), syntax), 'outer-blanks'];
}

async function resolveUnderstood(u: Understood, scene: TreePath, setting: Setting): Promise<Resolution> {
  if (u.form === 'nothing') return nothing;
  if (u.form === 'remote') return { ...nothing, state: 'remote' };
  if (u.form === 'absolute') return resolveAbsolute(u, setting);
  const inside = joinInside(folderOf(scene), u.path);
  if (inside !== null) {
    if ((await setting.lookup.kind(inside)) === 'file') return found('travels', inside, true, u.oddities);
    const loose = await setting.lookup.findLoosely(inside);
    if (loose !== null) return found('case', loose, true, u.oddities);
    // Not in the tree, yet on disk: a link that leaves the root.
    if (setting.outside && inside !== '' && (await setting.outside.kind(`${setting.root}/${inside}`)) === 'file') return found('outside', `${setting.root}/${inside}`, false, u.oddities);
    return nothing;
  }
  const absolute = normaliseAbsolute(`${setting.root}/${folderOf(scene)}/${u.path}`);
  if (isWithin(absolute, setting.root)) {
    const back = await insideOrNothing(absolute.slice(setting.root.length + 1) as TreePath, 'travels', setting);
    return back.target === null ? back : { ...back, oddities: [...u.oddities, 'through-root-name'] };
  }
  return resolveOutside(absolute, u.oddities, setting);
}

async function insideOrNothing(path: TreePath, state: ReferenceState, setting: Setting): Promise<Resolution> {
  if ((await setting.lookup.kind(path)) === 'file') return found(state, path, true);
  const loose = await setting.lookup.findLoosely(path);
  return loose === null ? nothing : found('case', loose, true);
}

async function resolveAbsolute(u: Understood & { form: 'absolute' }, setting: Setting): Promise<Resolution> {
  const path = normaliseAbsolute(u.path);
  const rootIsWindows = /^([A-Za-z]:|\/\/)/.test(setting.root);
  const same = rootIsWindows ? path.toLowerCase().startsWith(`${setting.root.toLowerCase()}/`) : isWithin(path, setting.root);
  if (same) return insideOrNothing(path.slice(setting.root.length + 1) as TreePath, 'absolute', setting);
  for (const place of setting.places) {
    const head = place.heads.find((h) => within(path, h));
    if (head === undefined) continue;
    const tail = path.slice(head.replace(/\/$/, '').length);
    let connected = false;
    for (const here of place.heads) {
      if ((await setting.outside?.kind(here)) !== 'folder') continue;
      connected = true;
      const mapped = normaliseAbsolute(here.replace(/\/$/, '') + tail);
      if (isWithin(mapped, setting.root)) return insideOrNothing(mapped.slice(setting.root.length + 1) as TreePath, 'absolute', setting);
      const there = await resolveOutside(mapped, u.oddities, setting);
      if (there.target !== null) return { ...there, via: there.via ?? place.name };
    }
    if (!connected) return { ...nothing, state: 'offline', via: place.name };
  }
  // A drive letter or share means nothing on a system that has none, unless a place says what it is.
  if (u.system === 'windows' && !rootIsWindows) return nothing;
  return resolveOutside(path, u.oddities, setting);
}

function within(path: string, head: string): boolean {
  const h = head.replace(/\/$/, '');
  const windows = /^([A-Za-z]:|\/\/)/.test(h);
  return windows ? path.toLowerCase().startsWith(`${h.toLowerCase()}/`) : isWithin(path, h);
}

async function resolveOutside(path: string, oddities: Oddity[], setting: Setting): Promise<Resolution> {
  if (!setting.outside || (await setting.outside.kind(path)) !== 'file') return nothing;
  const library = setting.libraries.find((l) => within(path, l.path));
  return library ? found('library', path, false, oddities, library.name) : found('outside', path, false, oddities);
}

/** Where a missing absolute path's file lies inside the root, told by its tail: the longest tail of two or more parts that exists. */
export async function findByTail(written: string, syntax: 'uri' | 'native', setting: Pick<Setting, 'lookup'>): Promise<TreePath | null> {
  const u = understand(written, syntax);
  if (u.form !== 'absolute') return null;
  const parts = u.path.split('/').filter((p) => p !== '' && p !== '.');
  for (let i = 1; i <= parts.length - 2; i++) {
    const tail = parts.slice(i).join('/') as TreePath;
    if (parts.slice(i).includes('..')) continue;
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
    'outer-blanks': `The path to ${name} has blanks around it; it is found only without them.`,
  }[oddity];
}
