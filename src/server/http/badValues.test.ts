// One bad value never empties a table: scenes whose names, paths and numbers no database holds as they are stand in it beside the good ones.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import type { JobView } from '@/wire/jobs';
import type { OverviewView, ReferenceView, SceneMeasure, WorkspaceView } from '@/wire/views';
import { startHere } from './testing/here';

let here: Awaited<ReturnType<typeof startHere>>;
let root = '';
let id = '';
const at = (more: string) => `/api/workspaces/${id}${more}`;
const put = (name: string, content: string | Uint8Array) => {
  fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
  fs.writeFileSync(path.join(root, name), content);
};
const run = async <T>(to: string) => here.done<T>(await here.post<JobView>(to));

beforeAll(async () => {
  here = await startHere();
  await here.post('/api/allowed', { path: `${here.base}/work` });
  ({ id, root } = await here.post<WorkspaceView>('/api/workspaces', {
    parent: `${here.base}/work`,
    name: 'Harbour',
    layout: { id: 'game-environment' },
  }));
}, 60_000);
afterAll(() => here.close());

test('a scan of good and bad scenes shows both', async () => {
  put('textures/a.png', 'A');
  put(
    'scenes/good.gltf',
    JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: '../textures/a.png' }] }),
  );
  const bad: Record<string, string> = {
    // Names with NUL, half a pair of surrogates, and more text than a row of an index holds.
    'nul.gltf': `{"asset":{"version":"2.0"},"images":[{"uri":"a\\u0000b.png","name":"x\\u0000"}],"textures":[{"source":0}],"materials":[{"name":"m\\u0000\\ud800","pbrMetallicRoughness":{"baseColorTexture":{"index":0}}}]}`,
    'half.gltf': `{"asset":{"version":"2.0"},"images":[{"uri":"\\ud800.png"}],"buffers":[{"uri":"\\udfff.bin","byteLength":1e999}]}`,
    'long.gltf': `{"asset":{"version":"2.0"},"images":[{"uri":"${'../'.repeat(40)}${[...Array(900)].map((_, i) => `f${i}/`).join('')}x.png"}]}`,
    'numbers.gltf': `{"asset":{"version":"2.0"},"images":[{"uri":"../textures/a.png"}],"scenes":[{"nodes":[1e999,-1,0.5,null]}],"nodes":[{"mesh":-1,"scale":[1e999,"x",null]}],"accessors":[{"min":[1e999,-1e999,null],"max":["x",1,2]}]}`,
    'nothing.gltf': 'null',
    'not.gltf': '\0\0\0',
  };
  for (const [name, content] of Object.entries(bad)) put(`scenes/bad/${name}`, content);
  // A path that no index holds.
  const deep = [...Array(14)]
    .map((_, i) => `${String(i).padStart(2, '0')}${'ordner-äöü-'.repeat(16)}`)
    .join('/');
  put(`textures/${deep}/a.png`, 'DEEP');
  put(`scenes/${deep}/deep.gltf`, JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: 'x.png' }] }));
  fs.utimesSync(path.join(root, 'textures/a.png'), -1e9, -1e9);
  await run(at('/scan'));
  const view = await here.get<OverviewView>(at(''));
  const first = await here.get<{ first: ReferenceView[] }>(at('/references?q=scene:good'));
  expect(first.first.map((r) => [r.scene, r.state])).toEqual([['scenes/good.gltf', 'travels']]);
  expect(view.references).toBeGreaterThanOrEqual(6);
  const rows = await here.get<ReferenceView[]>(at('/references/rows?limit=1000'));
  expect(new Set(rows.map((r) => r.scene.replace('scenes/bad/', '')))).toEqual(
    new Set(['scenes/good.gltf', 'nul.gltf', 'half.gltf', 'long.gltf', 'numbers.gltf']),
  );
  expect(rows.every((r) => !/\0/.test(r.written + r.uses.join('')))).toBe(true);
  // What is left out is said.
  expect(view.problems.filter((p) => p.code === 'path-too-long').length).toBeGreaterThan(0);
  // Scanned again, with one changed: the table stays whole.
  put('scenes/bad/nul.gltf', bad['nul.gltf']!.replace('a\\u0000b', 'c\\u0000d'));
  await run(at('/scan'));
  expect((await here.get<OverviewView>(at(''))).references).toBe(view.references);
});

test('measuring shows the good ones, and numbers that are none nowhere', async () => {
  const measured = await run<SceneMeasure[]>(at('/measure'));
  expect(measured.map((m) => m.path)).toContain('scenes/good.gltf');
  expect(JSON.stringify(measured)).not.toMatch(/NaN|Infinity/);
});
