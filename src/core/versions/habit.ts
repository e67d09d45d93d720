// The two habits of keeping versions, both common practice: numbered files side by side, or one current file that keeps its name, with the older ones in
// a folder of versions under a pattern of names.
//
//     numbered    boat_v006.gltf  boat_v007.gltf                 the highest number is the present one
//     folder      boat.gltf  versions/boat_v006.gltf  …          `versions/{scene}_v{number:3}`, below the scene's own folder

import { checkNewName } from '../names/portable';
import { stemOf } from '../files/treePath';

/** `pattern`: how versions in a folder are named, also of those that lie there from before the habit was changed. */
export interface Habit {
  kind: 'numbered' | 'folder';
  pattern: string;
}

export const usualPattern = 'versions/{scene}_v{number:3}';

const token = /\{(scene|number)(?::(\d))?\}/g;

/** What is wrong with a pattern of versions, as sentences. Empty: it can be used. */
export function checkVersionPattern(pattern: string): string[] {
  const wrong: string[] = [];
  const tokens = [...pattern.matchAll(token)].map((m) => m[1]!);
  const name = pattern.slice(pattern.lastIndexOf('/') + 1);
  for (const wanted of ['scene', 'number'])
    if (tokens.filter((t) => t === wanted).length !== 1 || !new RegExp(`\\{${wanted}`).test(name))
      wrong.push(`{${wanted}} has to stand in the name, once.`);
  if (!pattern.includes('/'))
    wrong.push('A folder has to stand before the name: versions/{scene}_v{number:3}.');
  const filled = pattern.replace(token, 'x');
  for (const part of filled.split('/')) {
    const [first] = checkNewName(part);
    if (first || part === '.' || part === '..')
      wrong.push(`“${part}” cannot be a name. ${first?.message ?? ''}`.trim());
  }
  for (const m of filled.matchAll(/\{[^}]*\}?/g))
    wrong.push(`“${m[0]}” is no token; known are {scene} and {number}.`);
  return wrong;
}

/** The path of a version below the scene's own folder: of 'boat.gltf' and 7, 'versions/boat_v007.gltf'. */
export function versionPath(pattern: string, sceneName: string, number: number): string {
  const path = pattern.replace(token, (_, what: string, width: string | undefined) =>
    what === 'scene' ? stemOf(sceneName) : String(number).padStart(Number(width ?? 1), '0'),
  );
  const extension = sceneName.slice(stemOf(sceneName).length);
  return path + extension;
}

/** Folder in which versions lie, below the scene's own. */
export function patternFolder(pattern: string): string {
  return pattern.slice(0, pattern.lastIndexOf('/'));
}

/** The scene and number that a name in the folder of versions says; null: it is no version's name. */
export function readVersionName(pattern: string, name: string): { scene: string; number: number } | null {
  const namePattern = pattern.slice(pattern.lastIndexOf('/') + 1);
  let source = '';
  let at = 0;
  for (const m of namePattern.matchAll(token)) {
    source += escaped(namePattern.slice(at, m.index));
    source += m[1] === 'scene' ? '(?<scene>.+)' : `(?<number>\\d{${m[2] ?? 1},9})`;
    at = m.index + m[0].length;
  }
  const stem = stemOf(name);
  const m = new RegExp(`^${source}${escaped(namePattern.slice(at))}$`).exec(stem);
  if (!m?.groups) return null;
  return { scene: m.groups.scene! + name.slice(stem.length), number: Number(m.groups.number) };
}

const escaped = (text: string) => text.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&');
