// What versions cost, on a real disk: files, the store, copies; and states of a scene read as they were.

import { afterAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { treePath } from '@/core/files/treePath';
import { planCompact } from '@/core/plans/planCompact';
import { applyPlan } from './changing';
import { contentOfState, sideOf } from './compare';
import { costOf } from './cost';
import { plainFolder } from './open';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-cost-')));
afterAll(() => fs.rmSync(base, { recursive: true }));

/** Text without any pattern, which no chunk of another seed equals. */
function noise(size: number, seed: number): string {
  let [s, out] = [seed, ''];
  while (out.length < size) {
    s = (Math.imul(s, 1664525) + 1013904223) | 0;
    out += (s >>> 0).toString(36);
  }
  return out.slice(0, size);
}
const scene = (n: number) =>
  `#usda 1.0\ndef Mesh "rig"\n{\n    string a = "${noise(300_000, 7)}"\n}\ndef Mesh "prop"\n{\n    string b = "${noise(5_000, n)}"\n}\n`;

test('files, then kept compact: what is the same is counted once; the rig inside every save is named', async () => {
  fs.mkdirSync(path.join(base, 'scenes'));
  const sizes = [1, 2, 3, 4].map((n) => {
    const at = path.join(base, `scenes/boat_v00${n}.usda`);
    fs.writeFileSync(at, scene(n));
    fs.utimesSync(at, 1795000000 + n * 60, 1795000000 + n * 60);
    return fs.statSync(at).size;
  });
  const all = sizes.reduce((a, b) => a + b, 0);
  const open = () => plainFolder(base);
  const before = await costOf(open());
  expect(before).toMatchObject({ onDisk: all, inStore: 0, copies: all });
  expect(before.grew.map((g) => g.taken)).toEqual(
    sizes.map((_, n) => sizes.slice(0, n + 1).reduce((a, b) => a + b, 0)),
  );
  expect(before.scenes[0]!.changed).toBeLessThan(60_000);
  expect(before.repeats.map((r) => [r.kind, r.name, r.apart, r.files.length])).toEqual([
    ['thing', 'rig', true, 2],
  ]);
  expect(before.repeats[0]!.each).toBeGreaterThan(290_000);

  const versions = [1, 2, 3].map((n) => treePath(`scenes/boat_v00${n}.usda`));
  await applyPlan(base, await planCompact(open(), { versions, now: '2026-11-26T10:00:00.000Z' }));
  const after = await costOf(open());
  expect(after).toMatchObject({ onDisk: sizes[3], copies: all });
  // The first whole, of the others what is new: no more than was foretold, and some chunks around it.
  expect(after.inStore).toBeLessThan(sizes[0]! + 2 * 60_000);
  expect(after.inStore).toBeLessThan(before.scenes[0]!.older!.compact * 1.2);

  const state = sideOf('scenes/boat_v004.usda', 'scenes/boat_v002.usda');
  expect(new TextDecoder().decode(await contentOfState(open(), state, undefined))).toBe(scene(2));
  for (const uri of ['../../etc/passwd', '../.satchel/workspace.json', 'gone.bin'])
    await expect(contentOfState(open(), state, uri)).rejects.toMatchObject({ code: 'not-found' });
});
