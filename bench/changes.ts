// Seconds of large changes on a real folder: many files shifted by one number, applied and undone; many references relinked; a ledger with large
// entries read. Run by run.mjs: node changes.ts FOLDER → one JSON line, each figure beside what a script would do in the same process.

import fs from 'node:fs';
import path from 'node:path';
import { apply } from '../src/core/changes/apply';
import type { Plan } from '../src/core/changes/plan';
import { applying, recordsIn, undoing } from '../src/core/changes/testing/contexts';
import { ledgerIn } from '../src/core/changes/testing/contexts';
import { planMove } from '../src/core/plans/planMove';
import { planRelink } from '../src/core/plans/planRelink';
import { treePath } from '../src/core/files/treePath';
import { DiskTree } from '../src/server/disk/diskTree';
import { plainFolder } from '../src/server/workspaces/open';

const base = process.argv[2]!;
const figures: Record<string, number> = {};
async function timed<T>(what: string, work: () => Promise<T> | T): Promise<T> {
  const start = performance.now();
  const done = await work();
  figures[what] = (performance.now() - start) / 1000;
  return done;
}
const pad = (n: number) => String(n).padStart(6, '0');

/** Numbered files, all shifted by one: each takes the name of the next. */
async function shift(count: number): Promise<void> {
  const root = path.join(base, `shift${count}`);
  fs.mkdirSync(path.join(root, 'frames'), { recursive: true });
  for (let n = 0; n < count; n++) fs.writeFileSync(path.join(root, 'frames', `f${pad(n)}.png`), String(n));
  await timed(`${count}: renamed by a script`, () => {
    for (let n = count - 1; n >= 0; n--)
      fs.renameSync(
        path.join(root, 'frames', `f${pad(n)}.png`),
        path.join(root, 'frames', `f${pad(n + 1)}.png`),
      );
  });
  const workspace = { ...plainFolder(root), tree: new DiskTree(root) };
  const moves = Array.from({ length: count }, (_, i) => ({
    path: `frames/f${pad(i + 1)}.png`,
    to: `frames/f${pad(i + 2)}.png`,
  }));
  const plan = await timed(`${count}: planned`, () => planMove(workspace, moves));
  await timed(`${count}: applied`, () => apply(workspace.tree, plan, applying('1')));
  const [record] = await recordsIn(workspace.tree);
  await timed(`${count}: undo planned`, () => undoing(workspace.tree, record!));
}

/** Scenes whose textures all lie in another folder now. */
async function relink(count: number): Promise<void> {
  const root = path.join(base, `relink${count}`);
  fs.mkdirSync(path.join(root, 'scenes'), { recursive: true });
  for (let n = 0; n < count; n++) {
    const folder = path.join(root, 'art', `set${n % 100}`);
    if (n < 100) fs.mkdirSync(folder, { recursive: true });
    fs.writeFileSync(path.join(folder, `texture ${n}.png`), String(n));
  }
  for (let sc = 0; sc < count / 20; sc++)
    fs.writeFileSync(
      path.join(root, 'scenes', `s${sc}.gltf`),
      JSON.stringify({
        images: Array.from({ length: 20 }, (_, i) => {
          const n = sc * 20 + i;
          return { uri: `../textures/set${n % 100}/texture%20${n}.png` };
        }),
      }),
    );
  await timed(`${count}: by a script that knows where they went`, () => {
    for (const name of fs.readdirSync(path.join(root, 'scenes'))) {
      const file = path.join(root, 'scenes', name);
      fs.writeFileSync(`${file}.new`, fs.readFileSync(file, 'utf8').replaceAll('../textures/', '../art/'));
      fs.unlinkSync(`${file}.new`);
    }
  });
  const plan = await timed(`${count}: relink planned`, () => planRelink(plainFolder(root), { search: [] }));
  if (plan.paths.length !== count) throw new Error(`${plan.paths.length} of ${count} found`);
}

/** Two entries of so many paths each. */
async function ledger(count: number): Promise<void> {
  const root = path.join(base, 'ledger');
  fs.mkdirSync(root);
  const tree = new DiskTree(root);
  for (let n = 0; n < 2; n++) {
    const plan: Plan = {
      kind: 'travel',
      title: 'Make many travel',
      steps: [{ do: 'make-folder', path: treePath(`f${n}`) }],
      notes: [],
      paths: Array.from({ length: count }, (_, i) => ({
        scene: `scenes/shot${i % 500}/scene.gltf`,
        at: `/images/${i}/uri`,
        before: `/old/machine/textures/wood/plank ${i}.png`,
        after: `../../textures/wood/plank ${i}.png`,
      })),
      readiness: null,
    };
    await apply(tree, plan, applying(`2026112${n}`));
  }
  await timed('ledger: read with all it says', () => recordsIn(tree));
  await timed('ledger: shown', () => ledgerIn(tree));
}

await shift(9_000);
await shift(20_000);
await relink(5_000);
await relink(20_000);
await ledger(100_000);
console.log(JSON.stringify(figures));
