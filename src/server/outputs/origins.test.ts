// Whose outputs are, on a real disk with names as people give them.

import { afterAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { plainFolder, type OpenWorkspace } from '../workspaces/open';
import { outputsOf } from './origins';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-origins-')));
afterAll(() => fs.rmSync(base, { recursive: true }));
const today = { year: 2026, month: 11, day: 26 };

/** `minutes`: after a fixed hour, with a fraction of a millisecond. */
function put(at: string, content: string, minutes: number): void {
  const file = path.join(base, at);
  fs.mkdirSync(path.dirname(file), { recursive: true });
  fs.writeFileSync(file, content);
  const time = 1795000000.1234 + minutes * 60;
  fs.utimesSync(file, time, time);
}
const open = (homes: Record<string, string>): OpenWorkspace => {
  const workspace = plainFolder(base);
  return { ...workspace, file: { ...workspace.file, homes } };
};
const gltf = (...cameras: string[]) =>
  JSON.stringify({
    asset: { version: '2.0' },
    cameras: cameras.map((name) => ({ name, type: 'perspective', perspective: { yfov: 1, znear: 1 } })),
    nodes: cameras.map((name, camera) => ({ name, camera })),
    scenes: [{ nodes: cameras.map((_, n) => n) }],
  });

test('outputs of real folders: links, hidden files, a home that is not there, names that mean something elsewhere', async () => {
  put('scenes/Bär & Boot #2_v001.gltf', gltf('Main'), 0);
  put('scenes/Bär & Boot #2_v002.gltf', gltf('Main', 'Top 100%'), 60);
  put('scenes/quay.usda', '#usda 1.0\ndef Camera "Pier"\n{\n}\n', 30);
  put('renders/shot #1/bär_boot_#2_v001_main.0001.png', 'x', 10);
  put('renders/shot #1/bär_boot_#2_v001_main.0002.png', 'x', 11);
  put('renders/2026-11-26 quay Pier.png', 'x', 40);
  put('renders/Bär & Boot #2 beauty.exr', 'x', 20);
  put('renders/.thumbs/a.png', 'x', 20);
  put('renders/%20.png', 'x', 90);
  fs.symlinkSync(path.join(base, 'scenes'), path.join(base, 'renders/a link'));
  const found = await outputsOf(open({ render: 'renders', export: 'never made' }), { today });
  expect(found.folders).toEqual(['never made', 'renders']);
  expect(
    Object.fromEntries(
      found.sets.map((s) => [s.path, s.origin && [s.origin.version, s.origin.camera, s.origin.sure]]),
    ),
  ).toEqual({
    'renders/shot #1/bär_boot_#2_v001_main.####.png': ['scenes/Bär & Boot #2_v001.gltf', 'Main', 'sure'],
    'renders/2026-11-26 quay Pier.png': ['scenes/quay.usda', 'Pier', 'likely'],
    'renders/Bär & Boot #2 beauty.exr': ['scenes/Bär & Boot #2_v001.gltf', null, 'guess'],
    'renders/%20.png': ['scenes/Bär & Boot #2_v002.gltf', null, 'guess'],
  });
  const boat = found.scenes.find((s) => s.scene.includes('Boot'))!;
  expect(boat.cameras).toEqual(['Main', 'Top 100%']);
  expect(boat.next).toEqual({
    folder: 'renders',
    names: [
      { camera: 'Main', name: '2026-11-26 Bär & Boot #2 v002 Main' },
      { camera: 'Top 100%', name: '2026-11-26 Bär & Boot #2 v002 Top 100%' },
    ],
  });
  // A name that is taken is not offered again; what was named by the pattern is found by it.
  put('renders/2026-11-26 Bär & Boot #2 v002 Top 100%.0001.png', 'x', 95);
  const again = await outputsOf(open({ render: 'renders' }), { today });
  expect(again.scenes.find((s) => s.scene === boat.scene)!.next.names[1]!.name).toBe(
    '2026-11-26 Bär & Boot #2 v002 Top 100%(2)',
  );
  expect(again.sets.find((s) => s.path.includes('Top 100%'))!.origin).toMatchObject({
    version: 'scenes/Bär & Boot #2_v002.gltf',
    camera: 'Top 100%',
    sure: 'sure',
  });
});

test('a list of passes that is broken, a scene that cannot be read, no scene at all', async () => {
  put('passes.json', '{', 0);
  put('scenes/broken.gltf', '{"cameras": [', 0);
  const found = await outputsOf(open({ render: 'renders' }), { today });
  expect(found.scenes.find((s) => s.scene === 'scenes/broken.gltf')!.next.names).toHaveLength(1);
  fs.rmSync(path.join(base, 'scenes'), { recursive: true });
  const alone = await outputsOf(open({ render: 'renders' }), { today });
  expect(alone.scenes).toEqual([]);
  expect(alone.sets.every((s) => s.origin === null)).toBe(true);
});
