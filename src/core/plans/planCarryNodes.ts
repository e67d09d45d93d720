// A part of a scene into another scene of its format.

import { AppError } from '../errors';
import { extensionOf, nameOf } from '../files/treePath';
import type { Source } from '../collect/closure';
import { openGltf } from '../documents/gltfText';
import { gltfNodes } from '../nodes/gltfTree';
import { namesLike, nodesMeant, topmost, type SceneNode } from '../nodes/sceneNodes';
import { usdNodes } from '../nodes/usdNeeds';
import { kinFormats } from '../nodes/kin';
import { readObj } from '../nodes/objGroups';
import { latin1 } from '../text/bytes';
import { carryGltf } from './carryGltf';
import { carryMtlx, mtlxOf } from './carryMtlx';
import { carryObj } from './carryObj';
import { carryUsd, usdTextOf } from './carryUsd';
import { checkFormats, type Both, type CarryNodesRequest, type NodesCarried } from './carryNodes';

/** The nodes of a scene outside, by absolute path. Throws AppError where it has none that could be picked. */
export async function nodesIn({ outside }: Pick<Source, 'outside'>, path: string): Promise<SceneNode[]> {
  const stat = await outside.stat(path);
  if (!stat) throw new AppError('not-found', `${path} is not there.`);
  const read = (range: readonly [number, number]) => outside.read(path, range);
  switch (extensionOf(path)) {
    case '.gltf':
    case '.glb': {
      const doc = await openGltf(stat.size, read);
      if ('refused' in doc) throw new AppError('unsupported', `${nameOf(path)}: ${doc.refused}`);
      return gltfNodes(doc.json);
    }
    case '.usda':
    case '.usd':
      return usdNodes(usdTextOf(await outside.read(path), path));
    case '.obj':
      return [...readObj(latin1(await outside.read(path))).groups];
    case '.mtlx':
      return mtlxOf(await outside.read(path), path).elements;
    default:
      throw new AppError(
        'unsupported',
        `Of ${nameOf(path)} no parts are told: known are ${kinFormats.flat().join(', ')}.`,
      );
  }
}

/** Nodes by the user's words, without those that stand below others of them. Throws AppError for a word that means none. */
export function meant(nodes: readonly SceneNode[], words: readonly string[], scene: string): SceneNode[] {
  const found = words.flatMap((word) => {
    const mine = nodesMeant(nodes, word);
    if (mine.length === 0) {
      const like = namesLike(nodes, word);
      throw new AppError(
        'not-found',
        `${nameOf(scene)} has nothing called “${word}”${like.length > 0 ? `; it has ${like.join(', ')}` : ''}.`,
      );
    }
    return mine;
  });
  return topmost(found, nodes);
}

/** The one node a word means; null for no word. Throws AppError where it means none or several. */
export function meantOne(
  nodes: readonly SceneNode[],
  word: string | undefined,
  scene: string,
): string | null {
  if (word === undefined) return null;
  const found = meant(nodes, [word], scene);
  if (found.length > 1)
    throw new AppError(
      'bad-request',
      `${nameOf(scene)} has ${found.length} called “${word}”: say which by its path, ${found
        .slice(0, 5)
        .map((n) => n.path)
        .join(' or ')}.`,
    );
  return found[0]!.id;
}

/** The plan, and what there is to see of it. */
export async function planCarryNodes(both: Both, request: CarryNodesRequest): Promise<NodesCarried> {
  checkFormats(request.from, request.into, kinFormats);
  if (request.from === `${both.target.root}/${request.into}`)
    throw new AppError('bad-request', 'It is one and the same scene: choose another one.');
  switch (extensionOf(request.from)) {
    case '.obj':
      return carryObj(both, request);
    case '.mtlx':
      return carryMtlx(both, request);
    case '.usda':
    case '.usd':
      return carryUsd(both, request);
    default:
      return carryGltf(both, request);
  }
}
