// Scenes of other workspaces that lead into the one that a plan changes: what will break there stands in the plan, whether the index knows it or
// the scene was saved since.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import type { JobView } from '@/wire/jobs';
import type { PlanView, WorkspaceView } from '@/wire/views';
import { startHere } from './testing/here';

let here: Awaited<ReturnType<typeof startHere>>;
let work = '';
let boat: WorkspaceView;
let quay: WorkspaceView;
const put = (name: string, content: string) => {
  fs.mkdirSync(path.dirname(path.join(work, name)), { recursive: true });
  fs.writeFileSync(path.join(work, name), content);
};
const gltf = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });

beforeAll(async () => {
  here = await startHere();
  work = path.join(here.base, 'work');
  await here.post('/api/allowed', { path: work });
  const create = (name: string) =>
    here.post<WorkspaceView>('/api/workspaces', { parent: work, name, layout: { id: 'game-environment' } });
  boat = await create('Boat');
  quay = await create('Quay');
  put('Boat/textures/wood.png', 'W');
  put('Boat/textures/old/wood copy.png', 'W');
  put('Boat/stray.png', 'S');
  put('Boat/textures/tiles.1001.png', '1');
  put('Boat/textures/tiles.1002.png', '2');
  fs.symlinkSync(path.join(work, 'Boat'), path.join(work, 'latest'));
}, 60_000);
afterAll(() => here.close());

/** Warnings of a plan on Boat. */
async function warnings(request: object): Promise<string[]> {
  const job = await here.post<JobView>(`/api/workspaces/${boat.id}/plans`, request);
  const { plan } = await here.done<{ plan: string }>(job);
  const view = await here.get<PlanView>(`/api/plans/${plan}`);
  return view.notes.filter((n) => n.code === 'other-workspace').map((n) => n.message);
}
const merge = { kind: 'merge', groups: [['textures/wood.png', 'textures/old/wood copy.png']] };
const homes = { kind: 'homes', changes: { texture: 'art/maps' } };

test.each([
  ['relative', '../../Boat/textures/old/wood%20copy.png'],
  ['through a link', '../../latest/textures/old/wood%20copy.png'],
])('a %s path out of another workspace: what merges, moves and clears its file says so', async (_, uri) => {
  for (const step of ['never read', 'read', 'saved since'] as const) {
    if (step === 'never read') put('Quay/scenes/a.gltf', gltf(uri));
    if (step === 'read') await here.done(await here.post<JobView>(`/api/workspaces/${quay.id}/scan`));
    if (step === 'saved since') put('Quay/scenes/a.gltf', ` ${gltf('none.png', uri)}`);
    for (const request of [
      merge,
      homes,
      { kind: 'bin', paths: ['textures/old/wood copy.png'] },
      { kind: 'move', moves: [{ path: 'textures/old', to: 'textures/older' }] },
    ])
      expect([step, request, await warnings(request)]).toEqual([
        step,
        request,
        [expect.stringContaining('In the workspace Quay, scenes/a.gltf leads to wood copy.png')],
      ]);
    // What concerns none of it says nothing.
    expect(await warnings({ kind: 'tidy', only: ['stray.png'] })).toEqual([]);
  }
});

test('filing, tiles, and how many scenes', async () => {
  put('Quay/scenes/a.gltf', gltf(`file://${work}/Boat/stray.png`));
  put('Quay/scenes/b.mtl', `newmtl a\nmap_Kd ${work}/Boat/textures/tiles.<UDIM>.png\n`);
  await here.done(await here.post<JobView>(`/api/workspaces/${quay.id}/scan`));
  expect(await warnings({ kind: 'tidy', only: null })).toEqual([
    expect.stringContaining('scenes/a.gltf leads to stray.png'),
  ]);
  expect(await warnings(homes)).toEqual([expect.stringContaining('scenes/b.mtl leads to tiles.1001.png')]);
  expect(
    await warnings({
      kind: 'move',
      moves: [
        { path: 'textures', to: 'maps' },
        { path: 'stray.png', to: 'away.png' },
      ],
    }),
  ).toEqual([expect.stringContaining('and 1 more of its scenes to others')]);
});
