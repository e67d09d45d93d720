// A ledger is still to be looked at while its workspace is away.

import { afterAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { LedgerLine } from '@/wire/views';
import { forgetLedger, keepLedger, seenLedger } from './seenLedger';

const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-seen-'));
afterAll(() => fs.rmSync(folder, { recursive: true, force: true }));
const line = (id: string): LedgerLine => ({
  id,
  title: 'Relink hull.png in boat.gltf',
  kind: 'relink',
  time: '2026-11-27T10:00:00.000Z',
  state: 'applied',
  undoes: null,
  files: 1,
  paths: 1,
  left: [],
  by: null,
  later: [],
  touched: ['scenes/boat.gltf'],
  changes: [],
});

test('what was read last is kept, the newest of it, until it is forgotten', async () => {
  expect(await seenLedger(folder, 'a')).toBeNull();
  await keepLedger(folder, 'a', [line('1')]);
  await keepLedger(
    folder,
    'a',
    Array.from({ length: 400 }, (_, n) => line(String(n))),
  );
  const kept = await seenLedger(folder, 'a');
  expect([kept?.lines.length, kept?.lines[0]]).toEqual([300, line('0')]);
  expect(Math.abs(Date.now() - kept!.seen)).toBeLessThan(60_000);
  expect(await seenLedger(folder, 'b')).toBeNull();
  expect(fs.readdirSync(path.join(folder, 'seen'))).toEqual(['a.ledger.json']);
  await forgetLedger(folder, 'a');
  expect(await seenLedger(folder, 'a')).toBeNull();
});

test('a torn file, and a place that cannot be written, cost the keeping and nothing else', async () => {
  fs.writeFileSync(path.join(folder, 'seen', 'c.ledger.json'), '{"format":1,"lin');
  expect(await seenLedger(folder, 'c')).toBeNull();
  fs.writeFileSync(path.join(folder, 'file'), '');
  await keepLedger(path.join(folder, 'file'), 'a', [line('1')]);
  expect(await seenLedger(path.join(folder, 'file'), 'a')).toBeNull();
});
