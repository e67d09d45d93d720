// Automatic saves that other programs leave in a workspace's home of backups: numbered or dated copies of a scene. Recognised by their names and by what
// they share with a scene, never by the name alone.

import { AppError } from '@/core/errors';
import { extensionOf, nameOf, stemOf, treePath, type TreePath } from '@/core/files/treePath';
import { plainName } from '@/core/names/counters';
import type { Series } from '@/core/versions/series';
import { decodeText } from '@/core/text/bytes';
import type { OpenWorkspace } from './open';

/** A save of another program: `share` of its words stand in the scene, too (0 to 1). Size in bytes, time in ms. */
export interface OtherSave {
  path: TreePath;
  size: number;
  modified: number;
  share: number;
  /** True: its name begins with the scene's. */
  named: boolean;
}

const most = 500;
const looked = 256 * 1024; // bytes of a file that are compared
const enough = { named: 0.3, unnamed: 0.75 };

/** The saves of a scene, the newest first. */
export async function otherSaves(workspace: OpenWorkspace, series: Series): Promise<OtherSave[]> {
  const { backup } = workspace.file.homes;
  if (backup === undefined || (await workspace.tree.kind(treePath(backup))) !== 'folder') return [];
  const scene = series.scene;
  const own = await wordsIn(workspace, scene);
  if (!own) return [];
  const known = new Set<string>(series.versions.map((v) => v.path));
  const found: OtherSave[] = [];
  let count = 0;
  for await (const { path, size, modified } of workspace.tree.list(treePath(backup), () => undefined)) {
    if (known.has(path) || path === scene || !isSameFormat(path, scene) || ++count > most) continue;
    const named = isNamedAfter(nameOf(path), stemOf(plainName(scene)));
    const share = shareOf(await wordsIn(workspace, path), own);
    if (share >= (named ? enough.named : enough.unnamed)) found.push({ path, size, modified, share, named });
  }
  return found.sort((a, b) => b.modified - a.modified);
}

/** The format of a copy, whatever a program has put behind its name: boat.gltf.1, boat.gltf~, boat.gltf.bak. */
function isSameFormat(path: string, scene: string): boolean {
  const wanted = extensionOf(scene);
  return (
    extensionOf(path) === wanted || new RegExp(`\\${wanted}(?:\\.[a-z]*\\d*|~\\d*)$`, 'i').test(nameOf(path))
  );
}

/** Whether a name is the stem, set off from what follows. */
function isNamedAfter(name: string, stem: string): boolean {
  const [a, b] = [name.toLowerCase(), stem.toLowerCase()];
  const at = a.indexOf(b);
  if (at < 0) return false;
  const [before, after] = [a[at - 1], a[at + b.length]];
  const isEdge = (c: string | undefined) => c === undefined || !/[a-z0-9]/.test(c);
  return isEdge(before) && (isEdge(after) || /\d/.test(after!));
}

/** The words of the beginning of a file: names, paths, what text there is; null where it cannot be read. */
async function wordsIn({ tree }: OpenWorkspace, path: TreePath): Promise<Set<string> | null> {
  try {
    const { text } = decodeText(await tree.read(path, [0, looked]));
    return new Set(text.match(/[A-Za-z_][\w./ -]{3,60}/g) ?? []);
  } catch (cause) {
    if (cause instanceof AppError) return null;
    throw cause;
  }
}

/** How much of the larger one stands in the other: words of the format alone, which stand in both, are few. */
function shareOf(a: Set<string> | null, b: Set<string>): number {
  if (!a || a.size === 0 || b.size === 0) return 0;
  let both = 0;
  for (const word of a) if (b.has(word)) both++;
  return both / Math.max(a.size, b.size);
}
