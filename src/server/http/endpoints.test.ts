// The server's endpoints on a real folder and a real database, with the work done in this thread: what is allowed, what is answered, what stands
// on disk afterwards, and how errors are told.

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import type { JobView } from '@/wire/jobs';
import type {
  FileDetail,
  FileView,
  FolderView,
  GroupsView,
  OverviewView,
  PlanView,
  ReferenceDetail,
  StateView,
  UnusedView,
  WorkspaceView,
} from '@/wire/views';
import { startHere } from './testing/here';

let here: Awaited<ReturnType<typeof startHere>>;
let base = '';
beforeAll(async () => {
  here = await startHere();
  ({ base } = here);
}, 60_000);
afterAll(() => here.close());
const ask = (method: string, at: string, body?: unknown) => here.ask<object>(method, at, body);
const get = <T>(at: string) => here.get<T>(at);
const post = <T>(at: string, body?: unknown) => here.post<T>(at, body);
const codeOf = (method: string, at: string, body?: unknown) => here.codeOf(method, at, body);
const done = <T>(job: JobView) => here.done<T>(job);

test('allowed folders: nothing is seen or touched before it is allowed', async () => {
  expect(await codeOf('GET', `/api/folders?path=${base}/work`)).toEqual([403, 'not-allowed']);
  expect(await codeOf('POST', '/api/allowed', { path: `${base}/nowhere` })).toEqual([404, 'not-found']);
  await post('/api/allowed', { path: `${base}/work/` });
  expect((await get<StateView>('/api/state')).allowed).toEqual([
    { path: `${base}/work`, there: true, tooWide: null },
  ]);
  expect((await get<FolderView>(`/api/folders?path=${base}/work`)).parent).toBeNull();
  expect(await codeOf('GET', `/api/folders?path=${base}/secret`)).toEqual([403, 'not-allowed']);
  expect(await codeOf('GET', `/api/folders?path=${base}/work/../secret`)).toEqual([403, 'not-allowed']);
});

test('what is no request of ours is refused in one shape', async () => {
  expect(await codeOf('GET', '/api/nothing')).toEqual([404, 'not-found']);
  expect(await codeOf('GET', '/api/workspaces/none')).toEqual([404, 'not-found']);
  expect(await codeOf('POST', '/api/allowed', { wrong: 1 })).toEqual([400, 'bad-request']);
  const plain = await here.send('/api/allowed', {
    method: 'POST',
    body: '{"path":"/"}',
    headers: { 'content-type': 'text/plain' },
  });
  expect(plain.status).toBe(400);
});

describe('a workspace', () => {
  let id = '';
  let root = '';
  const at = (more: string) => `/api/workspaces/${id}${more}`;
  const put = (name: string, content: string | Uint8Array) =>
    fs.writeFileSync(path.join(root, name), content);
  const read = async () => done(await post<JobView>(at('/scan')));

  test('is shown before it is made, and refused inside another', async () => {
    const wish = {
      parent: `${base}/work`,
      name: 'Boat',
      layout: { id: 'game-environment' },
      without: ['audio'],
    };
    const preview = await post<{ root: string; problem: string | null; folders: { path: string }[] }>(
      '/api/workspaces/preview',
      wish,
    );
    expect([preview.root, preview.problem, fs.existsSync(preview.root)]).toEqual([
      `${base}/work/Boat`,
      null,
      false,
    ]);
    const made = await post<WorkspaceView>('/api/workspaces', wish);
    ({ id, root } = made);
    await here.jobs.idle();
    expect([fs.existsSync(`${root}/textures`), fs.existsSync(`${root}/audio`)]).toEqual([true, false]);
    const nested = await post<{ problem: string }>('/api/workspaces/preview', {
      ...wish,
      parent: `${root}/models`,
    });
    expect(nested.problem).toContain(`lies inside the workspace ${root}`);
    expect(await codeOf('POST', '/api/workspaces', { ...wish, parent: root })).toEqual([
      409,
      'inside-workspace',
    ]);
    expect(
      (await post<{ problem: string }>('/api/workspaces/preview', { ...wish, name: 'aux' })).problem,
    ).toContain('aux');
    expect((await post<WorkspaceView>('/api/workspaces/open', { path: `${root}/textures` })).root).toBe(root);
  });

  test('its references: counted, filtered by words of the field, in pages', async () => {
    put(
      'textures/hull.png',
      await sharp({ create: { width: 8, height: 4, channels: 3, background: '#876' } })
        .png()
        .toBuffer(),
    );
    put('textures/lost.png', 'no picture');
    put(
      'scenes/boat.gltf',
      JSON.stringify({
        images: [{ uri: '../textures/hull.png' }, { uri: '../textures/HULL.png' }, { uri: 'gone.png' }],
        buffers: [{ uri: 'gone.bin' }],
      }),
    );
    put('scenes/crane.gltf', JSON.stringify({ images: [{ uri: '../textures/hull.png' }] }));
    await read();
    const overview = await get<OverviewView>(at(''));
    expect([
      overview.references,
      overview.ready,
      overview.scenes,
      overview.byState,
      overview.found!.unused.files,
    ]).toEqual([5, 2, 2, { travels: 2, case: 1, missing: 2 }, 1]);
    expect(overview.attention.map((r) => r.state)).toEqual(['missing', 'missing', 'case']);
    const groups = async (q: string) =>
      (await get<GroupsView>(at(`/references?${new URLSearchParams({ q })}`))).total;
    expect([
      await groups(''),
      await groups('state:missing'),
      await groups('state:missing kind:buffer'),
      await groups('hull state:travels'),
      await groups('hull crane'),
      await groups('%'),
    ]).toEqual([5, 2, 1, 2, 1, 0]);
    expect(
      (await get<{ written: string }[]>(at('/references/rows?offset=1&limit=2'))).map((r) => r.written),
    ).toEqual(['gone.png', 'gone.bin']);
    expect(await codeOf('GET', at('/references/rows?limit=100000'))).toEqual([400, 'bad-request']);
    const detail = await get<ReferenceDetail>(
      at(`/reference?${new URLSearchParams({ scene: 'scenes/boat.gltf', at: '/images/0/uri' })}`),
    );
    expect([detail.facts, detail.preview, detail.users.map((u) => u.scene).sort()]).toEqual([
      'PNG · 8 × 4 · 3 channels, 8-bit',
      true,
      ['scenes/boat.gltf', 'scenes/crane.gltf'],
    ]);
  });

  test('its files: who uses them, what lies idle, a picture made anew', async () => {
    const files = await get<FileView[]>(at('/files?folder=textures'));
    expect(files.filter((f) => f.kind === 'file').map((f) => [f.name, f.uses, f.unused])).toEqual([
      ['hull.png', 3, false],
      ['lost.png', 0, true],
    ]);
    expect(await get<UnusedView>(at('/unused'))).toMatchObject({
      total: { files: 1, bytes: 10 },
      files: [{ path: 'textures/lost.png' }],
    });
    expect(await get<FileDetail>(at('/file?path=textures/lost.png'))).toMatchObject({
      facts: null,
      preview: false,
      unused: true,
      users: [],
      home: 'texture',
    });
    const picture = await here.send(at('/picture?path=textures/hull.png'));
    expect([
      picture.status,
      picture.headers.get('content-type'),
      (await sharp(Buffer.from(await picture.arrayBuffer())).metadata()).width,
    ]).toEqual([200, 'image/webp', 8]);
    expect(await codeOf('GET', at('/picture?path=textures/lost.png'))).toEqual([422, 'unsupported']);
    expect(await codeOf('GET', at('/file?path=../secret'))).toEqual([400, 'bad-request']);
    expect(await codeOf('GET', at('/files?folder=../..'))).toEqual([400, 'bad-request']);
  });

  test('a plan is seen, applied once, stands in the ledger, and is undone to the same bytes', async () => {
    const scene = path.join(root, 'scenes', 'boat.gltf');
    const before = fs.readFileSync(scene);
    const { plan } = await done<{ plan: string }>(
      await post<JobView>(at('/plans'), { kind: 'travel', only: null }),
    );
    const seen = await get<PlanView>(`/api/plans/${plan}`);
    expect(await get(`/api/plans/${plan}/state`)).toEqual({ is: 'waiting' });
    expect([seen.paths.map((p) => [p.before, p.after]), fs.readFileSync(scene)]).toEqual([
      [['../textures/HULL.png', '../textures/hull.png']],
      before,
    ]);
    const { id: entry } = await done<{ id: string }>(await post<JobView>(`/api/plans/${plan}/apply`));
    expect(fs.readFileSync(scene, 'utf8')).toBe(before.toString().replace('HULL', 'hull'));
    expect(await codeOf('POST', `/api/plans/${plan}/apply`)).toEqual([404, 'plan-gone']);
    expect(await get(`/api/plans/${plan}/state`)).toMatchObject({ is: 'applied', entry });
    expect(await get('/api/plans/0000/state')).toEqual({ is: 'gone' });
    expect((await get<OverviewView>(at(''))).ready).toBe(3);
    const undo = await done<{ plan: string }>(await post<JobView>(at('/plans'), { kind: 'undo', id: entry }));
    await done(await post<JobView>(`/api/plans/${undo.plan}/apply`));
    expect(fs.readFileSync(scene)).toEqual(before);
    expect((await get<{ state: string }[]>(at('/ledger'))).map((e) => e.state).slice(0, 2)).toEqual([
      'applied',
      'undone',
    ]);
  });

  test('what may not be read may not be brought in; a place taken back closes what lies in it', async () => {
    fs.writeFileSync(path.join(base, 'secret', 'key.png'), '');
    expect(await codeOf('POST', at('/plans'), { kind: 'bring', files: [`${base}/secret/key.png`] })).toEqual([
      403,
      'not-allowed',
    ]);
    await ask('DELETE', '/api/allowed', { path: `${base}/work` });
    expect(await codeOf('GET', at(''))).toEqual([403, 'not-allowed']);
    expect(fs.existsSync(root)).toBe(true);
  });
});
