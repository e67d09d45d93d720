// What real folders hold: twins, names that are no text, links, pipes, programs. Nothing is left out of a bag without being named, and a bag
// that our own check refuses is not made. And archives as other programs write them.

import { afterAll, expect, test } from '@jest/globals';
import { execFileSync, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { refusals } from '@/core/bags/archive';
import { nameOfEntry, openArchive } from './openBag';
import { pack } from './pack';
import { verify } from './verify';
import { unpack } from './unpack';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-ugly-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const lay = (at: string, content: string, mode = 0o644) => {
  fs.mkdirSync(path.dirname(path.join(base, at)), { recursive: true });
  fs.writeFileSync(path.join(base, at), content, { mode });
};

test.each(['zip', 'folder'])(
  'a bag as %s: what cannot go in is named, what goes in verifies and comes out',
  async (form) => {
    const root = `w-${form}`;
    lay(`${root}/real/a.png`, 'A');
    lay(`${root}/run.sh`, '#!/bin/sh', 0o755);
    lay(`${root}/Twin.png`, '1');
    lay(`${root}/twin.png`, '2');
    lay(`${root}/a`, 'x');
    lay(`${root}/a.`, 'y');
    lay(`${root}/back\\slash.png`, 'z');
    lay(`${root}/~home`, 'h');
    lay(`${root}/mine.satchel-part.png`, 'm');
    lay(`${root}/.satchel/lock`, '{}');
    fs.utimesSync(path.join(base, root, 'real/a.png'), -86400, new Date(-86_400_000));
    fs.writeFileSync(
      Buffer.concat([Buffer.from(`${base}/${root}/`), Buffer.from([0xe9, 0x2e, 0x70])]),
      'latin',
    );
    execFileSync('mkfifo', [path.join(base, root, 'pipe')]);
    fs.symlinkSync('real', path.join(base, root, 'way'));
    fs.symlinkSync('real/a.png', path.join(base, root, 'latest.png'));
    fs.symlinkSync('/etc', path.join(base, root, 'out'));
    fs.symlinkSync('.', path.join(base, root, 'round'));
    const bag = path.join(base, `bag-${form}${form === 'zip' ? '.zip' : ''}`);
    const packed = await pack(path.join(base, root), bag);
    expect(packed.leftOut.map((l) => l.path).sort()).toEqual(
      ['a.', 'back\\slash.png', 'out', 'pipe', 'round', 'twin.png', '~home', '\ufffd.p'].sort(),
    );
    expect((await verify(bag)).problems).toEqual([]);
    const to = path.join(base, `out-${form}`);
    await unpack(bag, to);
    expect(fs.readFileSync(path.join(to, 'way/a.png'), 'utf8')).toBe('A');
    expect(fs.readFileSync(path.join(to, 'latest.png'), 'utf8')).toBe('A');
    expect([
      fs.statSync(path.join(to, 'run.sh')).mode & 0o111,
      fs.statSync(path.join(to, 'a')).mode & 0o111,
    ]).toEqual([0o111, 0]);
    expect(fs.existsSync(path.join(to, '.satchel/lock'))).toBe(false);
    // Through a link to an empty folder, as a mounted drive is often reached.
    const drive = path.join(base, `drive-${form}`);
    fs.mkdirSync(path.join(drive, 'lost+found'), { recursive: true });
    fs.symlinkSync(drive, `${drive}-link`);
    await unpack(bag, `${drive}-link`);
    expect([
      fs.lstatSync(`${drive}-link`).isSymbolicLink(),
      fs.readFileSync(path.join(drive, 'Twin.png'), 'utf8'),
    ]).toEqual([true, '1']);
    expect(fs.readdirSync(drive).filter((f) => f.startsWith('.') && f.includes('.satchel-part'))).toEqual([]);
  },
);

// RFC 8493 §2.1.3 ends lines with LF or CR; U+2028 and U+2029 end them only in JavaScript.
test.each(['zip', 'folder'])('a bag as %s keeps names with Unicode line separators', async (form) => {
  const root = `lines-${form}`;
  const names = ['line\u2028end.png', 'para\u2029graph/x\u2028.png', 'next\u0085line.png', '100%0A.png'];
  for (const name of names) lay(`${root}/${name}`, name);
  const bag = path.join(base, `lines-bag-${form}${form === 'zip' ? '.zip' : ''}`);
  expect((await pack(path.join(base, root), bag)).leftOut).toEqual([]);
  expect((await verify(bag)).problems).toEqual([]);
  const to = path.join(base, `lines-out-${form}`);
  await unpack(bag, to);
  for (const name of names) expect(fs.readFileSync(path.join(to, name), 'utf8')).toBe(name);
});

// APPNOTE.TXT 4.4.6: MS-DOS times, 1980 to 2107, every two seconds; 4.6.1, id 0x5455: 32 bits of seconds.
test.each(['zip', 'folder'])(
  'a bag as %s restores times before 1970, after 2038 and within a second',
  async (form) => {
    const root = `times-${form}`;
    const times: Record<string, number> = {
      'old.png': -1_500_000_000.25,
      'before.png': -0.5,
      'dos.png': 200_000_000,
      'now.png': 1_764_000_000.345,
      'late.png': 4_000_000_000.75,
      'later.png': 6_000_000_000,
    };
    for (const [name, time] of Object.entries(times)) {
      lay(`${root}/${name}`, name);
      execFileSync('touch', ['-d', `@${time}`, path.join(base, root, name)]);
    }
    const mtime = (at: string) => fs.statSync(at, { bigint: true }).mtimeNs / 1_000_000n;
    const bag = path.join(base, `times-bag-${form}${form === 'zip' ? '.zip' : ''}`);
    await pack(path.join(base, root), bag);
    expect((await verify(bag)).problems).toEqual([]);
    const to = path.join(base, `times-out-${form}`);
    await unpack(bag, to);
    for (const name of Object.keys(times))
      expect([name, mtime(path.join(to, name))]).toEqual([name, mtime(path.join(base, root, name))]);
  },
);

test.each([
  '~x.zip',
  'a\\b.zip',
  '..zip',
  '.zip',
  'C:x.zip',
  'con.zip',
  'dot. .zip',
  ' .zip',
  'ü: %\u2028.zip',
  '-rf.zip',
])('a bag named %s opens again, also in another program', async (name) => {
  const root = path.join(base, 'called');
  lay('called/a.png', 'A');
  const bag = path.join(base, name);
  await pack(root, bag);
  expect((await verify(bag)).problems).toEqual([]);
  const to = path.join(base, `called ${Buffer.from(name).toString('hex')}`);
  await unpack(bag, to);
  expect(fs.readFileSync(path.join(to, 'a.png'), 'utf8')).toBe('A');
  const read = spawnSync(
    'python3',
    ['-c', 'import sys, zipfile; print(zipfile.ZipFile(sys.argv[1]).testzip())', bag],
    {
      encoding: 'utf8',
    },
  );
  expect(read.stdout.trim()).toBe('None');
  fs.rmSync(bag);
});

// APPNOTE.TXT 6.3.10, Appendix D: names without bit 11 are in code page 437; 0x81 is ü there, 0xE1 is ß.
test('names of a ZIP that are not said to be UTF-8', () => {
  const named = (bytes: number[], flag = 0) =>
    nameOfEntry({ fileName: Buffer.from(bytes), generalPurposeBitFlag: flag });
  expect(named([0x47, 0x72, 0x81, 0xe1, 0x65])).toBe('Grüße');
  expect(named([...Buffer.from('grün')])).toBe('grün');
  expect(named([...Buffer.from('grün')], 0x800)).toBe('grün');
});

(spawnSync('zip', ['-v']).status === 0 || spawnSync('python3', ['--version']).status === 0
  ? test
  : test.skip)('a ZIP with one file at its top holds that file', async () => {
  lay('one/x.png', 'X');
  const zip = path.join(base, 'one.zip');
  execFileSync('python3', [
    '-c',
    `import zipfile; zipfile.ZipFile(r'${zip}', 'w').write(r'${base}/one/x.png', 'x.png')`,
  ]);
  const opened = await openArchive(zip);
  expect([...opened.files.keys()]).toEqual(['x.png']);
  opened.close();
});

test('many small bombs are one', () => {
  const entries = Array.from({ length: 5000 }, (_, i) => ({
    name: `b/${i}`,
    size: 60 * 1024 * 1024,
    packed: 60_000,
    offset: i * 70_000,
    mode: null,
    encrypted: false,
  }));
  expect(refusals(entries).map((r) => r.code)).toContain('bomb');
});
