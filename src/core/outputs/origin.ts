// Whose an output is: which scene, which version of it, which camera. Told by its name where that says so, else by likeness of names, else by time alone;
// always with how sure that is, and in words why.

import { folderOf, join, nameOf, stemOf, type TreePath } from '../files/treePath';
import { plainName } from '../names/counters';
import { namePatternReader } from '../names/patterns';
import { readOutputPath } from './passes';

export interface OutputFile {
  path: TreePath;
  /** Bytes. */
  size: number;
  /** ms since 1970 UTC. */
  modified: number;
}

/** One output: a file, or a row of frames. */
export interface OutputSet {
  /** The file's path; of frames with a # for each digit. */
  path: TreePath;
  /** Frame numbers in order; null: one file. */
  frames: number[] | null;
  files: number;
  size: number;
  /** When the first and the last of its files were written, in ms. */
  from: number;
  to: number;
  /** One of its files, for a look at it. */
  sample: TreePath;
}

/** A scene that outputs may be of. */
export interface KnownScene {
  /** The file that is worked on. */
  scene: TreePath;
  /** All there is of it, the present one too, with the time in ms at which its content was last written. */
  versions: readonly { path: TreePath; number: number | null; modified: number }[];
  /** Names of its cameras; null: nobody looked. */
  cameras: readonly string[] | null;
}

export type HowSure = 'sure' | 'likely' | 'guess';

export interface Origin {
  scene: TreePath;
  /** The version's file; null: it is not known. */
  version: TreePath | null;
  number: number | null;
  camera: string | null;
  sure: HowSure;
  /** One sentence. */
  why: string;
  /** True: the version's file was changed after the output was made. */
  changedSince: boolean;
}

// A frame's number stands at the end, set off by a dot, an underscore, a dash or a space; a number behind a v is a version (common practice, no source).
const frameName = /^(.*?[._ -])(-?\d+)(\.[^.]+)$/s;
const versionMark = /(?:^|[^a-z])v$/i;

/** A name that may be a frame's: what stands before and behind its number, and the number as it is written. */
export function frameOf(name: string): { head: string; digits: string; tail: string } | null {
  const m = frameName.exec(name);
  return m && !versionMark.test(m[1]!) ? { head: m[1]!, digits: m[2]!, tail: m[3]! } : null;
}

/** Outputs of a folder, frames of one row taken together. Two files make a row; one alone does with four digits and more. */
export function outputSets(files: readonly OutputFile[]): OutputSet[] {
  const rows = new Map<string, { digits: number; files: (OutputFile & { frame: number })[] }>();
  const single: OutputFile[] = [];
  for (const file of files) {
    const read = frameOf(nameOf(file.path));
    if (!read) {
      single.push(file);
      continue;
    }
    const key = `${folderOf(file.path)}\n${read.head}\n${read.tail}`;
    const row = rows.get(key) ?? { digits: Infinity, files: [] };
    rows.set(key, row);
    row.digits = Math.min(row.digits, read.digits.replace('-', '').length);
    row.files.push({ ...file, frame: Number(read.digits) });
  }
  const sets: OutputSet[] = [];
  for (const [key, row] of rows) {
    if (row.files.length === 1 && row.digits < 4) {
      single.push(row.files[0]!);
      continue;
    }
    const [folder, head, tail] = key.split('\n') as [TreePath, string, string];
    row.files.sort((a, b) => a.frame - b.frame);
    sets.push({
      path: join(folder, `${head}${'#'.repeat(row.digits)}${tail}`),
      frames: [...new Set(row.files.map((f) => f.frame))],
      ...sums(row.files),
    });
  }
  for (const file of single) sets.push({ path: file.path, frames: null, ...sums([file]) });
  return sets.sort((a, b) => b.to - a.to || (a.path < b.path ? -1 : 1));
}

function sums(files: readonly OutputFile[]) {
  return {
    files: files.length,
    size: files.reduce((sum, f) => sum + f.size, 0),
    from: files.reduce((least, f) => Math.min(least, f.modified), Infinity),
    to: files.reduce((most, f) => Math.max(most, f.modified), -Infinity),
    sample: files[files.length >> 1]!.path,
  };
}

/** How outputs are called: by the workspace's pattern of names, and by the list of passes. */
export interface OutputNames {
  /** Pattern of a name without its extension (names/patterns.ts). */
  pattern: string;
  /** Pattern of a path below the root (passes.ts); null: there is no list. */
  passes: string | null;
}

/** Words of a name in lower case, a space between and around them: 'Harbour-Lantern_v003' → ' harbour lantern v003 '. */
const words = (text: string) =>
  ` ${text
    .normalize('NFC')
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()} `;

const holds = (text: string, part: string) => part.trim() !== '' && text.includes(part);

interface Told {
  known: KnownScene;
  camera: string | null;
  number: number | null;
  how: 'pattern' | 'list' | 'likeness';
}

/** Finds whose each output is, among the scenes there are; null: nothing tells. */
export function originsOf(
  sets: readonly OutputSet[],
  scenes: readonly KnownScene[],
  names: OutputNames,
): (Origin | null)[] {
  const keyed = scenes
    .map((known) => {
      const stem = stemOf(plainName(known.scene));
      return { known, stem, words: words(stem), read: namePatternReader(names.pattern, { scene: stem }) };
    })
    // Of two that fit the longer name says more.
    .sort((a, b) => b.words.length - a.words.length);
  return sets.map((set) => {
    const told = toldByName(set, keyed, names);
    return told ? originOf(set, told) : byTime(set, scenes);
  });
}

type Keyed = {
  known: KnownScene;
  stem: string;
  words: string;
  read: ReturnType<typeof namePatternReader>;
};

/** What a name is without its extension and frame number. */
const bareName = (set: OutputSet) =>
  nameOf(set.path)
    .replace(/\.[^.]+$/, '')
    .replace(/[._ -]*#+$/, '');
const wordsOfName = (set: OutputSet) => words(bareName(set));

function toldByName(set: OutputSet, keyed: readonly Keyed[], names: OutputNames): Told | null {
  const bare = bareName(set);
  const all = words(folderOf(set.path).split('/').slice(1).join('/') + ' ' + bare);
  const version = versionIn(bare) ?? versionIn(folderOf(set.path));
  if (names.passes !== null) {
    const read = readOutputPath(
      names.passes,
      set.path.replace(/#+/, (m) => '1'.padStart(m.length, '0')),
    );
    const scene = read && keyed.find((k) => k.words === words(read.scene.replace(/[._ -]*v?\d+$/i, '')));
    if (scene)
      return {
        known: scene.known,
        camera: read.camera || cameraIn(scene.known, all),
        number: versionIn(read.scene) ?? version,
        how: 'list',
      };
  }
  for (const k of keyed) {
    if (!holds(all, k.words)) continue;
    const read = k.read(bare);
    if (read)
      return {
        known: k.known,
        camera:
          (read.camera && (cameraIn(k.known, words(read.camera)) ?? read.camera)) || cameraIn(k.known, all),
        number: read.version ?? read.number ?? version,
        how: 'pattern',
      };
  }
  const near = keyed.filter((k) => holds(all, k.words));
  // The name of the file itself says more than the folder it lies in; the longest comes first.
  const best = near.find((k) => holds(words(bare), k.words)) ?? near[0];
  if (!best) return null;
  return { known: best.known, camera: cameraIn(best.known, all), number: version, how: 'likeness' };
}

/** 'lamp_v003' → 3. */
function versionIn(text: string): number | null {
  const found = [...text.matchAll(/(?:^|[^a-zA-Z])v(\d{1,6})(?!\d)/gi)].at(-1);
  return found ? Number(found[1]) : null;
}

function cameraIn({ cameras }: KnownScene, all: string): string | null {
  const found = (cameras ?? []).filter((c) => holds(all, words(c)));
  return found.sort((a, b) => b.length - a.length)[0] ?? null;
}

function originOf(set: OutputSet, { known, camera, number, how }: Told): Origin {
  const named = number === null ? undefined : known.versions.find((v) => v.number === number);
  const version = named ?? (number === null ? workedOn(known, set.from) : undefined);
  const only = camera === null && known.cameras?.length === 1 ? known.cameras[0]! : null;
  // 'harbour_v007_Pier': the version's own name stands in it.
  const isWhole = named !== undefined && holds(wordsOfName(set), words(stemOf(named.path)));
  const by = {
    likeness: `It is called like ${nameOf(isWhole ? named.path : known.scene)}`,
    list: `It is named after ${nameOf(known.scene)} by the list of passes`,
    pattern: `It is named after ${nameOf(known.scene)} by the pattern`,
  }[how];
  const says = isWhole
    ? ''
    : named
      ? ` and says version ${number}`
      : number !== null
        ? ` and says version ${number}, which is not there`
        : version
          ? `; ${nameOf(version.path)} was the last that was written before it`
          : '; no version is as old';
  const sure = named ? how !== 'likeness' || isWhole : false;
  return {
    scene: known.scene,
    version: version?.path ?? null,
    number: version?.number ?? number,
    camera: camera ?? only,
    sure: sure ? 'sure' : named || (version && how !== 'likeness') ? 'likely' : 'guess',
    why: `${by}${says}${only === null ? '' : '; it is the only camera'}.`,
    changedSince: version !== undefined && version.modified > set.to + slack,
  };
}

// Clocks of a share and of the machine that renders are hardly ever further apart (common practice, no source).
const slack = 2000;

/** The version that was the present one at a time. */
function workedOn(known: KnownScene, at: number) {
  return known.versions
    .filter((v) => v.modified <= at + slack)
    .sort((a, b) => a.modified - b.modified || (a.number ?? Infinity) - (b.number ?? Infinity))
    .at(-1);
}

// What was written longest before an output says nothing of it any more.
const nearby = 12 * 3600_000;

/** By time alone: the scene that was last written before it, if that was within twelve hours. */
function byTime(set: OutputSet, scenes: readonly KnownScene[]): Origin | null {
  let best: { known: KnownScene; version: KnownScene['versions'][number] } | null = null;
  for (const known of scenes) {
    // What has no versions and no camera is hardly what is rendered.
    if (!known.cameras?.length && !known.versions.some((v) => v.number !== null)) continue;
    const version = workedOn(known, set.from);
    if (version && (best === null || version.modified > best.version.modified)) best = { known, version };
  }
  if (!best || set.from - best.version.modified > nearby) return null;
  const { known, version } = best;
  return {
    scene: known.scene,
    version: version.path,
    number: version.number,
    camera: known.cameras?.length === 1 ? known.cameras[0]! : null,
    sure: 'guess',
    why: `Its name says nothing; ${nameOf(version.path)} was the last scene that was written before it.`,
    changedSince: false,
  };
}
