// The real server, killed without warning during a large apply and during database writes; then started again.

import { expect, test } from 'playwright/test';
import fs from 'node:fs';
import path from 'node:path';
import { ask, demoId, finished, freshDemo, snapshot, startServer } from './server';

interface Ledger {
  id: string;
  state: string;
  title: string;
  left: string[];
}

/** A scene that needs many large files, so that bringing it in takes a while. */
function layLargePack(folder: string): { scene: string; sources: string } {
  const sources = path.join(folder, 'harbour-lantern/bench/Downloads/large');
  fs.mkdirSync(sources);
  const block = Buffer.alloc(2 * 1024 * 1024, 7);
  const images = Array.from({ length: 60 }, (_, i) => {
    block.writeUInt32LE(i, 0);
    fs.writeFileSync(path.join(sources, `t${i}.png`), block);
    return { uri: `t${i}.png` };
  });
  fs.writeFileSync(path.join(sources, 'big.gltf'), JSON.stringify({ asset: { version: '2.0' }, images }));
  return { scene: path.join(sources, 'big.gltf'), sources };
}

test('kill -9 during a large apply: after the restart every file is as before and the ledger is true; then it goes through', async () => {
  // Five servers, one after another.
  test.setTimeout(300_000);
  const folder = freshDemo();
  const { scene, sources } = layLargePack(folder);
  const original = snapshot(sources);
  let server = await startServer(folder);
  const before = snapshot(server.root);
  const plan = async () => {
    const id = await demoId(server);
    const job = await ask<{ id: string }>(server.address, `/api/workspaces/${id}/plans`, {
      kind: 'bring',
      files: [scene],
    });
    return { id, plan: ((await finished(server.address, job.id)).result as { plan: string }).plan };
  };
  const arrived = () =>
    fs.readdirSync(path.join(server.root, 'textures')).filter((f) => /^t\d+\.png$/.test(f)).length;
  for (const many of [1, 15, 40]) {
    const { plan: made } = await plan();
    void ask(server.address, `/api/plans/${made}/apply`, {}).catch(() => {});
    for (let n = 0; n < 20_000 && arrived() < many; n++) await new Promise((done) => setTimeout(done, 1));
    await server.stop('SIGKILL');
    // It died in the middle: some files are there, and not all.
    const there = arrived();
    expect([many, there >= many, there < 60]).toEqual([many, true, true]);
    server = await startServer(folder);
    const id = await demoId(server);
    // Nobody opens it again: whatever page is looked at, what was half done is put back first.
    const ledger = await ask<Ledger[]>(server.address, `/api/workspaces/${id}/ledger`);
    expect([many, ledger.map((e) => e.state).filter((s) => s !== 'put back')]).toEqual([many, []]);
    expect(ledger.flatMap((e) => e.left)).toEqual([]);
    expect(snapshot(server.root)).toEqual(before);
    const leftovers = fs
      .readdirSync(server.root, { recursive: true })
      .filter((f) => String(f).includes('.satchel-part'));
    expect(leftovers).toEqual([]);
    expect(snapshot(sources)).toEqual(original);
  }
  const { id, plan: made } = await plan();
  const job = await ask<{ id: string }>(server.address, `/api/plans/${made}/apply`, {});
  expect((await finished(server.address, job.id)).state).toBe('done');
  expect((await ask<Ledger[]>(server.address, `/api/workspaces/${id}/ledger`))[0]!.state).toBe('applied');
  expect(
    fs
      .readFileSync(path.join(server.root, 'textures/t59.png'))
      .equals(fs.readFileSync(path.join(sources, 't59.png'))),
  ).toBe(true);
  await server.stop();
  fs.rmSync(folder, { recursive: true, force: true });
});

test('kill -9 during database writes: it opens again, the index is whole or read anew; a second server is refused', async () => {
  const folder = freshDemo();
  let server = await startServer(folder);
  const id = await demoId(server);
  const reading = await ask<{ id: string }>(server.address, `/api/workspaces/${id}/scan`, {});
  expect((await finished(server.address, reading.id)).state).toBe('done');
  for (let i = 0; i < 400; i++)
    fs.writeFileSync(
      path.join(server.root, 'scenes', `many_${i}.gltf`),
      JSON.stringify({ images: Array.from({ length: 20 }, (_, n) => ({ uri: `../textures/${n}.png` })) }),
    );
  for (const delay of [20, 120, 300]) {
    await ask(server.address, `/api/workspaces/${id}/scan`, {});
    await new Promise((done) => setTimeout(done, delay));
    await server.stop('SIGKILL');
    server = await startServer(folder);
    expect(await demoId(server)).toBe(id);
    // What is shown before it is read again is one reading or the next, whole; never a part of one.
    const { references, scanned } = await ask<{ references: number; scanned: number | null }>(
      server.address,
      `/api/workspaces/${id}/references`,
    );
    if (scanned !== null) expect([53, 53 + 400 * 20]).toContain(references);
  }
  const job = await ask<{ id: string }>(server.address, `/api/workspaces/${id}/scan`, {});
  expect((await finished(server.address, job.id)).state).toBe('done');
  expect(
    (await ask<{ references: number }>(server.address, `/api/workspaces/${id}/references`)).references,
  ).toBe(53 + 400 * 20);
  await expect(startServer(folder)).rejects.toThrow('did not start');
  await server.stop();
  fs.rmSync(folder, { recursive: true, force: true });
});
