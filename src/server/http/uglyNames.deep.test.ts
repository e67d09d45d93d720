// Every name that a disk can hold, asked for and changed through the endpoints: the answer is in words, never “a fault of Loyal Satchel”, and
// what can be done is done.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import type { JobView } from '@/wire/jobs';
import type { WorkspaceView } from '@/wire/views';
import { startHere } from './testing/here';

const letters = [
  'line\u2028end.png',
  'line\u2029end\u2028.png',
  'line\nfeed.png',
  'tab\tand\rreturn.png',
  'back\\slash.png',
  'q"uo\'te.png',
  'a b  .png',
  ' leading.png',
  '.hidden.png',
  'grün.png'.normalize('NFC'),
  'grün.png'.normalize('NFD'),
  'Grün.PNG',
  '木目 🪵.png',
  'tile#1?.png',
  '50%.png',
  '%00.png',
  '%E0%A4%A.png',
  'a:b.png',
  'CON.png',
  'nul',
  'x.satchel-part.png',
  '-rf.png',
  '__proto__.png',
  'constructor',
  '\u0001.png',
  '\u202e gnp.png',
  `${'ö'.repeat(125)}.png`,
  `${'x'.repeat(251)}.png`,
  `${'y'.repeat(255)}`,
  'boat_v003.png',
  'voilà',
  'à la\u00a0carte\u0085.png',
];

let here: Awaited<ReturnType<typeof startHere>>;
let root = '';
let id = '';
beforeAll(async () => {
  here = await startHere();
  const work = path.join(here.base, 'work');
  await here.post('/api/allowed', { path: work });
  const made = await here.post<WorkspaceView>('/api/workspaces', {
    parent: work,
    name: 'Ugly \u2028 one',
    layout: { id: 'game-environment' },
  });
  [root, id] = [made.root, made.id];
  await here.jobs.idle();
  for (const [i, name] of letters.entries())
    fs.writeFileSync(path.join(root, 'textures', name), `content ${i}`);
  for (const [i, name] of letters.entries()) {
    const uri = encodeURIComponent(name);
    fs.writeFileSync(
      path.join(root, 'scenes', `s${i}.gltf`),
      JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: `../textures/${uri}` }] }),
    );
  }
  // Scenes of such names, too; as far as they fit with their extension.
  for (const name of letters)
    if (Buffer.byteLength(name) <= 250)
      fs.writeFileSync(
        path.join(root, 'scenes', `${name}.mtl`),
        'newmtl a\nmap_Kd ../textures/.hidden.png\n',
      );
  await here.done(await here.post<JobView>(`/api/workspaces/${id}/scan`));
}, 60_000);
afterAll(() => here.close());

const at = (p: string, query: Record<string, string> = {}) =>
  `/api/workspaces/${id}/${p}?${new URLSearchParams(query)}`;
const isWord = (answer: { status: number; body: { error?: { code: string } } }) =>
  answer.body.error?.code === 'internal' ? JSON.stringify(answer.body.error) : '';

test('all are there, each found by its scene', async () => {
  const list = await here.get<{ target: string; state: string; scene: string }[]>(
    at('references/rows', { limit: '500' }),
  );
  const found = new Map(list.filter((r) => r.scene.endsWith('.gltf')).map((r) => [r.scene, r]));
  const wrong = letters.flatMap((name, i) => {
    const r = found.get(`scenes/s${i}.gltf`);
    return r?.state === 'travels' && r.target === `textures/${name}` ? [] : [[name, r?.state, r?.target]];
  });
  expect(wrong).toEqual([]);
  expect(list.filter((r) => r.scene.endsWith('.mtl') && r.state !== 'travels')).toEqual([]);
});

test.each(letters.map((name) => [name]))('%j is looked at', async (name) => {
  const file = `textures/${name}`;
  for (const [p, query] of [
    ['file', { path: file }],
    ['picture', { path: file }],
    ['files', { folder: 'textures' }],
    ['ledger', { path: file }],
    ['references', { q: name.slice(0, 20) }],
    ['reference', { scene: `scenes/s${letters.indexOf(name)}.gltf`, at: '/images/0/uri' }],
    ['versions', { scene: `scenes/${name}.mtl` }],
  ] as const) {
    const response = await here.ask<object>('GET', at(p, query)).catch((cause: unknown) => ({
      status: 0,
      // A picture is no JSON.
      body: String(cause).includes('JSON') ? {} : { error: { code: String(cause), message: '' } },
    }));
    expect([p, isWord(response as never)]).toEqual([p, '']);
  }
});

test.each(letters.map((name) => [name]))(
  '%j is moved, saved, cleared, or the reason is said; undone',
  async (name) => {
    const scene = `scenes/${name}.mtl`;
    for (const request of [
      { kind: 'move', moves: [{ path: `textures/${name}`, to: 'art/new.png' }] },
      { kind: 'bin', paths: [`textures/${name}`] },
      // It is about all of them at once.
      ...(name === letters[0] ? [{ kind: 'tidy', only: null }] : []),
      ...(fs.existsSync(path.join(root, scene)) ? [{ kind: 'save', scenes: [scene], note: '' }] : []),
    ]) {
      const job = await here.post<JobView & { error?: { code: string } }>(at('plans'), request);
      expect([request, job.error?.code === 'internal']).toEqual([request, false]);
      if (job.error) continue;
      await here.jobs.idle();
      const planned = here.jobs.list().find((j) => j.id === job.id)!;
      expect([request, planned.error?.code === 'internal' && planned.error.message]).toEqual([
        request,
        false,
      ]);
      if (planned.state !== 'done') continue;
      const { plan } = planned.result as { plan: string };
      const applied = await here.post<JobView>(`/api/plans/${plan}/apply`);
      await here.jobs.idle();
      const done = here.jobs.list().find((j) => j.id === applied.id)!;
      expect([request, done.error?.code === 'internal' && done.error.message]).toEqual([request, false]);
      if (done.state !== 'done') continue;
      const undo = await here.post<JobView>(at('plans'), {
        kind: 'undo',
        id: (done.result as { id: string }).id,
      });
      const back = await here.done<{ plan: string }>(undo);
      await here.done(await here.post<JobView>(`/api/plans/${back.plan}/apply`));
      expect(fs.readFileSync(path.join(root, 'textures', name), 'utf8')).toBe(
        `content ${letters.indexOf(name)}`,
      );
    }
  },
);
