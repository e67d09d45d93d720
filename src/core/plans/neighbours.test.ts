// Other workspaces, by what is read of them and by what an index has of them once reading takes too long.

import { describe, expect, test } from '@jest/globals';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { newWorkspaceFile } from './planCreate';
import { shippedLayouts } from '../layouts/layout';
import { brokenElsewhere, type Neighbour } from './neighbours';

const root = '/work/boat';
const wood = `${root}/textures/wood.png`;
const layout = shippedLayouts[0]!;
const moved = {
  steps: [
    {
      do: 'move' as const,
      path: treePath('textures/wood.png'),
      to: treePath('textures/oak.png'),
      content: { size: 1, modified: 0, digest: null },
    },
  ],
};
const gltf = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });

/** A workspace with one scene on its disk, and what the index has of it. */
async function neighbour(
  name: string,
  scene: string | null,
  indexed: { leadTo: string[]; isOfNow: boolean } | null,
  whole = true,
): Promise<Neighbour & { opened: number }> {
  const tree = new MemoryTree(scene === null ? {} : { 'a.gltf': scene });
  const stat = scene === null ? null : await tree.stat(treePath('a.gltf'));
  const { leadTo = [], isOfNow = false } = indexed ?? {};
  const { size, modified } = { size: 0, modified: 0, ...(isOfNow ? stat : null) };
  const file = newWorkspaceFile({ name, layout, without: [], created: '2026-11-25T10:00:00.000Z' });
  const made: Neighbour & { opened: number } = {
    ...{ name, root: `/work/${name}`, whole, opened: 0 },
    known: new Map(indexed ? [['a.gltf', { size, modified, leadTo }]] : []),
    open() {
      made.opened++;
      return Promise.resolve({ root: made.root, tree, outside: memoryOutside({ [wood]: 'W' }), file });
    },
  };
  return made;
}
const codes = async (neighbours: Neighbour[], isLate?: () => boolean) =>
  (await brokenElsewhere(moved, root, neighbours, (p) => p, isLate ? { isLate } : {})).map(
    (n) =>
      `${n.code} ${/(?:In|of) the workspace (\w+)|(\d+ other workspaces)/.exec(n.message)?.slice(1).join('') ?? ''}`,
  );

describe('scenes of other workspaces that lead to what moves', () => {
  test('what the index has counts while its scene is as it was; a scene of another time is read', async () => {
    const same = await neighbour('same', gltf('none.png'), { leadTo: [wood], isOfNow: true });
    const cured = await neighbour('cured', gltf('none.png'), { leadTo: [wood], isOfNow: false });
    const newer = await neighbour('newer', gltf('../boat/textures/wood.png'), { leadTo: [], isOfNow: false });
    const unknown = await neighbour('unknown', gltf('../boat/textures/wood.png'), null);
    expect((await codes([same, cured, newer, unknown])).sort()).toEqual([
      'other-workspace newer',
      'other-workspace same',
      'other-workspace unknown',
    ]);
  });

  test('once it takes too long the index alone counts, nothing is opened any more, and that is said', async () => {
    const known = await neighbour('known', gltf('none.png'), { leadTo: [wood], isOfNow: false });
    const newer = await neighbour('newer', gltf('../boat/textures/wood.png'), null);
    expect(await codes([known, newer], () => true)).toEqual([
      'other-workspace known',
      'others-not-read 2 other workspaces',
    ]);
    expect([known.opened, newer.opened]).toEqual([0, 0]);
  });

  test('those that are known to lead here are read first', async () => {
    const order: string[] = [];
    const [far, near] = [
      await neighbour('far', gltf('none.png'), null),
      await neighbour('near', gltf('none.png'), { leadTo: [wood], isOfNow: true }),
    ];
    for (const n of [far, near]) {
      const { open } = n;
      n.open = () => (order.push(n.name), open.call(n));
    }
    await codes([far, near]);
    expect(order).toEqual(['near', 'far']);
  });

  test('of one with too many scenes for an index to name, only those that lead out count', async () => {
    const large = await neighbour(
      'large',
      gltf('../boat/textures/wood.png'),
      { leadTo: [wood], isOfNow: false },
      false,
    );
    expect(await codes([large])).toEqual(['other-workspace large', 'others-not-read large']);
    expect(large.opened).toBe(0);
  });

  test('a workspace that is gone is passed over', async () => {
    const gone = await neighbour('gone', null, { leadTo: [wood], isOfNow: false });
    gone.open = () => Promise.resolve(null);
    expect(await codes([gone])).toEqual([]);
  });

  test('the workspace around a root that is changed: what lies in the root changes with it', async () => {
    const around = await neighbour('around', null, { leadTo: [wood], isOfNow: false });
    around.root = '/work';
    expect(
      await codes(
        [
          {
            ...around,
            known: new Map([['boat/a.gltf', { size: 0, modified: 0, leadTo: [wood] }]]),
            root: '/work',
          },
        ],
        () => true,
      ),
    ).toEqual(['others-not-read around']);
  });

  test('a plan that moves nothing asks nobody', async () => {
    const n = await neighbour('one', gltf('../boat/textures/wood.png'), null);
    const made = { steps: [{ do: 'make-folder' as const, path: treePath('new') }] };
    expect(await brokenElsewhere(made, root, [n], (p) => p)).toEqual([]);
    expect(n.opened).toBe(0);
  });
});
