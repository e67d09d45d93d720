// Bags against RFC 8493 and against the tools of others: sha512sum -c (coreutils) and unzip -t (Info-ZIP). Hostile archives are
// made by hand, byte by byte, and refused before anything is written.

import { afterAll, describe, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import zlib from 'node:zlib';
import { refusals, usualLimits } from '@/core/bags/archive';
import { decodePath, encodePath, readInfo, readManifest } from '@/core/bags/manifest';
import { knownMachines } from '@/core/places/machine';
import { rehearse } from '@/core/bags/rehearse';
import { MemoryTree } from '@/core/files/memoryTree';
import { recogniseArrival } from '../arrive/recognise';
import { takeIn } from '../arrive/takeIn';
import { openBag, payloadTree } from './openBag';
import { pack } from './pack';
import { verify } from './verify';
import { unpack } from './unpack';

const base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-bags-'));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const at = (...parts: string[]) => path.join(base, ...parts);
const lay = (root: string, files: Record<string, string | Buffer>) => {
  for (const [name, content] of Object.entries(files)) {
    fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
    fs.writeFileSync(path.join(root, name), content);
  }
};
const tree = (root: string): Record<string, string> =>
  Object.fromEntries(
    fs
      .readdirSync(root, { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile())
      .map((e) => {
        const full = path.join(e.parentPath, e.name);
        return [path.relative(root, full), fs.readFileSync(full).toString('base64')];
      })
      .sort(),
  );

const content = {
  'scenes/a.gltf': '{"images":[{"uri":"../textures/ü é.png"}]}',
  'textures/ü é.png': 'PNG',
  '.hidden/.x': 'h',
  '.satchel/workspace.json': '{}',
  'odd %25 name': '%',
  '100% \n line': 'n',
  'empty.bin': '',
};
lay(at('w'), content);
fs.mkdirSync(at('w', 'renders', 'stills'), { recursive: true });
fs.symlinkSync('/etc/hostname', at('w', 'leaves'));

describe.each(['zip', 'folder'])('a bag as %s', (form) => {
  const bag = at(form === 'zip' ? 'bag.zip' : 'bag-folder');
  test('packs, verifies, unpacks to identical files, empty folders too', async () => {
    const packed = await pack(at('w'), bag);
    expect([packed.files, packed.leftOut]).toEqual([
      7,
      [{ path: 'leaves', why: expect.stringContaining('leads nowhere') }],
    ]);
    const verified = await verify(bag);
    expect([verified.problems, verified.algorithms, verified.files]).toEqual([[], ['sha512'], 7]);
    await unpack(bag, at(`out-${form}`));
    const there = tree(at(`out-${form}`));
    const here = tree(at('w'));
    expect(there).toEqual(here);
    expect(fs.existsSync(at(`out-${form}`, 'renders', 'stills'))).toBe(true);
  });
  test('sha512sum -c finds every file right; unzip -t finds no error', () => {
    let folder = bag;
    if (form === 'zip') {
      expect(spawnSync('unzip', ['-tq', bag]).status).toBe(0);
      fs.mkdirSync(at('unzipped'));
      expect(
        spawnSync('unzip', ['-q', bag, '-d', at('unzipped')], { env: { ...process.env, LC_ALL: 'C.UTF-8' } })
          .status,
      ).toBe(0);
      // RFC 8493 §4: unpacked into an empty folder, exactly one entry shows.
      expect(fs.readdirSync(at('unzipped'))).toEqual(['bag']);
      folder = at('unzipped', 'bag');
    }
    const lines = fs.readFileSync(path.join(folder, 'manifest-sha512.txt'), 'utf8').trim().split('\n');
    expect(lines.length).toBe(7);
    // Names with % or line ends are percent-encoded in the manifest (RFC 8493 §2.1.3), which sha512sum does not undo: those two by hand.
    const plain = lines.filter((l) => !/%(25|0A|0D)/.test(l));
    expect(plain.length).toBe(5);
    const check = (text: string) =>
      spawnSync('sha512sum', ['-c', '--strict', '--quiet', '-'], { cwd: folder, input: text });
    expect(check(`${plain.join('\n')}\n`).status).toBe(0);
    expect(check(fs.readFileSync(path.join(folder, 'tagmanifest-sha512.txt'), 'utf8')).status).toBe(0);
    // Info-ZIP writes a line end in a name as another character; the name with one is read from the folder form only.
    for (const line of lines.filter((l) =>
      form === 'zip' ? /%25/.test(l) && !/%0A/.test(l) : /%(25|0A|0D)/.test(l),
    )) {
      const [digest, name] = line.split('  ') as [string, string];
      expect(
        createHash('sha512')
          .update(fs.readFileSync(path.join(folder, decodePath(name))))
          .digest('hex'),
      ).toBe(digest);
    }
  });
  test('the tag files say what RFC 8493 §2.1.1 and §2.2.2 demand', () => {
    const folder = form === 'zip' ? at('unzipped', 'bag') : bag;
    expect(fs.readFileSync(path.join(folder, 'bagit.txt'), 'utf8')).toBe(
      'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n',
    );
    const info = new Map(readInfo(fs.readFileSync(path.join(folder, 'bag-info.txt'), 'utf8')));
    const sizes = Object.values(content).reduce((s, c) => s + Buffer.byteLength(c), 0);
    expect(info.get('Payload-Oxum')).toBe(`${sizes}.7`);
    expect(info.get('Bagging-Date')).toMatch(/^\d{4}-\d\d-\d\d$/);
  });
  test('refuses to overwrite, and to unpack where something lies', async () => {
    await expect(pack(at('w'), bag)).rejects.toMatchObject({ code: 'exists' });
    await expect(unpack(bag, at('w'))).rejects.toMatchObject({ code: 'not-empty' });
    await expect(pack(at('w'), at('w', 'inside.zip'))).rejects.toMatchObject({ code: 'bad-request' });
  });
  test('can be looked at without unpacking', async () => {
    const opened = await openBag(bag);
    const payload = payloadTree(opened);
    expect(new TextDecoder().decode(await payload.read('scenes/a.gltf' as never, [0, 9]))).toBe('{"images"');
    expect(
      (await rehearse(payload, [knownMachines[2]!], { name: 'bag', libraries: [] }))[0]!.references,
    ).toBe(1);
    opened.close();
  });
});

test.each(['zip', 'folder'])(
  'a scene of several parts is read whole from a %s, not its last part over and over',
  async (form) => {
    const scene = `{"images":[{"uri":"first.png"}],"pad":"${'x'.repeat(3_500_000)}","buffers":[{"uri":"last.bin"}]}`;
    lay(at('long'), { 'a.gltf': scene });
    const bag = at(form === 'zip' ? 'long.zip' : 'long-bag');
    await pack(at('long'), bag);
    const opened = await openBag(bag);
    const payload = payloadTree(opened);
    expect(new TextDecoder().decode(await payload.read('a.gltf' as never))).toBe(scene);
    expect(
      (await rehearse(payload, [knownMachines[2]!], { name: 'bag', libraries: [] }))[0]!.failures.map(
        (f) => f.written,
      ),
    ).toEqual(['first.png', 'last.bin']);
    opened.close();
  },
);

test('every byte flipped is found, and nothing is unpacked', async () => {
  const folder = at('bag-folder');
  for (const name of ['data/textures/ü é.png', 'manifest-sha512.txt', 'bag-info.txt', 'bagit.txt']) {
    const file = path.join(folder, name);
    const good = fs.readFileSync(file);
    const bad = Buffer.from(good);
    bad[Math.floor(bad.length / 2)]! ^= 1;
    fs.writeFileSync(file, bad);
    expect((await verify(folder)).problems.length).toBeGreaterThan(0);
    await expect(unpack(folder, at('never'))).rejects.toMatchObject({ code: 'bad-bag' });
    expect(fs.existsSync(at('never'))).toBe(false);
    fs.writeFileSync(file, good);
  }
  fs.writeFileSync(path.join(folder, 'data', 'extra'), 'x');
  expect((await verify(folder)).problems.map((p) => p.code)).toEqual(['unlisted-file', 'oxum']);
  fs.rmSync(path.join(folder, 'data', 'extra'));
  fs.renameSync(path.join(folder, 'data', 'empty.bin'), at('aside'));
  expect((await verify(folder)).problems.map((p) => p.code)).toEqual(['missing-file', 'oxum']);
  fs.renameSync(at('aside'), path.join(folder, 'data', 'empty.bin'));
  expect((await verify(folder)).problems).toEqual([]);
});

test('a cancelled packing leaves no bag', async () => {
  const stop = new AbortController();
  await expect(
    pack(at('w'), at('half.zip'), { signal: stop.signal, onProgress: () => stop.abort() }),
  ).rejects.toMatchObject({ code: 'cancelled' });
  expect(fs.readdirSync(base).filter((f) => f.includes('half'))).toEqual([]);
});

/** A ZIP of the given entries, written field by field (APPNOTE.TXT 4.3). `claim` lies about the unpacked size. */
function zip(
  entries: {
    name: string | Buffer;
    body?: Buffer;
    mode?: number;
    method?: number;
    claim?: number;
    offset?: number;
    /** General purpose flags; bit 0: encrypted. */
    flags?: number;
  }[],
): Buffer {
  const parts: Buffer[] = [];
  const central: Buffer[] = [];
  let offset = 0;
  for (const e of entries) {
    const name = Buffer.isBuffer(e.name) ? e.name : Buffer.from(e.name);
    const raw = e.body ?? Buffer.from('x');
    const body = e.method === 8 ? zlib.deflateRawSync(raw) : raw;
    const local = Buffer.alloc(30);
    local.writeUInt32LE(0x04034b50, 0);
    local.writeUInt16LE(e.method ?? 0, 8);
    local.writeUInt32LE(zlib.crc32(raw), 14);
    local.writeUInt32LE(body.length, 18);
    local.writeUInt32LE(e.claim ?? raw.length, 22);
    local.writeUInt16LE(name.length, 26);
    const c = Buffer.alloc(46);
    c.writeUInt32LE(0x02014b50, 0);
    c.writeUInt16LE(0x031e, 4);
    c.writeUInt16LE(0x800 | (e.flags ?? 0), 8);
    local.copy(c, 10, 8, 30);
    c.writeUInt16LE(0, 30);
    c.writeUInt32LE(((e.mode ?? 0o100644) << 16) >>> 0, 38);
    c.writeUInt32LE(e.offset ?? offset, 42);
    central.push(c, name);
    parts.push(local, name, body);
    offset += 30 + name.length + body.length;
  }
  const directory = Buffer.concat(central);
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(entries.length, 8);
  end.writeUInt16LE(entries.length, 10);
  end.writeUInt32LE(directory.length, 12);
  end.writeUInt32LE(offset, 16);
  return Buffer.concat([...parts, directory, end]);
}

describe('hostile archives are refused before anything is written', () => {
  const cases: [string, Parameters<typeof zip>[0], string][] = [
    ['a path out of the folder', [{ name: 'data/../../evil' }], 'leaves'],
    ['an absolute path', [{ name: '/etc/evil' }], 'absolute'],
    ['a drive letter', [{ name: 'C:/evil' }], 'absolute'],
    ['backslashes out', [{ name: '..\\..\\evil' }], 'leaves'],
    ['backslashes', [{ name: 'data\\x' }], 'plain path'],
    ['a link', [{ name: 'data/l', body: Buffer.from('/etc/passwd'), mode: 0o120777 }], 'link'],
    ['a device', [{ name: 'data/d', mode: 0o020666 }], 'device'],
    ['the same name twice', [{ name: 'data/x' }, { name: 'data/x' }], 'twice'],
    ['names that differ in case only', [{ name: 'data/X' }, { name: 'data/x' }], 'one file'],
    ['NFC and NFD of one name', [{ name: 'data/\u00e9' }, { name: 'data/e\u0301' }], 'one file'],
    ['a file that is also a folder', [{ name: 'data/x' }, { name: 'data/x/y' }], 'both'],
    ['a trailing dot', [{ name: 'data/x' }, { name: 'data/x.' }], 'one file'],
    ['a bomb', [{ name: 'data/b', body: Buffer.alloc(80_000_000), method: 8 }], 'grow'],
    [
      'entries that share bytes',
      [
        { name: 'data/a', body: Buffer.alloc(100) },
        { name: 'data/b', offset: 0 },
      ],
      'shares',
    ],
    ['NUL in a name', [{ name: Buffer.from('data/a\0b') }], 'plain path'],
    ['a home sign', [{ name: '~/x' }], 'plain path'],
    ['out from the middle', [{ name: 'data/a/../../../evil' }], 'leaves'],
    ['out at the very end', [{ name: 'data/..' }], 'leaves'],
    ['only out', [{ name: '..' }], 'leaves'],
    ['out, as a folder', [{ name: '../', body: Buffer.alloc(0) }], 'leaves'],
    ['out by mixed slashes', [{ name: 'data/..\\../evil' }], 'leaves'],
    ['a share', [{ name: '//host/share/evil' }], 'absolute'],
    ['a share with backslashes', [{ name: '\\\\host\\share\\evil' }], 'absolute'],
    ['the top of the drive with a backslash', [{ name: '\\evil' }], 'absolute'],
    ['a drive without a slash', [{ name: 'c:evil' }], 'absolute'],
    ['a drive in small letters', [{ name: 'd:/evil' }], 'absolute'],
    ['a stream of another file', [{ name: 'Z:stream' }], 'absolute'],
    ['an empty name', [{ name: '' }], 'plain path'],
    ['a name of one dot', [{ name: 'data/./x' }], 'plain path'],
    ['two slashes', [{ name: 'data//x' }], 'plain path'],
    ['a home of somebody', [{ name: '~root/x' }], 'plain path'],
    ['NUL before the end', [{ name: Buffer.from('data/a.png\0.exe') }], 'plain path'],
    ['a pipe', [{ name: 'data/p', mode: 0o010666 }], 'device'],
    ['a drive as a device', [{ name: 'data/b', mode: 0o060666 }], 'device'],
    ['a socket', [{ name: 'data/s', mode: 0o140666 }], 'device'],
    [
      'a link to a folder, then a file in it',
      [{ name: 'data/l', mode: 0o120777, body: Buffer.from('/etc') }, { name: 'data/l/x' }],
      'link',
    ],
    [
      'a packed link',
      [{ name: 'data/l', mode: 0o120777, body: Buffer.from('../../../etc/passwd'), method: 8 }],
      'link',
    ],
    [
      'a link that looks like a folder',
      [{ name: 'data/l/', mode: 0o120777, body: Buffer.from('/') }],
      'link',
    ],
    ['encrypted', [{ name: 'data/x', flags: 1, body: Buffer.alloc(24), claim: 12 }], 'encrypted'],
    ['folders in two letters', [{ name: 'Data/x' }, { name: 'data/x' }], 'one file'],
    ['trailing blanks', [{ name: 'data/x' }, { name: 'data/x  ' }], 'one file'],
    ['trailing dots of a folder', [{ name: 'data/a/x' }, { name: 'data/a./x' }], 'one file'],
    ['a file in a file, three deep', [{ name: 'data/a/b/c' }, { name: 'data/a' }], 'both'],
    ['the same name three times', [{ name: 'x' }, { name: 'x' }, { name: 'x' }], 'twice'],
    [
      'all entries in one place',
      [
        { name: 'a', body: Buffer.alloc(64) },
        { name: 'b', offset: 0 },
        { name: 'c', offset: 0 },
      ],
      'shares',
    ],
    [
      'an entry from the middle of another',
      [
        { name: 'a', body: Buffer.alloc(200) },
        { name: 'b', offset: 60 },
      ],
      'shares',
    ],
    [
      'two bombs that are small each',
      [
        { name: 'a', body: Buffer.alloc(40_000_000), method: 8 },
        { name: 'b', body: Buffer.alloc(40_000_000), method: 8 },
      ],
      'grow',
    ],
    ['a claim of four gigabytes', [{ name: 'a', claim: 0xfffffff0, method: 8 }], 'grow'],
  ];
  test('there are forty', () => expect(cases.length).toBeGreaterThanOrEqual(40));
  test.each(cases)('%s', async (_, entries, says) => {
    const file = at(`hostile-${Math.random().toString(36).slice(2)}.zip`);
    fs.writeFileSync(file, zip(entries));
    const before = fs.readdirSync(base).length;
    // One that is only locked, or whose names only clash, is no sign of ill will: another next step is told.
    const code = /encrypted/.test(says)
      ? 'locked-archive'
      : /one file|both|twice/.test(says)
        ? 'clashing-names'
        : 'hostile-archive';
    await expect(unpack(file, at('target'))).rejects.toMatchObject({
      code,
      details: expect.arrayContaining([expect.stringContaining(says)]),
    });
    await expect(verify(file)).rejects.toMatchObject({ code });
    await expect(recogniseArrival(file)).rejects.toMatchObject({ code });
    const what = { path: file, kind: 'zip', form: 'zip', isWorkspace: false, files: 1, bytes: 1 } as const;
    await expect(takeIn(what, at('target'))).rejects.toMatchObject({ code });
    expect([fs.existsSync(at('target')), fs.readdirSync(base).length]).toEqual([false, before]);
  });
  test('an entry that is larger than it says, and files that are no ZIP', async () => {
    const text = Buffer.from('x'.repeat(1000));
    fs.writeFileSync(
      at('liar.zip'),
      zip([
        { name: 'bagit.txt', body: Buffer.from('BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n') },
        { name: 'manifest-sha512.txt', body: text, method: 8, claim: 10 },
      ]),
    );
    await expect(unpack(at('liar.zip'), at('target'))).rejects.toThrow();
    fs.writeFileSync(at('none.zip'), 'not a zip');
    await expect(verify(at('none.zip'))).rejects.toMatchObject({ code: 'bad-bag' });
    expect(fs.existsSync(at('target'))).toBe(false);
  });
  test('a manifest that points out of the bag', async () => {
    lay(at('evil-bag'), {
      'bagit.txt': 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n',
      'manifest-sha512.txt': `${'0'.repeat(128)}  data/../../x\n`,
      'data/a': 'a',
    });
    expect((await verify(at('evil-bag'))).problems.map((p) => p.code)).toContain('unsafe-path');
    await expect(unpack(at('evil-bag'), at('target'))).rejects.toMatchObject({ code: 'bad-bag' });
  });
  test('limits of count and total', () => {
    const e = { packed: 1, offset: 0, mode: null, encrypted: false };
    expect(refusals([{ ...e, name: 'a', size: 2 ** 45, packed: 2 ** 45 }]).map((r) => r.code)).toEqual([
      'bomb',
    ]);
    expect(
      refusals(
        [
          { ...e, name: 'a', size: 1, encrypted: true },
          { ...e, name: 'b', size: 1, offset: 9 },
        ],
        { ...usualLimits, entries: 1 },
      ).map((r) => r.code),
    ).toEqual(['too-many', 'encrypted']);
  });
});

test('manifest paths: CR, LF and % are encoded, nothing else (RFC 8493 §2.1.3)', () => {
  for (const name of ['a b', 'ü', '100%', 'x\ny\rz', '%0A']) expect(decodePath(encodePath(name))).toBe(name);
  expect(encodePath('a b%\n')).toBe('a b%25%0A');
  expect(readManifest('ABC  data/x\nbad\nabc *data/y\r\n')).toEqual({
    entries: [
      { digest: 'abc', path: 'data/x' },
      { digest: 'abc', path: 'data/y' },
    ],
    badLines: [2],
  });
});

describe('rehearsing', () => {
  const images = (...uris: string[]) => JSON.stringify({ images: uris.map((uri) => ({ uri })) });
  const on = (id: string) => knownMachines.find((p) => p.id === id)!;
  const run = async (files: Record<string, string>, id: string, root?: string) =>
    (
      await rehearse(new MemoryTree(files), [root ? { ...on(id), root } : on(id)], {
        name: 'Boat',
        libraries: [],
      })
    )[0]!;

  test('a sound workspace opens everywhere', async () => {
    for (const place of knownMachines)
      expect((await run({ 's.gltf': images('t/a.png'), 't/a.png': 'x' }, place.id)).sentence).toMatch(
        /^Its one reference would open on /,
      );
  });
  test('letter case: found on Windows and macOS, not on Linux; two files in one name are lost', async () => {
    const files = { 's.gltf': images('T/A.PNG'), 't/a.png': 'x' };
    expect([
      (await run(files, 'windows')).open,
      (await run(files, 'macos')).open,
      (await run(files, 'linux')).open,
    ]).toEqual([1, 1, 0]);
    expect((await run({ 'Tex.png': 'x', 'tex.png': 'x' }, 'windows')).failures.map((f) => f.code)).toEqual([
      'case-collision',
    ]);
  });
  test('260 characters on Windows, its root included (MAX_PATH)', async () => {
    const name = 'x'.repeat(260 - 'D:/work/Boat/'.length - 1);
    expect((await run({ [name]: 'x' }, 'windows')).failures).toEqual([]);
    const long = await run({ [`${name}y`]: 'x', 's.gltf': images(`${name}y`) }, 'windows');
    expect(long.failures.map((f) => f.code)).toEqual(['path-too-long', 'missing']);
    expect((await run({ [`${name}y`]: 'x' }, 'windows-long-paths')).failures).toEqual([]);
    expect((await run({ [name]: 'x' }, 'windows', 'D:/work/deeper/Boat')).failures.length).toBe(1);
  });
  test('names Windows refuses', async () => {
    const result = await run(
      { 'aux.png': 'x', 'a:b.png': 'x', 'ok.png': 'x', 's.gltf': images('aux.png', 'ok.png') },
      'windows',
    );
    expect(result.failures.map((f) => [f.path, f.code])).toEqual([
      ['a:b.png', 'name'],
      ['aux.png', 'name'],
      ['s.gltf', 'missing'],
    ]);
    expect(result.sentence).toBe(
      '1 of 2 references would open on Windows at D:\\work\\Boat; 1 would not. 2 files need attention.',
    );
  });
  test('absolute and outside paths fail, unless the root lies there', async () => {
    const files = {
      's.gltf': images(
        '/home/artist/work/Boat/a.png',
        '../x.png',
        'file:///D:/work/Boat/a.png',
        'http://h/a.png',
      ),
      'a.png': 'x',
    };
    expect((await run(files, 'linux')).open).toBe(1);
    expect((await run(files, 'windows')).open).toBe(1);
    expect((await run(files, 'macos')).open).toBe(0);
  });
});
