// Bags by another writer, and ours by another reader: both in Python, written from RFC 8493 alone (testing/bags.py). Checksums with `*` before the path,
// as `md5sum -b` writes them, are common practice.

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { openForBackup } from '../backups/takeSnapshot';
import { packWorkspace } from './packWorkspace';
import { unpack } from './unpack';
import { verify } from './verify';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-others-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const script = path.resolve('src/server/bags/testing/bags.py');
const python = (...args: string[]) => spawnSync('python3', [script, ...args], { encoding: 'utf8' });
const forms = [
  'plain',
  'crlf',
  'cr only',
  'md5',
  'md5 crlf 0.97',
  'sha1',
  'two manifests',
  'upper-case sums',
  'tabs',
  'many blanks',
  'one blank',
  'no last line end',
  'no tag manifest',
  'tags in folders',
  'line ends in names',
];
const hasPython = spawnSync('python3', ['--version']).status === 0;
const asked = hasPython ? describe : describe.skip;
const filesIn = (root: string) =>
  fs
    .readdirSync(root, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile())
    .map((e) => path.join(e.parentPath, e.name))
    .map((f) => [path.relative(root, f), createHash('sha256').update(fs.readFileSync(f)).digest('hex')])
    .sort();

asked('bags by another writer', () => {
  beforeAll(() => {
    const made = python('write', base, ...forms, 'fetch');
    expect([made.status, made.stderr]).toEqual([0, '']);
  });
  describe.each(['', '.zip'])('as a folder or a ZIP: %j', (ending) => {
    test.each(forms)('%s', async (form) => {
      const bag = `${base}/${form}${ending}`;
      const verified = await verify(bag);
      expect([verified.problems, verified.files]).toEqual([[], form === 'line ends in names' ? 6 : 5]);
      const to = `${base}/out ${form}${ending}`;
      await unpack(bag, to);
      expect(filesIn(to)).toEqual(filesIn(`${base}/${form}/data`));
    });

    test('what would have to be fetched is refused, with its reason', async () => {
      const bag = `${base}/fetch${ending}`;
      expect((await verify(bag)).problems.map((p) => p.code).sort()).toEqual(['fetch', 'missing-file']);
      await expect(unpack(bag, `${base}/fetched${ending}`)).rejects.toMatchObject({ code: 'bad-bag' });
      expect(fs.existsSync(`${base}/fetched${ending}`)).toBe(false);
    });
  });

  test('sums by md5sum -b and sha256sum, with ./ before no path', async () => {
    const bag = `${base}/by hand`;
    fs.mkdirSync(`${bag}/data`, { recursive: true });
    fs.writeFileSync(`${bag}/data/a.png`, 'A');
    fs.writeFileSync(`${bag}/bagit.txt`, 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n');
    const sums = (program: string, ...args: string[]) =>
      spawnSync(program, [...args, 'data/a.png'], { cwd: bag, encoding: 'utf8' }).stdout;
    fs.writeFileSync(`${bag}/manifest-md5.txt`, sums('md5sum', '-b'));
    fs.writeFileSync(`${bag}/manifest-sha256.txt`, sums('sha256sum'));
    expect((await verify(bag)).problems).toEqual([]);
  });
});

asked('ours by another reader', () => {
  const root = `${base}/w`;
  beforeAll(() => {
    for (const [name, content] of Object.entries({
      'scenes/a.gltf': '{"asset":{"version":"2.0"},"images":[{"uri":"../textures/ü é.png"}]}',
      'textures/ü é.png': 'PNG',
      '100% of 日本 & "it".txt': 'x',
      'a\nb.txt': 'line',
      'empty.bin': '',
    })) {
      fs.mkdirSync(path.dirname(`${root}/${name}`), { recursive: true });
      fs.writeFileSync(`${root}/${name}`, content);
    }
  });
  test.each(['ours.zip', 'ours'])('%s', async (name) => {
    const packed = await packWorkspace(await openForBackup(root), `${base}/${name}`);
    const read = python('read', `${base}/${name}`);
    expect([read.status, read.stderr]).toEqual([0, '']);
    const paths = JSON.parse(read.stdout) as string[];
    expect(paths.length).toBe(packed.files);
    expect(paths).toContain('data/100% of 日本 & "it".txt');
  });
});
