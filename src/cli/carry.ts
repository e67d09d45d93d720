// carry: assets of one workspace or folder into another, with what they need.

import fs from 'node:fs';
import { AppError } from '@/core/errors';
import { toSystem } from '@/server/disk/system';
import { absolute, progress, text, type Verb } from './call';
import { carryOut } from './plans';
import { realWorkspaceOf, workspaceOf } from './where';

const ways = ['both', 'replace', 'target'] as const;

export const carryVerbs: Record<string, Verb> = {
  carry: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const [from, to] = [text(call, 'from'), text(call, 'to')];
      if (from === undefined || to === undefined)
        throw new AppError('bad-request', 'Say from where and into which workspace: --from DIR --to DIR.');
      const clash = ways.find((w) => w === (text(call, 'clash') ?? 'both'));
      if (!clash) throw new AppError('bad-request', `--clash is one of: ${ways.join(', ')}.`);
      const source = await workspaceOf(from, from);
      const target = await realWorkspaceOf(to);
      const { planCarrying, assetIn } = await import('@/server/workspaces/carry');
      // Words are paths from where the call is made, or from the source where nothing lies there.
      const within = (word: string) => {
        const here = absolute(word);
        return fs.existsSync(toSystem(here)) ? here : absolute(`${source.root}/${word}`);
      };
      const { plan } = await planCarrying(target, source, {
        assets: call.words.map((word) => assetIn(source.root, within(word))),
        unticked: new Set(((call.flags.without as string[] | undefined) ?? []).map(within)),
        flat: call.flags.flat === true,
        clash,
        onFile: (n, of, path) => progress(`${n} of ${of} … ${path}`),
      });
      progress('');
      return carryOut(call, target.root, plan);
    },
  },
};
