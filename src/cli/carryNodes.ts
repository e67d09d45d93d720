// carry-nodes: a part of a scene into another.

import { AppError } from '@/core/errors';
import { nodeClashWays } from '@/core/nodes/clashes';
import { meant, meantOne, nodesIn, planCarryNodes } from '@/core/plans/planCarryNodes';
import { sourceOf } from '@/server/workspaces/collect';
import { absolute, text, type Call, type Verb } from './call';
import { carryOut } from './plans';
import { inRoot, workspaceOf } from './where';

/** One of several words of a flag. */
function oneOf<T extends string>(call: Call, flag: string, words: readonly T[]): T | undefined {
  const given = text(call, flag);
  if (given === undefined) return undefined;
  const found = words.find((w) => w === given);
  if (!found) throw new AppError('bad-request', `--${flag} is one of: ${words.join(', ')}.`);
  return found;
}

export const carryNodesVerbs: Record<string, Verb> = {
  'carry-nodes': {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const given = text(call, 'into');
      if (given === undefined) throw new AppError('bad-request', 'Say into which scene: --into SCENE2.');
      const [scene, ...words] = call.words as [string, ...string[]];
      const target = await workspaceOf(given);
      const from = absolute(scene);
      const source = sourceOf(await workspaceOf(scene));
      const into = inRoot(target, given);
      const nodes = meant(await nodesIn(source, from), words, from);
      const there =
        text(call, 'under') === undefined ? [] : await nodesIn({ outside: target.outside }, absolute(given));
      const { plan } = await planCarryNodes(
        { source, target },
        {
          from,
          nodes: nodes.map((n) => n.id),
          into,
          under: meantOne(there, text(call, 'under'), given),
          place: oneOf(call, 'place', ['world', 'parent']) ?? 'world',
          clash: { all: oneOf(call, 'clash', nodeClashWays) },
          pictures: oneOf(call, 'pictures', ['as-there', 'files', 'inside']) ?? 'as-there',
          buffer: oneOf(call, 'buffer', ['own', 'append']) ?? 'own',
        },
      );
      return carryOut(call, target.root, plan);
    },
  },
};
