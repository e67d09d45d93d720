// 3MF packages: complete by themselves, but for what a relationship names outside; parts that are not there are told.

import { expect, test } from '@jest/globals';
import { strToU8, zipSync } from 'fflate';
import fs from 'node:fs';
import path from 'node:path';
import { threemf } from './threemf';

const read = (b: Uint8Array) => threemf.readParts!(async ([from, to]) => b.subarray(from, to), b.length);
const types = { '[Content_Types].xml': strToU8('<Types/>') };
const model = (body: string) =>
  strToU8(`<?xml version="1.0"?><model unit="millimeter" xmlns:p="x"><resources>${body}</resources></model>`);

test('parts of the package are no references; one that is missing is told', async () => {
  const b = zipSync({
    ...types,
    '3D/3dmodel.model': model(
      '<texture2d id="1" path="/3D/Textures/hull.png"/><texture2d id="2" path="/3D/Textures/gone.png"/><object id="3" thumbnail="/thumb.png"/><item p:path="/3D/OTHER.model"/>',
    ),
    '3D/Textures/hull.png': strToU8('x'),
    'thumb.png': strToU8('x'),
    '3D/other.model': model(''),
  });
  const { references, problems } = await read(b);
  expect(references).toEqual([]);
  expect(problems.map((p) => [p.code, p.message.includes('gone.png')])).toEqual([['missing-part', true]]);
});

test('the only way out is an external relationship', async () => {
  const b = zipSync({
    ...types,
    '_rels/.rels': strToU8(
      '<Relationships><Relationship Target="/3D/3dmodel.model" Id="a"/><Relationship Target="https://example.org/licence.txt" TargetMode="External" Id="b"/></Relationships>',
    ),
    '3D/3dmodel.model': model(''),
  });
  expect((await read(b)).references.map((r) => [r.at, r.written])).toEqual([
    ['_rels/.rels / Relationship', 'https://example.org/licence.txt'],
  ]);
});

test('what is damaged is told; what unpacks to more than it says, is cut there', async () => {
  expect((await read(zipSync({ '3D/3dmodel.model': model('') }))).problems.map((p) => p.code)).toEqual([
    'no-content-types',
  ]);
  const b = zipSync({ ...types, '3D/3dmodel.model': model('<a/>'.repeat(1000)) }, { level: 9 });
  for (let n = 0; n < b.length; n += 3) await expect(read(b.subarray(0, n))).resolves.toBeDefined();
  const broken = b.slice();
  for (let i = 100; i < 130; i++) broken[i] = 255;
  expect((await read(broken)).problems.length).toBeGreaterThan(0);
});

const real = path.resolve('.cache/samples/usr/share/assimp/models/3MF/box.3mf');
(fs.existsSync(real) ? test : test.skip)('a real one needs nothing (assimp-testmodels)', async () => {
  expect(await read(new Uint8Array(fs.readFileSync(real)))).toEqual({ references: [], problems: [] });
});
