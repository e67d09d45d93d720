// What killed commands left goes; what a running one is making, another machine's, and a user's file that is named on a list, stay.

import { afterAll, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { temporaryIn } from './listing';
import { clearLeft, commandParts, notePart, ownRegister } from './parts';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-parts-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

test('lists of processes that have ended are cleared', () => {
  const registers = commandParts(base);
  const mine = ownRegister(registers);
  const [machine, , random] = path.basename(mine).split('-') as [string, string, string];
  const dead = spawnSync(process.execPath, ['-e', '']).pid;
  const make = (register: string) => {
    const at = temporaryIn(base);
    notePart(register, at);
    fs.writeFileSync(at, 'half a bag');
    return at;
  };
  const listOf = (of: string, pid: number) => path.join(registers, `${of}-${pid}-${random}`);
  const left = make(listOf(machine, dead));
  // Of a process before this one, which had the same number (a container begins at 1 each time).
  const before = make(mine);
  const running = make(listOf(machine, process.ppid));
  const elsewhere = make(listOf('0badcafe', dead));
  const users = path.join(base, 'notes.txt');
  fs.writeFileSync(users, 'mine');
  notePart(listOf(machine, dead), users);
  clearLeft(registers);
  expect([left, before, running, elsewhere, users].map((f) => fs.existsSync(f))).toEqual([
    false,
    false,
    true,
    true,
    true,
  ]);
  expect(fs.readdirSync(registers).sort()).toEqual(
    [listOf(machine, process.ppid), listOf('0badcafe', dead)].map((f) => path.basename(f)).sort(),
  );
});
