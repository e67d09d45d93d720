// Removes temporary files of killed commands; keeps those of running commands and of other machines, and files of the user that a list names.

import { afterAll, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { temporaryIn } from './listing';
import { clearLeft, commandParts, notePart, ownRegister } from './parts';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-parts-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

test('clears the lists of processes that have ended', () => {
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
  // An earlier process with the same number (numbers in a container start at 1).
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
