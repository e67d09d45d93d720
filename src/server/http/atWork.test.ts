// Endpoints of references at work, on a real folder: the table in memory follows the disk, likeness, the scene and its bytes, the map, the room, what is
// there twice, paths as others have them, the long ledger; and what must not be read is not.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import type { DependencyMap } from '@/core/references/map';
import type { Room } from '@/core/layouts/room';
import type { Duplicates } from '@/core/plans/planMerge';
import type { JobView } from '@/wire/jobs';
import type {
  GroupsView,
  LedgerLine,
  PlanView,
  PreviewView,
  ReferenceDetail,
  ReferenceView,
  SettingsView,
  WorkspaceView,
} from '@/wire/views';
import { dataPolicy } from './guard';
import { startHere } from './testing/here';

let here: Awaited<ReturnType<typeof startHere>>;
let root = '';
let id = '';
const at = (more: string, query?: Record<string, string>) =>
  `/api/workspaces/${id}${more}${query ? `?${new URLSearchParams(query)}` : ''}`;
const put = (name: string, content: string | Uint8Array) => {
  fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
  fs.writeFileSync(path.join(root, name), content);
};
const gltf = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
const read = async () => here.done(await here.post<JobView>(at('/scan')));
const bytesAt = async (more: string) => {
  const answer = await here.send(more);
  return {
    status: answer.status,
    type: answer.headers.get('content-type'),
    policy: answer.headers.get('content-security-policy'),
    bytes: Buffer.from(await answer.arrayBuffer()),
  };
};

beforeAll(async () => {
  here = await startHere();
  await here.post('/api/allowed', { path: `${here.base}/work` });
  fs.mkdirSync(`${here.base}/work/kits/wood`, { recursive: true });
  fs.writeFileSync(
    `${here.base}/work/kits/wood/oak.png`,
    await sharp({ create: { width: 6, height: 3, channels: 3, background: '#654' } })
      .png()
      .toBuffer(),
  );
  fs.writeFileSync(`${here.base}/secret/key.bin`, 'secret');
  ({ id, root } = await here.post<WorkspaceView>('/api/workspaces', {
    parent: `${here.base}/work`,
    name: 'Boat',
    layout: { id: 'game-environment' },
    without: [],
  }));
  await here.jobs.idle();
  const picture = await sharp({ create: { width: 8, height: 4, channels: 3, background: '#876' } })
    .png()
    .toBuffer();
  put('textures/hull.png', picture);
  put('reference/hull again.png', picture);
  for (const n of [1001, 1002])
    put(`textures/wall.${n}.png`, picture.subarray(0, n === 1001 ? undefined : 60));
  put(
    'scenes/boat.gltf',
    gltf(
      '../textures/hull.png',
      'gone.png',
      `${here.base}/work/kits/wood/oak.png`,
      `${here.base}/secret/key.bin`,
    ),
  );
  put(
    'scenes/quay.usda',
    '#usda 1.0\n(\n    subLayers = [@./look.usda@]\n)\ndef Shader "W"\n{\n    asset inputs:file = @../textures/wall.<UDIM>.png@\n}\n',
  );
  put(
    'scenes/look.usda',
    '#usda 1.0\ndef Shader "S"\n{\n    asset inputs:file = @../textures/hull.png@\n}\n',
  );
  await here.done(
    await here
      .post<JobView>(at('/plans'), {
        kind: 'settings',
        change: { places: [{ name: 'Kits', heads: [`${here.base}/work/kits`, 'K:/'] }] },
      })
      .then(async (job) => {
        const { plan } = await here.done<{ plan: string }>(job);
        return here.post<JobView>(`/api/plans/${plan}/apply`);
      }),
  );
  await read();
}, 60_000);
afterAll(() => here.close());

test('the table follows the disk: only what differs is taken anew, groups and orders are as asked', async () => {
  const groups = async (query: Record<string, string>) => here.get<GroupsView>(at('/references', query));
  expect((await groups({ group: 'state' })).groups.map((g) => [g.key, g.rows])).toEqual([
    ['missing', 1],
    ['outside', 2],
    ['travels', 4],
  ]);
  expect((await groups({})).first.map((r) => r.written)[0]).toBe('gone.png');
  put('scenes/boat.gltf', gltf('../textures/hull.png', '../textures/hull.png'));
  await read();
  const after = await groups({ q: 'scene:boat', sort: 'name', down: 'yes' });
  expect([after.total, after.references, after.first.map((r) => r.written)]).toEqual([
    2,
    5,
    ['../textures/hull.png', '../textures/hull.png'],
  ]);
  put(
    'scenes/boat.gltf',
    gltf(
      '../textures/hull.png',
      'gone.png',
      `${here.base}/work/kits/wood/oak.png`,
      `${here.base}/secret/key.bin`,
    ),
  );
  await read();
  expect((await groups({})).references).toBe(7);
});

test('rows by group, by range, by likeness, by name', async () => {
  const keys = async (query: Record<string, string>) =>
    (await here.get<{ scene: string; at: string }[]>(at('/references/keys', query))).map(
      (k) => `${k.scene} ${k.at}`,
    );
  expect(await keys({ in: 'scenes/look.usda' })).toEqual(['scenes/look.usda /S.inputs:file']);
  expect((await keys({ offset: '1', limit: '2' })).length).toBe(2);
  expect(await keys({ in: 'no such group' })).toEqual([]);
  expect(await keys({ like: 'problem', scene: 'scenes/boat.gltf', at: '/images/2/uri' })).toEqual([
    'scenes/boat.gltf /images/2/uri',
    'scenes/boat.gltf /images/3/uri',
  ]);
  expect(await keys({ like: 'target', scene: 'scenes/boat.gltf', at: '/images/0/uri' })).toEqual([
    'scenes/boat.gltf /images/0/uri',
    'scenes/look.usda /S.inputs:file',
  ]);
  expect(
    (
      await here.post<ReferenceView[]>(at('/references/of'), {
        keys: [{ scene: 'scenes/look.usda', at: '/S.inputs:file' }],
      })
    ).map((r) => r.target),
  ).toEqual(['textures/hull.png']);
});

test('a scene for the eyes: all references of its chain, its bytes, small pictures, one pixel for what cannot be shown', async () => {
  const view = await here.get<PreviewView>(at('/scene', { scene: 'scenes/quay.usda' }));
  expect([view.format, view.files, view.references.length, view.units.metres]).toEqual([
    'usda',
    ['scenes/quay.usda', 'scenes/look.usda'],
    3,
    0.01,
  ]);
  const scene = await bytesAt(at('/content', { scene: 'scenes/quay.usda' }));
  expect([
    scene.status,
    scene.type,
    scene.policy,
    scene.bytes.equals(fs.readFileSync(path.join(root, 'scenes/quay.usda'))),
  ]).toEqual([200, 'application/octet-stream', dataPolicy, true]);
  const tile = await bytesAt(at('/preview', { scene: 'scenes/quay.usda', at: '/W.inputs:file' }));
  expect([tile.type, (await sharp(tile.bytes).metadata()).width]).toEqual(['image/webp', 8]);
  const lost = { scene: 'scenes/boat.gltf', at: '/images/1/uri' };
  expect(await here.codeOf('GET', at('/preview', lost))).toEqual([422, 'unsupported']);
  expect(
    (await sharp((await bytesAt(at('/preview', { ...lost, blank: 'yes' }))).bytes).metadata()).width,
  ).toBe(1);
  expect((await bytesAt(at('/content', { scene: 'scenes/boat.gltf', at: '/images/2/uri' }))).status).toBe(
    200,
  );
});

test('what is not allowed is not read, by whatever a scene says', async () => {
  expect(
    await here.codeOf('GET', at('/content', { scene: 'scenes/boat.gltf', at: '/images/3/uri' })),
  ).toEqual([403, 'not-allowed']);
  expect(
    await here.codeOf('GET', at('/preview', { scene: 'scenes/boat.gltf', at: '/images/3/uri' })),
  ).toEqual([403, 'not-allowed']);
  expect(await here.codeOf('GET', at('/content', { scene: '../../secret/key.bin' }))).toEqual([
    400,
    'bad-request',
  ]);
  expect(await here.codeOf('GET', at('/content', { scene: 'textures/hull.png' }))).toEqual([
    404,
    'not-found',
  ]);
  expect(await here.codeOf('GET', at('/content', { scene: '.satchel/workspace.json' }))).toEqual([
    404,
    'not-found',
  ]);
  // A link put in the place of a file after it was read.
  fs.rmSync(path.join(root, 'textures/hull.png'));
  fs.symlinkSync(`${here.base}/secret/key.bin`, path.join(root, 'textures/hull.png'));
  expect(
    (await here.codeOf('GET', at('/content', { scene: 'scenes/boat.gltf', at: '/images/0/uri' })))[0],
  ).toBe(404);
  fs.rmSync(path.join(root, 'textures/hull.png'));
  fs.copyFileSync(path.join(root, 'reference/hull again.png'), path.join(root, 'textures/hull.png'));
});

test('the map, the room and what is there twice', async () => {
  const map = await here.get<DependencyMap>(at('/map'));
  expect([
    map.scenes,
    map.nodes.find((n) => n.id === 'scene:scenes/quay.usda')!.column,
    map.nodes.find((n) => n.id === 'scene:scenes/look.usda')!.column,
  ]).toEqual([3, 0, 1]);
  const rooms = await here.get<Room[]>(at('/room', { by: 'use' }));
  expect(rooms.find((r) => r.name === 'used by a scene')!.files).toBe(4); // a picture, two tiles, a layer
  expect(await here.codeOf('GET', at('/room', { by: 'colour' }))).toEqual([400, 'bad-request']);
  const twice = await here.done<Duplicates[]>(await here.post<JobView>(at('/duplicates')));
  // One of them is a tile, which stays with its row.
  expect(twice.map((g) => g.files.map((f) => f.path))).toEqual([
    ['textures/hull.png', 'reference/hull again.png'],
  ]);
  const { plan } = await here.done<{ plan: string }>(
    await here.post<JobView>(at('/plans'), {
      kind: 'merge',
      groups: [['reference/hull again.png', 'textures/hull.png']],
    }),
  );
  expect((await here.get<PlanView>(`/api/plans/${plan}`)).paths.map((p) => p.after)).toEqual([
    '../reference/hull%20again.png',
    '../reference/hull again.png',
  ]);
});

test('paths as other machines have them; the drawer’s history; the long ledger', async () => {
  const settings = await here.get<SettingsView>(at('/settings'));
  expect(settings.places).toEqual([
    { name: 'Kits', heads: [`${here.base}/work/kits`, 'K:/'], here: [`${here.base}/work/kits`] },
  ]);
  const detail = await here.get<ReferenceDetail>(
    at('/reference', { scene: 'scenes/boat.gltf', at: '/images/2/uri' }),
  );
  expect(detail.elsewhere).toEqual([
    {
      place: 'Kits',
      head: `${here.base}/work/kits`,
      others: [{ head: 'K:/', path: 'K:/wood/oak.png', written: 'file:///K:/wood/oak.png' }],
    },
  ]);
  expect(
    await here.post(at('/elsewhere'), {
      place: 'Kits',
      head: `${here.base}/work/kits`,
      paths: [
        { scene: 'scenes/boat.gltf', written: 'K:/a%20b.png' },
        { scene: 'scenes/boat.gltf', written: '../x.png' },
      ],
    }),
  ).toEqual([`${here.base}/work/kits/a%20b.png`, '../x.png']);
  const { plan } = await here.done<{ plan: string }>(
    await here.post<JobView>(at('/plans'), {
      kind: 'relink',
      choices: [{ scene: 'scenes/boat.gltf', at: '/images/1/uri', to: 'textures/hull.png' }],
    }),
  );
  await here.done(await here.post<JobView>(`/api/plans/${plan}/apply`));
  const [line] = await here.get<LedgerLine[]>(at('/ledger', { path: 'scenes/boat.gltf' }));
  expect([line!.touched, line!.changes.map((c) => c.after), line!.later]).toEqual([
    ['scenes/boat.gltf'],
    ['../textures/hull.png'],
    [],
  ]);
  expect(
    (
      await here.get<ReferenceDetail>(at('/reference', { scene: 'scenes/boat.gltf', at: '/images/0/uri' }))
    ).history.map((h) => h.title),
  ).toEqual([expect.stringMatching(/^Relink .* in .*/)]);
});
