// Scenes put into one file and taken apart again, on the real disk. Judged by gltf-validator (Khronos), @gltf-transform/core, OpenUSD 22, unzip -t, and the
// files themselves: pictures come back byte for byte, the scene says what it said.

import { afterAll, describe, expect, test } from '@jest/globals';
import { Logger, NodeIO } from '@gltf-transform/core';
import { validateBytes } from 'gltf-validator';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { hasOpenUsd, openUsd } from '@/core/convert/crate/testing/openUsd';
import { treePath } from '@/core/files/treePath';
import { formatOfName } from '@/core/formats/formats';
import { planEmbed } from '@/core/plans/planEmbed';
import { planExtract } from '@/core/plans/planExtract';
import { applyPlan, recordsIn } from './changing';
import { sourceOf } from './collect';
import { planUndoOf } from './ledger';
import { plainFolder } from './open';
import { deepTest } from '@/core/files/testing/depth';

const samples = process.env.SATCHEL_SAMPLES ?? path.resolve('.cache/samples');
const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-one-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const io = new NodeIO().setLogger(new Logger(Logger.Verbosity.SILENT));
let folders = 0;

function laid(files: Record<string, string | Buffer>): string {
  const at = path.join(base, `ö ${++folders}`);
  fs.mkdirSync(at);
  for (const [name, text] of Object.entries(files)) {
    fs.mkdirSync(path.dirname(path.join(at, name)), { recursive: true });
    fs.writeFileSync(path.join(at, name), text);
  }
  return at;
}

async function embed(from: string, to: string) {
  const target = plainFolder(path.dirname(to));
  const both = { source: sourceOf(plainFolder(sceneRoot(from))), target };
  const plan = await planEmbed(both, { from, to: treePath(path.basename(to)) });
  const record = await applyPlan(target.root, plan);
  return { plan, record };
}

/** A scene of a test lies in a folder below the root that is laid. */
const sceneRoot = (from: string) =>
  from.startsWith(base)
    ? from
        .split('/')
        .slice(0, base.split('/').length + 1)
        .join('/')
    : path.dirname(from);

async function extract(from: string, into: string) {
  const target = plainFolder(into);
  const plan = await planExtract(
    { source: sourceOf(plainFolder(path.dirname(from))), target },
    { from, into: null },
  );
  const record = await applyPlan(into, plan);
  return { plan, record };
}

const listed = (folder: string) =>
  fs
    .readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile() && !e.parentPath.includes('.satchel'))
    .map((e) => path.relative(folder, path.join(e.parentPath, e.name)))
    .sort();

const hash = (bytes: Uint8Array | null | undefined) =>
  bytes && createHash('sha256').update(bytes).digest('hex').slice(0, 12);

async function verdict(file: string) {
  const report = await validateBytes(new Uint8Array(fs.readFileSync(file)), {
    externalResourceFunction: async (uri: string) =>
      new Uint8Array(fs.readFileSync(path.join(path.dirname(file), decodeURIComponent(uri)))),
  });
  const { issues } = report as unknown as { issues: { messages: { code: string; severity: number }[] } };
  return issues.messages
    .filter((m) => m.severity <= 1)
    .map((m) => m.code)
    .sort();
}

async function seen(file: string) {
  const root = (await io.read(file)).getRoot();
  return {
    nodes: root.listNodes().map((n) => [n.getName(), n.getWorldMatrix()]),
    accessors: root.listAccessors().map((a) => {
      const view = a.getArray();
      return view && hash(new Uint8Array(view.buffer, view.byteOffset, view.byteLength));
    }),
    pictures: root.listTextures().map((t) => hash(t.getImage())),
    materials: root.listMaterials().map((m) => [m.getName(), hash(m.getBaseColorTexture()?.getImage())]),
  };
}

const png = (n: number) =>
  Buffer.concat([
    Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    ),
    Buffer.alloc(n, n),
  ]);

const boat = {
  asset: { version: '2.0' },
  scenes: [{ nodes: [0] }],
  nodes: [{ name: 'boat', mesh: 0, extras: { tons: 1.5 } }],
  meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1, material: 0 }] }],
  materials: [
    { name: 'hull', pbrMetallicRoughness: { baseColorTexture: { index: 0 } }, normalTexture: { index: 1 } },
  ],
  textures: [{ source: 0 }, { source: 1 }, { source: 2 }],
  images: [
    { uri: '../textures/hull%20base.png' },
    { uri: '../textures/hull_n.png', name: 'bumps' },
    { uri: '../textures/hull%20base.png' },
  ],
  accessors: [
    { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
    { bufferView: 1, componentType: 5123, count: 3, type: 'SCALAR' },
  ],
  bufferViews: [
    { buffer: 0, byteLength: 36, target: 34962 },
    { buffer: 1, byteOffset: 2, byteLength: 6, target: 34963 },
  ],
  buffers: [
    { uri: 'points.bin', byteLength: 36 },
    { uri: 'data:application/octet-stream;base64,//8AAAEAAgD//w==', byteLength: 10 },
  ],
};
const points = Buffer.from(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0).buffer);
const boatFiles = (text = JSON.stringify(boat, null, '\t')) => ({
  'scenes/boat.gltf': text,
  'scenes/points.bin': points,
  'textures/hull base.png': png(3),
  'textures/hull_n.png': png(5),
});

const readGlbReferences = (bytes: Uint8Array) => formatOfName('x.glb')!.read(bytes).references;

describe('glTF', () => {
  test('buffers and pictures in one GLB, and back in their homes, byte for byte', async () => {
    const at = laid(boatFiles());
    const glb = path.join(at, 'boat.glb');
    const { plan, record } = await embed(path.join(at, 'scenes/boat.gltf'), glb);
    expect(plan.notes.map((n) => n.code)).toEqual(['sizes']);
    expect(await verdict(glb)).toEqual(await verdict(path.join(at, 'scenes/boat.gltf')));
    expect(await seen(glb)).toEqual(await seen(path.join(at, 'scenes/boat.gltf')));
    // Nothing in it leads out, nor looks as if it did.
    expect(readGlbReferences(fs.readFileSync(glb))).toEqual([]);
    const alone = laid({});
    fs.renameSync(glb, path.join(alone, 'boat.glb'));
    expect((await seen(path.join(alone, 'boat.glb'))).pictures).toHaveLength(3);
    const into = laid({});
    await extract(path.join(alone, 'boat.glb'), into);
    expect(listed(into)).toEqual([
      'scenes/boat.bin',
      'scenes/boat.gltf',
      'textures/hull base.png',
      'textures/hull_n.png',
    ]);
    expect(fs.readFileSync(path.join(into, 'textures/hull base.png')).equals(png(3))).toBe(true);
    expect(fs.readFileSync(path.join(into, 'textures/hull_n.png')).equals(png(5))).toBe(true);
    // But for its buffers, which have become one, the text is the text it was.
    const now = JSON.parse(fs.readFileSync(path.join(into, 'scenes/boat.gltf'), 'utf8')) as typeof boat;
    const { buffers: _, bufferViews: __, ...rest } = boat;
    const { buffers, bufferViews, ...restNow } = now;
    expect(restNow).toEqual(rest);
    expect(buffers).toEqual([{ uri: 'boat.bin', byteLength: 48 }]);
    expect(bufferViews.map((v) => v.byteLength)).toEqual([36, 6]);
    expect(await seen(path.join(into, 'scenes/boat.gltf'))).toEqual(
      await seen(path.join(at, 'scenes/boat.gltf')),
    );
    fs.renameSync(path.join(alone, 'boat.glb'), glb);
    await applyPlan(at, await planUndoOf(recordsIn(at), record.id));
    expect(listed(at)).toEqual(Object.keys(boatFiles()).sort());
  });

  test('with one buffer the scene and its buffer come back to the byte', async () => {
    const one = {
      ...boat,
      buffers: [{ uri: 'boat.bin', byteLength: 44 }],
      bufferViews: [boat.bufferViews[0], { buffer: 0, byteOffset: 36, byteLength: 6 }],
    };
    for (const text of [JSON.stringify(one), JSON.stringify(one, null, 2)]) {
      const bin = Buffer.concat([points, Buffer.from(Uint16Array.of(0, 1, 2, 7).buffer)]);
      const { 'scenes/points.bin': ___, ...files } = boatFiles(text);
      const at = laid({ ...files, 'scenes/boat.bin': bin });
      await embed(path.join(at, 'scenes/boat.gltf'), path.join(at, 'boat.glb'));
      const into = laid({});
      await extract(path.join(at, 'boat.glb'), into);
      expect(fs.readFileSync(path.join(into, 'scenes/boat.bin')).equals(bin)).toBe(true);
      const back = fs.readFileSync(path.join(into, 'scenes/boat.gltf'), 'utf8');
      expect(JSON.parse(back)).toEqual(one);
      expect(back.length).toBe(text.length);
    }
  });

  test('taken apart twice into one folder: pictures are used, the scene comes beside', async () => {
    const at = laid(boatFiles());
    const glb = path.join(at, 'boat.glb');
    await embed(path.join(at, 'scenes/boat.gltf'), glb);
    const into = laid({});
    await extract(glb, into);
    const first = listed(into);
    await extract(glb, into);
    expect(listed(into).filter((f) => !first.includes(f))).toEqual([
      'scenes/boat(2).bin',
      'scenes/boat(2).gltf',
    ]);
    expect(await seen(path.join(into, 'scenes/boat(2).gltf'))).toEqual(
      await seen(path.join(into, 'scenes/boat.gltf')),
    );
    // Beside what it was made of, where words of others look like paths that lead there.
    const other = {
      ...boat,
      bufferViews: [
        boat.bufferViews[0],
        { ...boat.bufferViews[1], extras: { uri: '../textures/hull_n.png' } },
      ],
    };
    fs.writeFileSync(path.join(at, 'scenes/boat.gltf'), JSON.stringify(other));
    await embed(path.join(at, 'scenes/boat.gltf'), path.join(at, 'scenes/again.glb'));
    await extract(path.join(at, 'scenes/again.glb'), at);
    const now = fs.readFileSync(path.join(at, 'scenes/again.gltf'), 'utf8');
    expect(now).toContain('"extras":{"uri":"../textures/hull_n.png"}');
  });

  test('what cannot lie inside is named; without a buffer nothing is written', async () => {
    const far = {
      ...boat,
      images: [{ uri: 'https://example.org/a.png' }, { uri: 'gone.png' }, { uri: '../textures/hull_n.png' }],
    };
    const at = laid(boatFiles(JSON.stringify(far)));
    const { plan } = await embed(path.join(at, 'scenes/boat.gltf'), path.join(at, 'boat.glb'));
    expect(plan.notes.filter((n) => n.level === 'warning').map((n) => n.code)).toEqual([
      'not-inside',
      'not-inside',
    ]);
    fs.rmSync(path.join(at, 'scenes/points.bin'));
    await expect(embed(path.join(at, 'scenes/boat.gltf'), path.join(at, 'b.glb'))).rejects.toThrow(
      'points.bin',
    );
    expect(fs.existsSync(path.join(at, 'b.glb'))).toBe(false);
  });

  const real = fs.existsSync(samples)
    ? fs
        .readdirSync(samples, { recursive: true, withFileTypes: true })
        .filter((e) => e.isFile() && /\.gl(?:tf|b)$/.test(e.name) && e.parentPath.includes('/glTF2/'))
        .map((e) => path.join(e.parentPath, e.name))
        .sort()
    : [];
  (real.length > 0 ? deepTest : test.skip)(
    'real scenes, there and back',
    async () => {
      let done = 0;
      for (const [n, file] of real.entries()) {
        const before = await seen(file).catch(() => null);
        const said = await verdict(file).catch(() => null);
        if (!before || !said) continue;
        const at = laid({});
        const glb = path.join(at, `${n}.glb`);
        const made = await embed(file, glb).catch(() => null);
        // A scene whose buffer is missing or too short is refused.
        if (!made) continue;
        expect([file, await seen(glb)]).toEqual([file, before]);
        expect([file, await verdict(glb)]).toEqual([file, said]);
        const into = laid({});
        await extract(glb, into);
        const back = path.join(into, `scenes/${n}.gltf`);
        expect([file, await seen(back)]).toEqual([file, before]);
        expect([file, await verdict(back)]).toEqual([file, said]);
        done++;
      }
      expect(done).toBeGreaterThan(25);
    },
    60_000,
  );
});

const isWhole = (zip: string) => spawnSync('unzip', ['-tq', zip]).status === 0;

describe('packages', () => {
  (hasOpenUsd ? test : test.skip)(
    'USD with its layers as USDZ, whose files begin at multiples of 64',
    async () => {
      const at = laid({
        'scenes/pier.usda':
          '#usda 1.0\n(\n    defaultPrim = "Pier"\n)\ndef Xform "Pier" (\n    references = @../models/lamp.usda@\n)\n{\n    asset map = @../textures/oak.png@\n}\n',
        'models/lamp.usda':
          '#usda 1.0\n(\n    defaultPrim = "Lamp"\n)\ndef Xform "Lamp"\n{\n    asset glow = @../textures/glow.png@\n}\n',
        'textures/oak.png': png(1),
        'textures/glow.png': png(2),
      });
      const usdz = path.join(at, 'pier.usdz');
      await embed(path.join(at, 'scenes/pier.usda'), usdz);
      if (spawnSync('unzip', ['-v']).status === 0) expect(isWhole(usdz)).toBe(true);
      const bytes = fs.readFileSync(usdz);
      for (const name of ['def Xform "Pier"', 'def Xform "Lamp"']) expect(bytes.includes(name)).toBe(true);
      for (
        let i = bytes.indexOf('PK\x03\x04', 0, 'latin1');
        i >= 0;
        i = bytes.indexOf('PK\x03\x04', i + 4, 'latin1')
      )
        expect((i + 30 + bytes.readUInt16LE(i + 26) + bytes.readUInt16LE(i + 28)) % 64).toBe(0);
      const [stage] = openUsd([{ name: 'pier.usdz', bytes, to: 'stage' }]);
      expect(stage?.toString()).toContain('glow');
      const into = laid({});
      await extract(usdz, into);
      expect(listed(into)).toEqual([
        'scenes/lamp.usda',
        'scenes/pier.usda',
        'textures/glow.png',
        'textures/oak.png',
      ]);
      const pier = fs.readFileSync(path.join(into, 'scenes/pier.usda'), 'utf8');
      expect(pier).toContain('lamp.usda@');
      expect(fs.existsSync(path.join(into, 'scenes', /references = @([^@]*)@/.exec(pier)![1]!))).toBe(true);
      expect(fs.readFileSync(path.join(into, 'textures/oak.png')).equals(png(1))).toBe(true);
    },
  );

  test('OBJ with its materials and maps as ZIP, and COLLADA as ZAE; both back', async () => {
    const at = laid({
      'models/boat.obj': 'mtllib ../materials/boat.mtl\nv 0 0 0\n',
      'materials/boat.mtl': 'newmtl hull\nmap_Kd ../textures/hull base.png\n',
      'textures/hull base.png': png(9),
      'scenes/boat.dae':
        '<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><asset/><library_images><image id="a"><init_from>../textures/hull%20base.png</init_from></image></library_images></COLLADA>',
    });
    for (const [scene, file, home] of [
      ['models/boat.obj', 'boat.zip', 'models/boat.obj'],
      ['scenes/boat.dae', 'boat.zae', 'scenes/boat.dae'],
    ] as const) {
      const one = path.join(at, file);
      await embed(path.join(at, scene), one);
      if (spawnSync('unzip', ['-v']).status === 0) expect(isWhole(one)).toBe(true);
      const into = laid({});
      const { plan } = await extract(one, into);
      expect(plan.notes.filter((n) => n.level !== 'info')).toEqual([]);
      expect(listed(into)).toContain(home);
      expect(fs.readFileSync(path.join(into, 'textures/hull base.png')).equals(png(9))).toBe(true);
    }
  });

  test('a package that leads out of itself is refused', async () => {
    const at = laid({ 'bad.zip': hostile('../../evil.obj') });
    await expect(extract(path.join(at, 'bad.zip'), laid({}))).rejects.toThrow('leads out');
  });
});

/** A ZIP of one stored file with any name. */
function hostile(name: string): Buffer {
  const n = Buffer.from(name);
  const head = (mark: number, more: number[]) => {
    const b = Buffer.alloc(mark === 0x04034b50 ? 30 : 46);
    b.writeUInt32LE(mark, 0);
    b.writeUInt16LE(n.length, mark === 0x04034b50 ? 26 : 28);
    for (const [i, v] of more.entries()) b.writeUInt16LE(v, 4 + 2 * i);
    return b;
  };
  const local = Buffer.concat([head(0x04034b50, [20]), n]);
  const central = Buffer.concat([head(0x02014b50, [20, 20]), n]);
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(1, 8);
  end.writeUInt16LE(1, 10);
  end.writeUInt32LE(central.length, 12);
  end.writeUInt32LE(local.length, 16);
  return Buffer.concat([local, central, end]);
}
