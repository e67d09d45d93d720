// A plan that was read back from a journal has the same seal as the plan that was applied, whatever the order of its keys.

import { expect, test } from '@jest/globals';
import { sealOf, sealsOf } from '@/core/changes/journal';
import type { Plan } from '@/core/changes/plan';
import { treePath } from '@/core/files/treePath';
import { planSchema } from './plan';

test('seals a parsed plan like the plan that was written', () => {
  const digest = 'a'.repeat(64) as never;
  const plan: Plan = {
    kind: 'undo',
    title: 'Undo: Remove a file',
    steps: [
      // The order in which undo writes the keys; the schema has `mode` before `from`.
      {
        do: 'put',
        path: treePath('textures/ü é.png'),
        before: null,
        size: 788,
        modified: 1796201258955.378,
        from: { from: 'store', digest },
        mode: 0o644,
      },
    ],
    notes: [],
    paths: [],
    readiness: null,
    undoes: '20261202-084739-373f148',
  };
  const of = { id: '20261202-084739-423f1cf', seq: 4 };
  const read = planSchema.parse(JSON.parse(JSON.stringify(plan))) as Plan;
  expect(JSON.stringify(read)).not.toBe(JSON.stringify(plan));
  expect(sealOf('/work/boat', { ...of, plan: read })).toBe(sealOf('/work/boat', { ...of, plan }));
  const changed = { ...read, steps: [{ ...read.steps[0]!, size: 789 }] } as Plan;
  expect(sealsOf('/work/boat', { ...of, plan: changed })).not.toContain(
    sealOf('/work/boat', { ...of, plan }),
  );
});
