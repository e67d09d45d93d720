// What travels: every file of a workspace in one class, what needs what, and what a choice of classes and files leaves out and thereby breaks.
// The same function answers the page, the command line and the packer.

import { isOwn, markerPath, versionsFolder } from '../files/records';
import { isWithin } from '../files/treePath';
import { kindAtHome, kindOfName, type Homes } from '../layouts/homes';

export const travelClasses = [
  'scenes',
  'textures',
  'caches',
  'remade',
  'other',
  'unused',
  'intake',
  'outputs',
  'versions',
  'history',
] as const;
/**
 * scenes: scenes, models, materials, and the workspace's own description; remade: caches that can be made again; versions: older versions and
 * backups; history: the store, the bin, the net, checkpoints and journals.
 */
export type TravelClass = (typeof travelClasses)[number];

export const classNames: Record<TravelClass, string> = {
  scenes: 'Scenes, models, materials',
  textures: 'Textures',
  caches: 'Caches',
  remade: 'Caches that can be made again',
  other: 'Sounds, references and other files',
  unused: 'Files no scene uses',
  intake: 'The intake',
  outputs: 'Renders and exports',
  versions: 'Older versions and backups',
  history: 'Store, bin and ledger of this machine',
};

/** What a class is told by. */
export interface Classing {
  homes: Homes;
  /** Folders for what comes out. */
  outputs: readonly string[];
  /** Older versions of scenes, and what belongs to them alone. */
  older: ReadonlySet<string>;
  /** What belongs to a scene alone and is a part of it: its geometry, its materials. */
  parts: ReadonlySet<string>;
  /** Whether a file can be made again. */
  isRemade: (path: string) => boolean;
  /** Whether no scene leads to a file that is there to be used. */
  isIdle: (path: string) => boolean;
  /** Notes about versions that stand by themselves: without the store they still say something. */
  notes: ReadonlySet<string>;
}

/** The class of a file. */
export function classOf(path: string, c: Classing): TravelClass {
  if (isOwn(path)) {
    if (path === markerPath) return 'scenes';
    return isWithin(path, versionsFolder) && c.notes.has(path) ? 'versions' : 'history';
  }
  const { homes } = c;
  if (homes.other && isWithin(path, homes.other)) return 'intake';
  if (c.outputs.some((folder) => isWithin(path, folder))) return 'outputs';
  if (c.older.has(path) || (homes.backup && isWithin(path, homes.backup))) return 'versions';
  if (c.parts.has(path)) return 'scenes';
  const isCache = kindAtHome(path, homes) === 'cache' || kindOfName(path) === 'cache';
  if (isCache && c.isRemade(path)) return 'remade';
  if (c.isIdle(path)) return 'unused';
  switch (kindOfName(path)) {
    case 'scene':
    case 'model':
    case 'material':
      return 'scenes';
    case 'texture':
      return kindAtHome(path, homes) === 'reference' ? 'other' : 'textures';
    case 'cache':
      return 'caches';
    default:
      return isCache ? 'caches' : 'other';
  }
}

export interface TravelFile {
  path: string;
  /** Bytes. */
  size: number;
  class: TravelClass;
}

/** What lies in a library, or anywhere outside (`name` ''), and is used. */
export interface OutsideUse {
  name: string;
  files: number;
  bytes: number;
  /** The scenes that use it, as numbers in `files`. */
  by: readonly number[];
}

export interface TravelLook {
  files: readonly TravelFile[];
  /** [who needs, what is needed], as numbers in `files`; each pair once. */
  needs: readonly (readonly [number, number])[];
  outside: readonly OutsideUse[];
  /** What is missing already, as it is written, and the scene that says so. */
  missing: readonly { scene: string; written: string }[];
}

/** What is chosen. By hand: the longest path that a file lies at or below counts, before its class. */
export interface TravelChoice {
  without: readonly TravelClass[];
  byHand: readonly { path: string; travels: boolean }[];
  /** Libraries ('' for all that lies outside) of which what is used comes along. */
  along: readonly string[];
}

/** All but what is of this machine alone: it holds what was deleted, and paths of this machine. */
export const usualChoice: TravelChoice = { without: ['history'], byHand: [], along: [] };

export interface Broken {
  scene: string;
  /** What does not come along. A library: '{name}'. */
  target: string;
  /** Why: its class, or by hand. */
  because: TravelClass | 'by-hand' | 'library';
}

export interface Travelling {
  /** Whether each file of the look travels. */
  travels: readonly boolean[];
  files: number;
  bytes: number;
  byClass: ReadonlyMap<TravelClass, { files: number; bytes: number; travelling: number }>;
  /** Needed by something that travels, and left here. */
  broken: readonly Broken[];
  /** Libraries that are used by what travels and stay here. */
  leansOn: readonly string[];
}

/** Works it out. */
export function travellingOf(look: TravelLook, choice: TravelChoice): Travelling {
  const without = new Set(choice.without);
  const hand = new Map(choice.byHand.map((h) => [h.path, h.travels]));
  const byClass = new Map<TravelClass, { files: number; bytes: number; travelling: number }>();
  const travels: boolean[] = [];
  const chosenByHand: boolean[] = [];
  let files = 0;
  let bytes = 0;
  for (const f of look.files) {
    const byHand = hand.size === 0 ? undefined : handOf(hand, f.path);
    const does = byHand ?? !without.has(f.class);
    travels.push(does);
    chosenByHand.push(byHand !== undefined);
    const sum = byClass.get(f.class) ?? { files: 0, bytes: 0, travelling: 0 };
    byClass.set(f.class, sum);
    sum.files++;
    sum.bytes += f.size;
    if (!does) continue;
    sum.travelling++;
    files++;
    bytes += f.size;
  }
  const broken: Broken[] = [];
  for (const [by, needed] of look.needs)
    if (travels[by] && !travels[needed])
      broken.push({
        scene: look.files[by]!.path,
        target: look.files[needed]!.path,
        because: chosenByHand[needed] ? 'by-hand' : look.files[needed]!.class,
      });
  const leansOn: string[] = [];
  for (const use of look.outside) {
    const users = use.by.filter((n) => travels[n]);
    if (users.length === 0) continue;
    if (choice.along.includes(use.name)) {
      files += use.files;
      bytes += use.bytes;
    } else leansOn.push(use.name);
  }
  return { travels, files, bytes, byClass, broken, leansOn };
}

/** What was chosen by hand for a path or the nearest folder above it. */
function handOf(hand: ReadonlyMap<string, boolean>, path: string): boolean | undefined {
  for (let at = path; ; at = at.slice(0, at.lastIndexOf('/'))) {
    const chosen = hand.get(at);
    if (chosen !== undefined) return chosen;
    if (!at.includes('/')) return hand.get('');
  }
}

/** What leaving out breaks, a line for each scene and reason. */
export function brokenScenes(
  broken: readonly Broken[],
): { scene: string; because: Broken['because']; targets: string[] }[] {
  const found = new Map<string, { scene: string; because: Broken['because']; targets: string[] }>();
  for (const { scene, because, target } of broken) {
    const key = `${because}\n${scene}`;
    const of = found.get(key);
    if (of) of.targets.push(target);
    else found.set(key, { scene, because, targets: [target] });
  }
  return [...found.values()];
}

/** What leaving out breaks, by why, with how many scenes: for one sentence beside each tick. */
export function brokenBy(
  broken: readonly Broken[],
): Map<Broken['because'], { files: number; scenes: string[] }> {
  const found = new Map<Broken['because'], { files: Set<string>; scenes: Set<string> }>();
  for (const b of broken) {
    const of = found.get(b.because) ?? { files: new Set(), scenes: new Set() };
    found.set(b.because, of);
    of.files.add(b.target);
    of.scenes.add(b.scene);
  }
  return new Map([...found].map(([k, v]) => [k, { files: v.files.size, scenes: [...v.scenes] }]));
}
