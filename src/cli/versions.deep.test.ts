// Versions on the command line: JSON in its documented shape, exit status, and the disk afterwards.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import {
  checkpointResult,
  checkpointsResult,
  compareResult,
  netResult,
  planResult,
  storeResult,
  versionsResult,
} from '@/wire/results';
import type { z } from 'zod';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-cli-versions-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const project = path.resolve('.');
const root = path.join(base, 'own');
const at = (file: string) => path.join(root, file);
const gltf = (y: number) =>
  JSON.stringify({
    asset: { version: '2.0' },
    nodes: [{ name: 'mast', translation: [0, y, 0] }],
    images: [{ uri: '../textures/oak.png' }],
  });

function satchel(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [path.join(project, 'dist', 'satchel.mjs'), ...args],
    {
      cwd: base,
      encoding: 'utf8',
    },
  );
  return {
    status,
    stdout,
    stderr,
    as: <S extends z.ZodObject>(schema: S) => schema.strict().parse(JSON.parse(stdout)) as z.output<S>,
  };
}

beforeAll(() => {
  const built = spawnSync(
    process.execPath,
    ['-e', "import('./scripts/setup.mjs').then((m) => m.buildCli())"],
    {
      cwd: project,
    },
  );
  expect(built.status).toBe(0);
  expect(satchel('new', base, 'own', '--layout', 'game-environment', '--yes').status).toBe(0);
  fs.writeFileSync(at('textures/oak.png'), 'OAK');
  fs.writeFileSync(at('scenes/boat.gltf'), gltf(1));
}, 60_000);

test('the habit, a save, what differs, the way back; then compact and back', () => {
  expect(satchel('habit', root, 'folder', '--pattern', '{scene}').status).toBe(2);
  expect(satchel('habit', root, 'sideways').status).toBe(2);
  expect(satchel('habit', root, 'folder', '--pattern', 'old/{scene} {number:2}', '--yes').status).toBe(0);
  const saved = satchel('save', root, '--changed', '--note', 'first', '--yes', '--json');
  expect(saved.as(planResult).plan.title).toBe('Save boat 01.gltf');
  expect(satchel('save', root, '--changed', '--json').as(planResult).plan.steps).toEqual([]);
  const version = 'scenes/old/boat 01.gltf';
  expect(fs.readFileSync(at(version), 'utf8')).toBe(gltf(1).replace('../textures', '../../textures'));

  fs.writeFileSync(at('scenes/boat.gltf'), gltf(2));
  const found = satchel('versions', at('scenes/boat.gltf'), '--json').as(versionsResult);
  expect(found).toMatchObject({ habit: 'folder', changed: true, next: 'scenes/old/boat 02.gltf' });
  const compared = satchel('compare', at(version), at('scenes/boat.gltf'), '--json').as(compareResult);
  expect(compared.differences).toEqual([
    {
      kind: 'node',
      what: 'changed',
      name: 'mast',
      changes: [{ fact: 'place', before: '(0, 1, 0)', after: '(0, 2, 0)' }],
    },
  ]);
  expect(satchel('restore', at('scenes/boat.gltf'), '1', '--yes').status).toBe(0);
  expect(fs.readFileSync(at('scenes/boat.gltf'), 'utf8')).toBe(gltf(1));

  expect(satchel('compact', at(version), '--yes').status).toBe(0);
  expect(fs.existsSync(at(version))).toBe(false);
  expect(satchel('compact', at(version), '--back', '--yes').status).toBe(0);
  expect(fs.readFileSync(at(version), 'utf8')).toContain('../../textures/oak.png');
});

test('the net, and what the store holds for whom', () => {
  const first = satchel('net', root, '--once', '--json').as(netResult);
  expect(first.kept).toEqual([{ scene: 'scenes/boat.gltf', broken: null }]);
  fs.writeFileSync(at('scenes/boat.gltf'), gltf(3).slice(0, 50));
  const second = satchel('net', root, '--once', '--json');
  expect(second.status).toBe(1);
  expect(second.as(netResult).kept[0]!.broken).not.toBeNull();
  fs.writeFileSync(at('scenes/boat.gltf'), gltf(3));
  expect(satchel('net', root, '--json').as(netResult).scenes[0]!.states).toHaveLength(2);
  const store = satchel('store', root, '--json').as(storeResult);
  expect(store.owners.find((o) => o.owner === 'net')).toMatchObject({ contents: 2 });
  const swept = satchel('store', root, '--sweep', '--yes', '--json').as(storeResult);
  expect(swept.bytes + swept.cleared).toBe(store.bytes);
});

test('a checkpoint, what changed since, and back', () => {
  const made = satchel('checkpoint', root, 'before the flood', '--json').as(checkpointResult);
  expect(made).toMatchObject({ name: 'before the flood', unread: [] });
  fs.rmSync(at('textures/oak.png'));
  fs.writeFileSync(at('textures/elm.png'), 'ELM');
  const list = satchel('checkpoints', root, '--json').as(checkpointsResult).checkpoints;
  expect(list).toMatchObject([{ id: made.id, changed: 0, gone: 1, fresh: 1 }]);
  expect(satchel('back', root, made.id).status).toBe(0); // only shown
  expect(fs.existsSync(at('textures/elm.png'))).toBe(true);
  expect(satchel('back', root, made.id, '--yes').status).toBe(0);
  expect(fs.readdirSync(at('textures')).filter((f) => f.endsWith('.png'))).toEqual(['oak.png']);
  expect(satchel('back', root, 'nothing').status).toBe(2);
});
