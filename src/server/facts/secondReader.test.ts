// COLLADA and glTF 1 as binary glTF by Assimp, in a thread: what comes out is read by @gltf-transform/core; files of strangers get a sentence.

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { Logger, NodeIO, type Document } from '@gltf-transform/core';
import { zipSync } from 'fflate';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { readAgain } from './secondReader';
import { closePatient } from '../threads/patient';

let base = '';
beforeAll(() => {
  base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-again-')));
});
afterAll(async () => {
  await closePatient();
  fs.rmSync(base, { recursive: true, force: true });
});
const put = (name: string, bytes: Uint8Array | string) => {
  fs.writeFileSync(path.join(base, name), bytes);
  return `${base}/${name}`;
};
const again = async (format: string, at: string, beside: { written: string; path: string }[] = []) =>
  readAgain({ path: at, format, allowed: [base], beside });
const io = new NodeIO().setLogger(new Logger(Logger.Verbosity.SILENT));
/** Faces, the box of all points where they stand, names of pictures. */
async function said(glb: Uint8Array) {
  // Its pictures lie elsewhere: names are enough here.
  const json = JSON.parse(
    new TextDecoder().decode(
      glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true)),
    ),
  ) as { images?: { uri?: string }[] };
  const pictures = (json.images ?? []).map((i) => i.uri);
  const document: Document = await io.readBinary(withoutImages(glb));
  let faces = 0;
  for (const mesh of document.getRoot().listMeshes())
    for (const p of mesh.listPrimitives()) faces += (p.getIndices()?.getCount() ?? 0) / 3;
  return { faces, pictures };
}
/** The same GLB with its picture inside: nothing is looked for on disk. */
function withoutImages(glb: Uint8Array): Uint8Array {
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength);
  const size = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + size))) as {
    images?: { uri?: string }[];
  };
  for (const image of json.images ?? []) image.uri = 'data:,';
  const text = Buffer.from(
    JSON.stringify(json)
      .padEnd(size, ' ')
      .slice(0, Math.max(size, JSON.stringify(json).length)),
  );
  const padded = Buffer.concat([text, Buffer.alloc((4 - (text.length % 4)) % 4, 0x20)]);
  const head = Buffer.from(glb.subarray(0, 20));
  head.writeUInt32LE(padded.length, 12);
  head.writeUInt32LE(20 + padded.length + glb.length - 20 - size, 8);
  return Buffer.concat([head, padded, glb.subarray(20 + size)]);
}

const plate = (picture = '') => `<?xml version="1.0" encoding="utf-8"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><asset><unit meter="1"/><up_axis>Y_UP</up_axis></asset>
${
  picture === ''
    ? ''
    : `<library_images><image id="i"><init_from>${picture}</init_from></image></library_images>
<library_effects><effect id="e"><profile_COMMON><newparam sid="s"><surface type="2D"><init_from>i</init_from></surface></newparam><newparam sid="m"><sampler2D><source>s</source></sampler2D></newparam><technique sid="c"><lambert><diffuse><texture texture="m" texcoord="u"/></diffuse></lambert></technique></profile_COMMON></effect></library_effects>
<library_materials><material id="mat"><instance_effect url="#e"/></material></library_materials>`
}
<library_geometries><geometry id="g"><mesh><source id="p"><float_array id="pa" count="9">0 0 0 1 0 0 0 1 0</float_array><technique_common><accessor source="#pa" count="3" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
<vertices id="v"><input semantic="POSITION" source="#p"/></vertices><triangles count="1" material="a"><input semantic="VERTEX" source="#v" offset="0"/><p>0 1 2</p></triangles></mesh></geometry></library_geometries>
<library_visual_scenes><visual_scene id="s0"><node id="n"><instance_geometry url="#g">${picture === '' ? '' : '<bind_material><technique_common><instance_material symbol="a" target="#mat"/></technique_common></bind_material>'}</instance_geometry></node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s0"/></scene></COLLADA>`;

describe('what is read', () => {
  test('COLLADA; its pictures keep the words it has for them', async () => {
    const glb = await again('dae', put('a.dae', plate('../textures/oak one.png')));
    expect(await said(glb)).toEqual({ faces: 1, pictures: ['../textures/oak one.png'] });
  });
  test.each([
    ['in UTF-16', 'dae', Buffer.from(`\ufeff${plate().replace('utf-8', 'UTF-16')}`, 'utf16le')],
    ['in gzip', 'dae', gzipSync(plate())],
    ['in a package', 'zae', zipSync({ 'm/a.dae': new TextEncoder().encode(plate()) })],
  ])('%s', async (name, format, bytes) => {
    expect(await said(await again(format, put(`${name}.${format}`, bytes)))).toEqual({
      faces: 1,
      pictures: [],
    });
  });

  const models = path.resolve('.cache/samples/usr/share/assimp/models');
  (fs.existsSync(models) ? test : test.skip)(
    'glTF 1 with its buffer beside it, and COLLADA that three.js does not read (assimp-testmodels 5.2.5, Debian)',
    async () => {
      const folder = `${models}/glTF/BoxTextured-glTF`;
      const parts = fs.readdirSync(folder).filter((f) => /\.(bin|glsl)$/.test(f));
      for (const f of [...parts, 'BoxTextured.gltf']) fs.copyFileSync(`${folder}/${f}`, `${base}/${f}`);
      const box = await again(
        'gltf',
        `${base}/BoxTextured.gltf`,
        parts.map((f) => ({ written: f, path: `${base}/${f}` })),
      );
      expect((await said(box)).faces).toBe(12);
      for (const name of ['cube_emptyTags.dae', 'cube_tristrips.dae', 'cube_UTF16LE.dae']) {
        fs.copyFileSync(`${models}/Collada/${name}`, `${base}/${name}`);
        expect([name, (await said(await again('dae', `${base}/${name}`))).faces]).toEqual([name, 12]);
      }
    },
    60_000,
  );
});

describe('files of strangers', () => {
  test.each([
    ['words', 'dae', 'no COLLADA at all'],
    ['nothing', 'dae', ''],
    ['a cut one', 'dae', plate().slice(0, 900)],
    ['numbers that lead nowhere', 'dae', plate().replace('<p>0 1 2</p>', '<p>0 1 99999999</p>')],
    ['a torn GLB', 'glb', 'glTF\u0002\u0000\u0000\u0000\u00ff\u00ff'],
    ['a package without a scene', 'zae', 'PK\u0003\u0004 and no more'],
    ['damaged gzip', 'dae', '\u001f\u008b\u0008 and no more'],
  ])('%s: a sentence, and the next is read', async (name, format, text) => {
    await expect(again(format, put(`${name}.${format}`, Buffer.from(text, 'latin1')))).rejects.toMatchObject({
      code: 'unsupported',
      message: 'No reader makes out what is in this scene.',
    });
    expect((await said(await again('dae', put('next.dae', plate())))).faces).toBe(1);
  });
  test('what is not allowed is not opened, nor what is no file', async () => {
    const outside = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-outside-'));
    fs.writeFileSync(path.join(outside, 'a.dae'), plate());
    fs.symlinkSync(path.join(outside, 'a.dae'), path.join(base, 'link.dae'));
    await expect(again('dae', `${base}/link.dae`)).rejects.toMatchObject({ code: 'not-allowed' });
    fs.mkdirSync(path.join(base, 'folder.dae'));
    await expect(again('dae', `${base}/folder.dae`)).rejects.toMatchObject({ code: 'unsupported' });
    fs.rmSync(outside, { recursive: true });
  });
});
