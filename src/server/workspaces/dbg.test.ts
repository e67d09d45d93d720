import { test } from '@jest/globals';
import fs from 'node:fs';
import { planMerge, duplicates } from '@/core/plans/planMerge';
import { planHomes } from '@/core/plans/planHomes';
import { apply } from '@/core/changes/apply';
import { applying } from '@/core/changes/testing/contexts';
import { DiskTree } from '../disk/diskTree';
import { diskOutside } from '../disk/diskOutside';
import { generate } from './testing/generated';
import { settingOf } from '@/core/plans/workspace';
import { scan } from '@/core/references/scan';
test('x', async () => {
  for (const [seed, verb] of [
    [394631138, 'merge'],
    [100336922, 'homes'],
  ] as const) {
    fs.rmSync('/tmp/dbg', { recursive: true, force: true });
    fs.mkdirSync('/tmp/dbg');
    const g = generate('/tmp/dbg', seed);
    const w = { root: g.root, tree: new DiskTree(g.root), outside: diskOutside, file: g.file };
    const show = async () => {
      for await (const r of scan(w.tree, settingOf(w)))
        for (const x of r.references)
          console.log(r.path, x.at, x.written, x.state, x.target, x.real, x.oddities, x.via);
    };
    await show();
    const plan =
      verb === 'merge'
        ? await planMerge(
            w,
            (await duplicates(w)).map((d) => d.files.map((f) => f.path)),
            '2026-11-26T00:00:00Z',
          )
        : await planHomes(w, { texture: 'art/images', scene: 'stage' });
    console.log(
      JSON.stringify(
        {
          s: plan.steps.map((s) => [s.do, s.path, (s as any).to, (s as any).after]),
          p: plan.paths,
          n: plan.notes,
        },
        null,
        1,
      ),
    );
    await apply(w.tree, plan, { ...applying('x'), outside: diskOutside });
    await show();
  }
});
