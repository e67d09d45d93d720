// Small files of the data folder are written completely or not at all, and unreadable ones are never overwritten.

import { afterAll, expect, jest, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { rememberedHeads, rememberHeads } from './arrive/heads';
import { keepFile, setAside } from './keptFile';
import { dropPreset, keepPreset, presets } from './workspaces/presets';

const base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-kept-'));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
let n = 0;
const fresh = () => path.join(base, String(n++), 'data');

test('writes a private file with its folder, and keeps the old one when writing fails', () => {
  const file = path.join(fresh(), 'heads.json');
  keepFile(file, 'one');
  keepFile(file, 'two');
  expect(fs.readFileSync(file, 'utf8')).toBe('two');
  if (process.platform !== 'win32') expect(fs.statSync(file).mode & 0o777).toBe(0o600);
  const rename = jest.spyOn(fs, 'renameSync').mockImplementation(() => {
    throw new Error('the power went');
  });
  expect(() => keepFile(file, 'three')).toThrow('the power went');
  rename.mockRestore();
  expect(fs.readFileSync(file, 'utf8')).toBe('two');
  expect(fs.readdirSync(path.dirname(file))).toEqual(['heads.json']);
});

test('keeps every file that was set aside', () => {
  const file = path.join(fresh(), 'a.txt');
  for (const text of ['1', '2', '3']) {
    keepFile(file, text);
    setAside(file);
  }
  setAside(file); // a missing file is fine
  expect(
    ['a.txt.removed', 'a.txt.removed-2', 'a.txt.removed-3'].map((f) =>
      fs.readFileSync(path.join(path.dirname(file), f), 'utf8'),
    ),
  ).toEqual(['1', '2', '3']);
});

test('keeps an unreadable list of heads under another name', () => {
  const data = fresh();
  keepFile(path.join(data, 'heads.json'), '{"format":2,"heads":{"of":"a newer version"}}');
  expect(rememberedHeads(data)).toEqual([]);
  rememberHeads(data, [{ from: 'D:/work', to: '/work' }]);
  expect(rememberedHeads(data)).toEqual([{ from: 'D:/work', to: '/work' }]);
  expect(fs.readFileSync(path.join(data, 'heads.json.removed'), 'utf8')).toContain('newer version');
});

test('replaces only the preset of the same name', () => {
  const data = fresh();
  const preset = (name: string) => ({ format: 1 as const, name });
  const id = keepPreset(data, preset('For: the farm'));
  expect(keepPreset(data, preset('For: the farm'))).toBe(id);
  expect(presets(data).map((p) => p.preset.name)).toEqual(['For: the farm']);
  const folder = path.join(data, 'presets');
  expect(fs.readdirSync(folder)).toEqual([`${id}.json`]);
  fs.writeFileSync(path.join(folder, `${id}.json`), '{ half a text');
  keepPreset(data, preset('For: the farm'));
  expect(fs.readFileSync(path.join(folder, `${id}.json.removed`), 'utf8')).toBe('{ half a text');
  dropPreset(data, id);
  expect(presets(data)).toEqual([]);
  expect(fs.readdirSync(folder)).toHaveLength(2);
});
