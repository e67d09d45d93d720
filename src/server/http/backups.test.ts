// Backups over the wire, on a real folder: by themselves when their drive is there, proven in the background when it is due, looked into, judged and read
// without being given back; and nothing of it where it is not allowed.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import type { JobView } from '@/wire/jobs';
import type { WorkspaceView } from '@/wire/views';
import { BackupWatch } from '../backupWatch';
import { hub } from '../hub';
import { startHere } from './testing/here';

let here: Awaited<ReturnType<typeof startHere>>;
let root = '';
let id = '';
let folder = '';
const day = 86_400_000;
const gltf = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
const put = (name: string, content: string) => {
  fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
  fs.writeFileSync(path.join(root, name), content);
  // Saved long ago: what was saved just now is read again by the next snapshot, which would mend it.
  fs.utimesSync(path.join(root, name), 1_764_000_000.345, 1_764_000_000.345);
};
interface Targets {
  targets: {
    folder: string;
    there: boolean;
    last: { ok: boolean } | null;
    proof: { due: string | null; spoilt: number } | null;
  }[];
}
const targets = async () => (await here.get<Targets>(`/api/workspaces/${id}/backups`)).targets;
const run = async <T>(at: string, input: unknown) => here.done<T>(await here.post<JobView>(at, input));

beforeAll(async () => {
  here = await startHere();
  for (const at of ['work', 'barn']) {
    fs.mkdirSync(`${here.base}/${at}`, { recursive: true });
    await here.post('/api/allowed', { path: `${here.base}/${at}` });
  }
  ({ id, root } = await here.post<WorkspaceView>('/api/workspaces', {
    parent: `${here.base}/work`,
    name: 'Boat',
    layout: { id: 'game-environment' },
  }));
  put('scenes/a.gltf', gltf('../textures/hull%20&%20ü.png', '../textures/lost.png'));
  put('textures/hull & ü.png', 'hull');
  folder = `${here.base}/barn/backups`;
}, 60_000);
afterAll(() => here.close());

test('by itself once its drive is there, again after some hours; a proof that is due is made, and what it finds is told', async () => {
  const h = await hub();
  const watch = new BackupWatch(h);
  try {
    await here.post(`/api/workspaces/${id}/backups`, {
      targets: [{ folder, as: 'snapshots', auto: true }],
    });
    fs.renameSync(`${here.base}/barn`, `${here.base}/away`);
    await watch.look();
    expect((await targets())[0]).toMatchObject({ there: false, last: null, proof: null });
    fs.renameSync(`${here.base}/away`, `${here.base}/barn`);
    await watch.look();
    const [made] = await targets();
    expect(made).toMatchObject({ there: true, last: { ok: true }, proof: { spoilt: 0 } });
    const snapshots = () =>
      fs
        .readdirSync(`${folder}/snapshots`, { recursive: true })
        .filter((f) => /\d\.copy\.json$|\w\.copy\.json$/.test(String(f)));
    expect(snapshots()).toHaveLength(1);
    await watch.look();
    expect(snapshots()).toHaveLength(1);
    await watch.look(Date.now() + day / 3);
    expect(snapshots()).toHaveLength(2);

    const due = Date.parse(made!.proof!.due!);
    expect(due).toBeGreaterThan(Date.now() + 80 * day);
    const proofs = () =>
      fs.existsSync(`${folder}/proofs/log.jsonl`)
        ? fs.readFileSync(`${folder}/proofs/log.jsonl`, 'utf8').trim().split('\n').length
        : 0;
    expect(proofs()).toBe(0);
    const pack = `${folder}/.satchel/store/packs/000001.pack`;
    const bytes = fs.readFileSync(pack);
    bytes[bytes.indexOf('lost.png')]! ^= 1;
    fs.writeFileSync(pack, bytes);
    await watch.look(due + 1000);
    expect(proofs()).toBe(1);
    expect((await targets())[0]!.proof!.spoilt).toBe(1);
  } finally {
    watch.close();
  }
}, 60_000);

test('a snapshot is looked into, judged and read as it was; a file that is spoilt is not handed out', async () => {
  const into = `${here.base}/barn/other`;
  const { id: snapshot } = await run<{ id: string }>(`/api/workspaces/${id}/back-up`, {
    folder: into,
    as: 'snapshots',
  });
  fs.writeFileSync(path.join(root, 'textures/hull & ü.png'), 'painted over since');
  fs.rmSync(path.join(root, 'scenes/a.gltf'));
  expect(await run('/api/backups/judge', { folder: into, snapshot })).toEqual({
    references: 2,
    ready: 1,
    missing: [{ scene: 'scenes/a.gltf', written: '../textures/lost.png', state: 'missing' }],
  });
  const file = (at: string) =>
    here.send(`/api/backups/file?${new URLSearchParams({ folder: into, snapshot, path: at })}`);
  const answer = await file('textures/hull & ü.png');
  expect([answer.status, await answer.text()]).toEqual([200, 'hull']);
  expect(answer.headers.get('content-disposition')).toBe(
    "attachment; filename*=UTF-8''hull%20%26%20%C3%BC.png",
  );
  for (const wrong of ['../../x', 'textures/none.png', '/etc/passwd'])
    expect((await file(wrong)).status).toBe(404);
  const elsewhere = await here.send(
    `/api/backups/file?${new URLSearchParams({ folder: '/etc', snapshot, path: 'passwd' })}`,
  );
  expect(elsewhere.status).toBe(403);
  const pack = `${into}/.satchel/store/packs/000001.pack`;
  const bytes = fs.readFileSync(pack);
  bytes[bytes.indexOf('lost.png')]! ^= 1;
  fs.writeFileSync(pack, bytes);
  expect((await file('scenes/a.gltf')).status).toBeGreaterThanOrEqual(400);
  expect((await file('textures/hull & ü.png')).status).toBe(200);
});
