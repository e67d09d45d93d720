// A list of passes: what a render is expected to leave, as a file that a team shares (`passes.json`, docs/passes.schema.json). From it every file that has to
// be there, by scene, camera, pass and frame; and the other way round, the list that a folder shows which is complete.

import { folderOf, isTreePath, nameOf, type TreePath } from '../files/treePath';
import { figure } from '../text/figures';

/** Frames [first, last], every so many. */
export interface FrameRange {
  first: number;
  last: number;
  step: number;
}

/** One scene of a list; what it does not say the list says. */
export interface PassScene {
  name: string;
  /** The scene's file, of which outputs must not be older. */
  scene?: string | undefined;
  cameras?: readonly string[] | undefined;
  passes?: readonly string[] | undefined;
  frames?: FrameRange | undefined;
}

export interface PassList {
  format: 1;
  /** Where a file lies, below the root: `renders/{scene}/{camera}/{pass}.{frame:4}.exr`. */
  file: string;
  frames?: FrameRange | undefined;
  passes?: readonly string[] | undefined;
  cameras?: readonly string[] | undefined;
  /** What a picture has to be; absent: what most of its row are. */
  width?: number | undefined;
  height?: number | undefined;
  bits?: number | undefined;
  scenes: readonly PassScene[];
}

/** A row of the grid: one pass of one camera of one scene. */
export interface PassRow {
  scene: string;
  camera: string;
  pass: string;
  /** The scene's file; null: nobody says. */
  from: string | null;
  frames: { frame: number; path: TreePath }[];
}

const token = /\{(scene|camera|pass|frame)(?::(\d{1,2}))?\}/g;

/** What is wrong with the way files are called, as sentences. Empty: nothing. */
export function checkFilePattern(file: string): string[] {
  const wrong: string[] = [];
  const filled = file.replace(token, 'x');
  if (!isTreePath(filled) || filled === '') wrong.push('It has to be a path below the root.');
  for (const m of filled.matchAll(/\{[^}]*\}?/g))
    wrong.push(`“${m[0]}” is no token; known are {scene} {camera} {pass} {frame:4}.`);
  if (!/\{frame/.test(file)) wrong.push('{frame:4} has to stand in it: else all frames are one file.');
  return wrong;
}

/** The path of one file. */
export function outputPath(
  file: string,
  of: { scene: string; camera: string; pass: string; frame: number },
): string {
  return file.replace(token, (_, what: 'scene' | 'camera' | 'pass' | 'frame', width: string | undefined) => {
    if (what !== 'frame') return of[what];
    const sign = of.frame < 0 ? '-' : '';
    return sign + String(Math.abs(of.frame)).padStart(Number(width ?? 1), '0');
  });
}

/** The result of a check as a sentence. */
export function wholeText(of: { expected: number; whole: number; unchecked: number }): string {
  const are = of.unchecked === 0 ? 'are there and whole' : 'are there';
  const isAll = of.whole === of.expected;
  const first = isAll
    ? `All ${figure(of.expected)} files ${are}.`
    : `${figure(of.whole)} of ${figure(of.expected)} files ${are}; ${figure(of.expected - of.whole)} left.`;
  if (of.unchecked === 0) return first;
  const one = of.unchecked === 1;
  return `${first} ${figure(of.unchecked)} of ${isAll ? 'them' : 'those that are there'} ${one ? 'is' : 'are'} in a format that cannot be checked for files that are cut off: open ${one ? 'it' : 'them'} to be sure.`;
}

/** How many files a list may expect: a typed range must not make a machine count for ever. */
export const mostExpected = 2_000_000;

/** Every row that a list expects. Throws RangeError beyond `mostExpected` files. */
export function expectedRows(list: PassList): PassRow[] {
  const rows: PassRow[] = [];
  let count = 0;
  for (const scene of list.scenes) {
    const { first, last, step } = scene.frames ?? list.frames ?? { first: 1, last: 1, step: 1 };
    for (const camera of scene.cameras ?? list.cameras ?? [''])
      for (const pass of scene.passes ?? list.passes ?? ['']) {
        const frames: PassRow['frames'] = [];
        count += Math.floor((last - first) / step) + 1;
        if (count > mostExpected) throw new RangeError(`more than ${mostExpected} files are expected`);
        for (let frame = first; frame <= last; frame += step)
          frames.push({
            frame,
            path: outputPath(list.file, { scene: scene.name, camera, pass, frame }) as TreePath,
          });
        rows.push({ scene: scene.name, camera, pass, from: scene.scene ?? null, frames });
      }
  }
  return rows;
}

/** What stands in a path for each token; null: it is no path of this pattern. */
export function readOutputPath(
  file: string,
  path: string,
): { scene: string; camera: string; pass: string; frame: number } | null {
  let source = '';
  let at = 0;
  const seen = new Set<string>();
  for (const m of file.matchAll(token)) {
    source += escaped(file.slice(at, m.index));
    const what = m[1]!;
    if (seen.has(what)) source += `\\k<${what}>`;
    else source += what === 'frame' ? `(?<frame>-?\\d{${m[2] ?? 1},})` : `(?<${what}>[^/]+?)`;
    seen.add(what);
    at = m.index + m[0].length;
  }
  const found = new RegExp(`^${source}${escaped(file.slice(at))}$`).exec(path)?.groups;
  if (!found) return null;
  const { scene = '', camera = '', pass = '', frame = '0' } = found;
  return { scene, camera, pass, frame: Number(frame) };
}

const escaped = (text: string) => text.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&');

/** The list that a folder shows: every scene with its cameras and passes, and the frames from the first to the last there is. Null: no path is of this pattern. */
export function listOfFolder(file: string, paths: Iterable<string>): PassList | null {
  const scenes = new Map<string, { cameras: Set<string>; passes: Set<string>; frames: Set<number> }>();
  for (const path of paths) {
    const read = readOutputPath(file, path);
    if (!read) continue;
    const scene = scenes.get(read.scene) ?? { cameras: new Set(), passes: new Set(), frames: new Set() };
    scenes.set(read.scene, scene);
    scene.cameras.add(read.camera);
    scene.passes.add(read.pass);
    scene.frames.add(read.frame);
  }
  if (scenes.size === 0) return null;
  return {
    format: 1,
    file,
    scenes: [...scenes].map(([name, { cameras, passes, frames }]) => ({
      // A pattern without {scene} has one scene, called after its folder.
      name: name || folderName(file),
      ...(/\{camera/.test(file) ? { cameras: [...cameras].sort() } : {}),
      ...(/\{pass/.test(file) ? { passes: [...passes].sort() } : {}),
      frames: rangeOf(frames),
    })),
  };
}

/** The innermost folder of a pattern that has no token in its name. */
function folderName(file: string): string {
  for (let at = folderOf(file); at !== ''; at = folderOf(at))
    if (!nameOf(at).includes('{')) return nameOf(at);
  return 'outputs';
}

function rangeOf(frames: ReadonlySet<number>): FrameRange {
  const sorted = [...frames].sort((a, b) => a - b);
  let step = Infinity;
  for (let i = 1; i < sorted.length; i++) step = Math.min(step, sorted[i]! - sorted[i - 1]!);
  return { first: sorted[0]!, last: sorted.at(-1)!, step: Number.isFinite(step) ? step : 1 };
}
