// Scenes that somebody holds: read from, and written to, the workspace's own log. Of two who hold one scene at once the first line counts, and the other is told.

import { AppError } from '@/core/errors';
import { holdsLog, ownFolder } from '@/core/files/records';
import type { TreePath } from '@/core/files/treePath';
import { formatOfName } from '@/core/formats/formats';
import { plainName } from '@/core/names/counters';
import { decodeText, utf8 } from '@/core/text/bytes';
import { heldNow, readHolds, writeHold, type Hold, type HoldLine } from '@/core/versions/holds';
import type { FileTree } from '@/core/files/fileTree';
import { DiskTree } from '../disk/diskTree';

/** Every word on holds, the oldest first. */
export async function holdLines(tree: FileTree): Promise<HoldLine[]> {
  if ((await tree.kind(holdsLog)) !== 'file') return [];
  return readHolds(decodeText(await tree.read(holdsLog)).text);
}

/** What is held in a workspace, by scene. */
export const holdsIn = async (root: string): Promise<Hold[]> => [
  ...heldNow(await holdLines(new DiskTree(root))).values(),
];

/** Says one word on a scene. Throws AppError('busy') where somebody else holds it, or where it is not held any more; AppError('not-found') for what is no scene. */
export async function sayHold(root: string, word: Omit<HoldLine, 'time'>): Promise<Hold[]> {
  const tree = new DiskTree(root);
  const { scene, by } = word;
  if (word.do === 'hold' && ((await tree.kind(scene)) !== 'file' || !formatOfName(scene)))
    throw new AppError('not-found', `${scene} is no scene of this workspace.`);
  const refused = (hold: Hold) =>
    new AppError(
      'busy',
      `${scene} is held by ${hold.by} since ${hold.since.slice(0, 16).replace('T', ' ')} UTC.`,
      'Nothing was changed.',
    );
  const before = await heldOf(tree, scene);
  if (word.do === 'hold' && before) {
    if (before.by !== by) throw refused(before);
    return holdsIn(root);
  }
  if (word.do !== 'hold' && !before) return holdsIn(root);
  if (word.do === 'release' && before && before.by !== by) throw refused(before);
  if ((await tree.kind(ownFolder)) === null) await tree.makeFolder(ownFolder);
  const of = word.do === 'hold' ? scene : before!.scene;
  await tree.append(holdsLog, utf8(writeHold({ ...word, scene: of, time: new Date().toISOString() })));
  const after = await heldOf(tree, scene);
  if (word.do === 'hold' && after && after.by !== by) throw refused(after);
  return holdsIn(root);
}

/** The hold of a scene, under whichever of its versions it was said. */
const heldOf = async (tree: FileTree, scene: TreePath): Promise<Hold | undefined> =>
  heldNow(await holdLines(tree)).get(plainName(scene));
