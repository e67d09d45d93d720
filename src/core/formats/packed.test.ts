// Wrapped scenes: gzip, COLLADA and OpenTimelineIO packages. Read without spans, never rewritten; damaged, lying and growing ones are told.

import { describe, expect } from '@jest/globals';
import { zipSync } from 'fflate';
import fs from 'node:fs';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { readReferences } from './formats';
import { gunzip, mostUnpacked, unwrapped } from './packed';
import { deepTest, test } from '../files/testing/depth';

const bytes = (s: string) => new TextEncoder().encode(s);
const read = async (name: string, b: Uint8Array) =>
  (await readReferences(name, b.length, async ([from, to]) => b.subarray(from, to)))!;
const written = async (name: string, b: Uint8Array) =>
  (await read(name, b)).references.map((r) => [r.written, r.span]);
const collada = (...files: string[]) =>
  `<COLLADA><library_images>${files.map((f) => `<image><init_from>${f}</init_from></image>`).join('')}</library_images></COLLADA>`;

describe('gzip', () => {
  const wrl = '#VRML V2.0 utf8\nShape { appearance Appearance { texture ImageTexture { url "a.png" } } }\n';
  test.each([
    ['a.wrz', wrl, 'x3dv'],
    ['a.wrl', wrl, 'x3dv'],
    ['a.x3dz', '<X3D><ImageTexture url=\'"a.png"\'/></X3D>', 'x3d'],
    ['a.dae', collada('a.png'), 'dae'],
  ])('%s is read; nothing in it can be changed', async (name, text, format) => {
    const reading = await read(name, gzipSync(bytes(text)));
    expect([
      reading.format.id,
      reading.references.map((r) => [r.written, r.span]),
      reading.problems.map((p) => p.code),
      reading.bytes,
    ]).toEqual([format, [['a.png', null]], ['compressed'], null]);
  });
  deepTest('what is damaged, cut off, or grows beyond all scenes is told', async () => {
    const whole = gzipSync(bytes(wrl.repeat(50)));
    expect(gunzip(whole.subarray(0, whole.length - 12))).toBeNull();
    expect(Buffer.from(gunzip(Buffer.concat([whole, gzipSync(bytes('more'))]))!).toString()).toBe(
      `${wrl.repeat(50)}more`,
    );
    expect(gunzip(Uint8Array.from([0x1f, 0x8b, 8, 0, 0, 0, 0, 0, 0, 3, 0xff, 0xff, 0xff]))).toBeNull();
    expect(gunzip(gzipSync(new Uint8Array(mostUnpacked + 1), { level: 1 }))).toBeNull();
    expect(await read('a.wrl', whole.subarray(0, 40))).toMatchObject({
      references: [],
      problems: [{ code: 'compressed' }],
    });
  });
});

describe('packages with one scene', () => {
  const zip = (files: Record<string, string>) =>
    zipSync(Object.fromEntries(Object.entries(files).map(([n, t]) => [n, bytes(t)])));
  test('a .zae: the manifest names the root; parts of the package are no references, what leads out of it is', async () => {
    const b = zip({
      'manifest.xml': '<?xml version="1.0"?><dae_root xmlns="x"> ./m/hull%20a.dae </dae_root>',
      'first.dae': collada('no.png'),
      'm/hull a.dae': collada('../t/in%20side.png', '../../out.png', '../t/gone.png'),
      't/in side.png': '',
    });
    expect(await written('a.zae', b)).toEqual([
      ['../../out.png', null],
      ['../t/gone.png', null],
    ]);
    expect((await read('a.zae', b)).references[0]!.at).toMatch(/^m\/hull a\.dae: /);
  });
  test('without a manifest the first .dae counts', async () =>
    expect(await written('a.zae', zip({ 'readme.txt': '', 'x.dae': collada('out.png') }))).toEqual([
      ['out.png', null],
    ]));
  test('an .otioz: media inside are no references', async () => {
    const content = JSON.stringify({
      OTIO_SCHEMA: 'Timeline.1',
      a: { target_url: 'media/a.mov' },
      b: { target_url: 'file:///elsewhere/b.mov' },
    });
    expect(
      await written('a.otioz', zip({ 'content.otio': content, 'version.txt': '1.0.0', 'media/a.mov': '' })),
    ).toEqual([['file:///elsewhere/b.mov', null]]);
  });
  test.each([
    ['empty', new Uint8Array(), 'empty-file'],
    ['no package', bytes('hello, this is no package at all'), 'truncated'],
    ['no scene', zip({ 'a.txt': 'x' }), 'no-root-document'],
    [
      'a root that is not there',
      zip({ 'manifest.xml': '<dae_root>gone.dae</dae_root>' }),
      'no-root-document',
    ],
  ])('%s', async (_, b, code) =>
    expect((await read('a.zae', b)).problems.map((p) => p.code)).toEqual([code]),
  );
  test('an entry that claims to be larger than it is, is told', async () => {
    const b = zip({ 'a.dae': collada('a.png').repeat(3) });
    const at = Buffer.from(b).lastIndexOf('PK\x01\x02');
    new DataView(b.buffer, b.byteOffset).setUint32(at + 24, 0x7fffffff, true);
    expect((await read('a.zae', b)).problems.map((p) => p.code)).toEqual(['unreadable']);
  });
});

// assimp-testmodels 5.2.5 (Debian): the duck's textures lie in its package.
const samples = path.resolve('.cache/samples/usr/share/assimp/models/Collada');
(fs.existsSync(samples) ? test : test.skip)('real .zae files are complete by themselves', async () => {
  for (const name of ['duck.zae', 'duck_nomanifest.zae', 'human.zae']) {
    const reading = await read(name, new Uint8Array(fs.readFileSync(path.join(samples, name))));
    expect([name, reading.references.map((r) => r.written), reading.problems]).toEqual([name, [], []]);
  }
});

describe('out of the wrapping', () => {
  test('a scene in none is as it is; in gzip what is in it; in a package its root with what lies beside', async () => {
    const plain = bytes('v 0 0 0');
    expect((await unwrapped('obj', plain))!.bytes).toBe(plain);
    expect((await unwrapped('dae', gzipSync(plain)))!.bytes).toEqual(plain);
    const b = zipSync({ 'm/hull.dae': bytes('hull'), 't/a.png': bytes('picture') });
    const inner = (await unwrapped('zae', b))!;
    expect([Buffer.from(inner.bytes).toString(), inner.path, inner.names]).toEqual([
      'hull',
      'm/hull.dae',
      ['m/hull.dae', 't/a.png'],
    ]);
    expect(Buffer.from((await inner.beside('t/a.png'))!).toString()).toBe('picture');
    expect(await inner.beside('t/gone.png')).toBeNull();
  });
  test('nothing where it cannot be had', async () => {
    expect(await unwrapped('dae', Uint8Array.from([0x1f, 0x8b, 8, 0]))).toBeNull();
    expect(await unwrapped('zae', bytes('no ZIP at all, though it is long enough'))).toBeNull();
    expect(await unwrapped('zae', zipSync({ 'a.txt': bytes('no scene') }))).toBeNull();
  });
});
