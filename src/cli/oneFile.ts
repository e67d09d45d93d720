// embed and extract: a scene as one file, and taken apart again.

import { AppError } from '@/core/errors';
import { planEmbed } from '@/core/plans/planEmbed';
import { planExtract } from '@/core/plans/planExtract';
import { dataFolder } from '@/server/dataFolder';
import type { Records } from '@/server/workspaces/changing';
import { sourceOf } from '@/server/workspaces/collect';
import { hasMarker } from '@/server/workspaces/open';
import { recordsOf, shelfRecords } from '@/server/workspaces/shelf';
import { absolute, text, type Verb } from './call';
import { carryOut } from './plans';
import { inRoot, workspaceAround, workspaceOf } from './where';

/** A folder that is no workspace is handed over as it is: what was done to it is written down in the application's own. */
const recordsFor = async (root: string): Promise<Records | undefined> =>
  (await hasMarker(root)) ? undefined : shelfRecords(root, recordsOf(dataFolder(), root));

const schema = async () => (await import('@/wire/results')).planResult;

export const oneFileVerbs: Record<string, Verb> = {
  embed: {
    schema,
    async run(call) {
      const to = text(call, 'to');
      if (to === undefined) throw new AppError('bad-request', 'Say which file to make: --to FILE.');
      const from = absolute(call.words[0]!);
      const source = sourceOf(await workspaceOf(from));
      const target = await workspaceAround(to);
      const plan = await planEmbed({ source, target }, { from, to: inRoot(target, to) });
      return carryOut(call, target.root, plan, await recordsFor(target.root));
    },
  },
  extract: {
    schema,
    async run(call) {
      const into = text(call, 'into');
      if (into === undefined) throw new AppError('bad-request', 'Say where to: --into DIR.');
      const from = absolute(call.words[0]!);
      const source = sourceOf(await workspaceOf(from));
      const target = await workspaceOf(into);
      const folder = inRoot(target, into);
      const plan = await planExtract({ source, target }, { from, into: folder === '' ? null : folder });
      return carryOut(call, target.root, plan, await recordsFor(target.root));
    },
  },
};
