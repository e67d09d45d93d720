// Data on users' disks that version 0.1.0 wrote stays readable: journal and undo, versions, autosaves, a checkpoint, a compacted version, snapshots, a
// mirror, an archived workspace and bags. src/cli/testing/written-by-0.1.0 holds them as that version's command line made them (README.md there says how).

import { afterAll, beforeEach, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import * as tar from 'tar';

const project = path.resolve(import.meta.dirname, '../..');
const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-older-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

let at = '';
let n = 0;
beforeEach(async () => {
  at = path.join(base, String(++n));
  fs.mkdirSync(at);
  await tar.x({ file: path.join(project, 'src/cli/testing/written-by-0.1.0/harbour.tar.gz'), cwd: at });
});

interface Called {
  status: number | null;
  said: string;
  json: never;
}

function satchel(...args: string[]): Called {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [path.join(project, 'dist', 'satchel.mjs'), ...args, '--json'],
    { cwd: at, encoding: 'utf8', env: { ...process.env, SATCHEL_DATA: path.join(at, 'app') } },
  );
  return { status, said: stderr, json: (stdout.startsWith('{') ? JSON.parse(stdout) : null) as never };
}
const read = (file: string) => fs.readFileSync(path.join(at, file));
const ok = ({ status, said }: Called) => expect([said, status]).toEqual([expect.any(String), 0]);

/** Every file of a folder by its bytes, our own records left out. */
const files = (folder: string) =>
  Object.fromEntries(
    fs
      .readdirSync(path.join(at, folder), { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile())
      .map((e) => path.relative(path.join(at, folder), path.join(e.parentPath, e.name)))
      .filter((f) => !f.startsWith('.satchel'))
      .sort()
      .map((f) => [f, fs.readFileSync(path.join(at, folder, f), 'latin1')]),
  );

test('every ledger entry is listed, and the newest change can be undone', () => {
  const listed = satchel('ledger', 'show');
  ok(listed);
  const { entries } = listed.json as { entries: { id: string; title: string; state: string }[] };
  expect(entries.map((e) => e.state)).toEqual(entries.map(() => 'applied'));
  expect(entries.length).toBe(4);
  // Compacting was the last change: undone, the version is a file again.
  ok(satchel('undo', 'show', entries[0]!.id, '--yes'));
  const scene = JSON.parse(read('show/scenes/boat_v001.gltf').toString()) as { nodes: { name: string }[] };
  expect(scene.nodes).toEqual([{ name: 'boat 1' }]);
});

test('a compacted version is listed and expands to its bytes', () => {
  const listed = satchel('versions', 'show/scenes/boat_v003.gltf');
  ok(listed);
  expect(JSON.stringify(listed.json)).toContain('new rig');
  ok(satchel('compact', 'show/scenes/boat_v001.gltf', '--back', '--yes'));
  expect(read('show/scenes/boat_v001.gltf').toString()).toContain('"boat 1"');
});

test('the checkpoint and the autosaves are there, and the checkpoint is restored', () => {
  const net = satchel('net', 'show');
  ok(net);
  expect(JSON.stringify(net.json)).toContain('quay.gltf');
  const { checkpoints } = satchel('checkpoints', 'show').json as {
    checkpoints: { id: string; name: string }[];
  };
  expect(checkpoints.map((c) => c.name)).toEqual(['before the storm']);
  ok(satchel('back', 'show', checkpoints[0]!.id, '--yes'));
  expect(read('show/scenes/quay.gltf').toString()).toContain('quay, wet');
});

test('every byte of every snapshot is verified, and the older one is restored', () => {
  ok(satchel('prove', 'backups'));
  const { snapshots } = satchel('snapshots', 'backups').json as {
    snapshots: { id: string; name: string; time: string }[];
  };
  const ofShow = snapshots.filter((s) => s.name === 'show').sort((a, b) => (a.time < b.time ? -1 : 1));
  expect(ofShow.length).toBe(2);
  ok(satchel('give-back', 'backups', ofShow[0]!.id, '--to', 'restored'));
  const now = files('show');
  const cache = 'caches/sea ü.abc';
  expect(files('restored')).toEqual({ ...now, [cache]: now[cache]!.slice(0, -'more\n'.length) });
});

test('an archived workspace comes back whole', () => {
  const stub = path.join(at, 'finished', '.satchel', 'moved-off.json');
  fs.writeFileSync(
    stub,
    fs.readFileSync(stub, 'utf8').replace('/srv/harbour/backups', path.join(at, 'backups')),
  );
  ok(satchel('bring-back', 'finished', '--yes'));
  expect(Object.keys(files('finished'))).toEqual([
    'scenes/quay.gltf',
    'scenes/quay_v001.gltf',
    'textures/planks.png',
  ]);
});

test('a mirror is a workspace, and is brought up to date', () => {
  ok(satchel('refs', 'mirror/show'));
  expect(files('mirror/show')).toEqual(files('show'));
});

test('bags are verified and unpacked', () => {
  for (const bag of ['bag', 'bag.zip']) {
    ok(satchel('verify', bag));
    ok(satchel('unpack', bag, '--to', `from ${bag}`));
    expect(files(`from ${bag}`)).toEqual(files('show'));
  }
});
