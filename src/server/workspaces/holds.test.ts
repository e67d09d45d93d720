// Holds of scenes on the real disk: one of two who hold a scene at once has it, and the other is told.

import { afterEach, beforeEach, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { treePath } from '@/core/files/treePath';
import type { HoldLine } from '@/core/versions/holds';
import { holdsIn, sayHold } from './holds';

let root = '';
beforeEach(() => {
  root = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-holds-')));
  fs.mkdirSync(`${root}/scenes`);
  for (const f of ['boat_v001.gltf', 'boat_v002.gltf', 'pier.gltf', 'notes.txt'])
    fs.writeFileSync(`${root}/scenes/${f}`, '{}');
});
afterEach(() => fs.rmSync(root, { recursive: true, force: true }));
const say = (what: HoldLine['do'], scene: string, by: string, why = '') =>
  sayHold(root, { do: what, scene: treePath(`scenes/${scene}`), by, why }).then(
    () => 'done',
    (cause: { code?: string }) => cause.code,
  );
const held = async () => (await holdsIn(root)).map((h) => [h.scene, h.by]);

test('of two at the same moment one holds it; a hold is of the scene in all its versions', async () => {
  for (let n = 0; n < 20; n++) {
    const both = await Promise.all([
      say('hold', 'boat_v001.gltf', 'Aya'),
      say('hold', 'boat_v002.gltf', 'Cem'),
    ]);
    expect(both.sort()).toEqual(['busy', 'done']);
    const [[, by]] = (await held()) as [[string, string]];
    const other = by === 'Aya' ? 'Cem' : 'Aya';
    expect(await say('release', 'boat_v002.gltf', other)).toBe('busy');
    expect(await say('hold', 'pier.gltf', other)).toBe('done');
    expect(await say('release', 'boat_v002.gltf', by)).toBe('done');
    expect(await say('release', 'pier.gltf', other)).toBe('done');
    expect(await held()).toEqual([]);
  }
});

test('held twice by the same one it is held once; broken it is free, and the reason stays', async () => {
  expect([await say('hold', 'pier.gltf', 'Aya'), await say('hold', 'pier.gltf', 'Aya')]).toEqual([
    'done',
    'done',
  ]);
  expect(await say('break', 'pier.gltf', 'Cem', 'Aya is ill')).toBe('done');
  expect(await held()).toEqual([]);
  const log = fs.readFileSync(`${root}/.satchel/holds.jsonl`, 'utf8');
  expect(log.trim().split('\n').length).toBe(2);
  expect(log).toContain('Aya is ill');
});

test('what is no scene, and what is not there, is not held', async () => {
  expect(await say('hold', 'notes.txt', 'Aya')).toBe('not-found');
  expect(await say('hold', 'gone.gltf', 'Aya')).toBe('not-found');
  expect(fs.existsSync(`${root}/.satchel`)).toBe(false);
});
