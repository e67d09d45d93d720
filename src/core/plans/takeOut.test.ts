// Pictures and geometry out of GLBs, checked with gltf-validator and @gltf-transform/core: the scene says what it said, and is lighter.

import { Document, NodeIO, type GLTF } from '@gltf-transform/core';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { validateBytes } from 'gltf-validator';
import { apply } from '../changes/apply';
import { applying } from '../changes/testing/contexts';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { readGlb } from '../documents/gltfFile';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { partsOf } from '../repeats/parts';
import { cutPart, repeatsOf, type CutFile } from '../repeats/repeats';
import { utf8 } from '../text/bytes';
import { digestOf, planTakeOut } from './planTakeOut';
import { parseJournalLine } from '../../wire/plan';
import { readJournals } from '../changes/journal';
import { planUndo } from '../changes/invert';
import type { Workspace } from './workspace';

/** Bytes without any pattern, the same for the same seed. */
function noise(size: number, seed: number): Uint8Array {
  const out = new Uint8Array(size);
  let s = seed * 2654435761 + 1;
  for (let i = 0; i < size; i++) {
    s = (Math.imul(s, 1664525) + 1013904223) | 0;
    out[i] = s >>> 24;
  }
  return out;
}
const png = (size: number, seed: number) => {
  const bytes = noise(size, seed);
  // Signature and header of a 1 × 1 PNG (W3C PNG Specification, §5.2): the rest is never decoded here.
  bytes.set([
    137, 80, 78, 71, 13, 10, 26, 10, 0, 0, 0, 13, 73, 72, 68, 82, 0, 0, 0, 1, 0, 0, 0, 1, 8, 2, 0, 0, 0,
  ]);
  return bytes;
};

/** A GLB with a picture, a rig and something of its own. */
async function glb(own: number, rig = 3000, pictureSize = 20_001): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const triangle = (name: string, count: number, seed: number) => {
    const flat = document
      .createAccessor(`${name} t`)
      .setType('VEC2')
      .setArray(new Float32Array(count * 6))
      .setBuffer(buffer);
    const floats = Float32Array.from(noise(count * 9, seed), (v) => v / 100);
    const position = document.createAccessor(`${name} p`).setType('VEC3').setArray(floats).setBuffer(buffer);
    return document
      .createMesh(name)
      .addPrimitive(
        document.createPrimitive().setAttribute('POSITION', position).setAttribute('TEXCOORD_0', flat),
      );
  };
  const texture = document
    .createTexture('hull planks')
    .setImage(png(pictureSize, 5) as Uint8Array<ArrayBuffer>)
    .setMimeType('image/png');
  const material = document.createMaterial('planks').setBaseColorTexture(texture);
  const [a, b] = [triangle('rig', rig, 1), triangle('prop', 20 + own, own + 7)];
  b.listPrimitives()[0]!.setMaterial(material);
  const scene = document.createScene();
  scene.addChild(document.createNode('rig').setMesh(a)).addChild(document.createNode('prop').setMesh(b));
  return new NodeIO().writeBinary(document);
}

const workspace = (files: Record<string, Uint8Array>): Workspace & { tree: MemoryTree } => ({
  root: '/w',
  tree: new MemoryTree(files),
  outside: memoryOutside({}),
  file: { homes: { texture: 'textures' }, libraries: [], places: [] },
});
const bytesAt = (w: { tree: MemoryTree }, at: string) => w.tree.files.get(at)!.bytes;

async function cutAll(w: Workspace & { tree: MemoryTree }): Promise<CutFile[]> {
  const files: CutFile[] = [];
  const id = (bytes: readonly Uint8Array[]) => {
    const hash = w.tree.startHash();
    for (const b of bytes) hash.update(b);
    return hash.digest() as string;
  };
  for (const [path, { bytes }] of w.tree.files)
    if (path.endsWith('.glb'))
      files.push({ path, parts: (await partsOf('glb', bytes)).map((p) => cutPart(p, id)) });
  return files;
}

/** What @gltf-transform reads: every accessor's numbers and every picture's bytes. */
async function saidBy(w: { tree: MemoryTree }, at: string) {
  const io = new NodeIO();
  const file = readGlb(bytesAt(w, at))!;
  const json = file.json as GLTF.IGLTF;
  const own = (await file.buffers(() => Promise.resolve(null)))(0)!;
  // The library reads a GLB with buffers beside it only from a disk: here it gets the parts.
  const resources: Record<string, Uint8Array<ArrayBuffer>> = { '@glb.bin': new Uint8Array(own) };
  const folder = at.slice(0, at.lastIndexOf('/') + 1);
  for (const { uri } of [...(json.buffers ?? []), ...(json.images ?? [])]) {
    if (uri === undefined) continue;
    const path = new URL(uri, `http://x/${folder}`).pathname.slice(1);
    resources[uri] = new Uint8Array(bytesAt(w, decodeURIComponent(path)));
  }
  const document = await io.readJSON({ json, resources });
  const root = document.getRoot();
  return {
    meshes: root
      .listMeshes()
      .map((m) => [m.getName(), [...m.listPrimitives()[0]!.getAttribute('POSITION')!.getArray()!]]),
    pictures: root
      .listTextures()
      .map((t) => [t.getName(), t.getMimeType(), Buffer.from(t.getImage()!).toString('base64')]),
  };
}
const errorsOf = async (w: { tree: MemoryTree }, at: string) => {
  const folder = at.slice(0, at.lastIndexOf('/') + 1);
  const report = (await validateBytes(bytesAt(w, at), {
    externalResourceFunction: (uri: string) =>
      Promise.resolve(bytesAt(w, decodeURIComponent(new URL(uri, `http://x/${folder}`).pathname.slice(1)))),
  })) as { issues: { numErrors: number; messages: { code: string; severity: number }[] } };
  // The picture is noise: that it is none is told before and after.
  return report.issues.messages.filter((m) => m.severity === 0 && !/IMAGE/.test(m.code)).map((m) => m.code);
};

let n = 0;
const applied = async (w: Workspace & { tree: MemoryTree }, plan: Awaited<ReturnType<typeof planTakeOut>>) =>
  apply(w.tree, plan, applying(`t${String(++n).padStart(4, '0')}`));

describe('what several scenes carry is found, named, and taken out', () => {
  test('a picture and a rig; the scenes say the same, are lighter, and that is undone to the byte', async () => {
    const w = workspace({
      'scenes/a_v001.glb': await glb(1),
      'scenes/a_v002.glb': await glb(2),
      'scenes/b.glb': await glb(3),
    });
    const before = Object.fromEntries(
      [...w.tree.files].map(([p, f]) => [p, Buffer.from(f.bytes).toString('base64')]),
    );
    const said = await saidBy(w, 'scenes/b.glb');
    const found = repeatsOf(await cutAll(w));
    expect(found.map((r) => [r.kind, r.name, r.apart, r.files.length, r.each])).toEqual([
      ['geometry', 'rig', true, 3, 3000 * 15 * 4],
      ['picture', 'hull planks', true, 3, 20_001],
    ]);
    const scenes = ['scenes/a_v002.glb', 'scenes/b.glb'].map(treePath);
    const first = await planTakeOut(w, { scenes, digest: found[1]!.digest });
    await applied(w, first);
    expect(Buffer.compare(bytesAt(w, 'textures/hull planks.png'), png(20_001, 5))).toBe(0);
    await applied(w, await planTakeOut(w, { scenes, digest: found[0]!.digest }));
    expect([...w.tree.files.keys()].filter((p) => !p.startsWith('.satchel')).sort()).toEqual([
      'scenes/a_v001.glb',
      'scenes/a_v002.glb',
      'scenes/b.glb',
      'scenes/rig.bin',
      'textures/hull planks.png',
    ]);
    expect(await saidBy(w, 'scenes/b.glb')).toEqual(said);
    for (const at of scenes) {
      expect(await errorsOf(w, at)).toEqual([]);
      expect(bytesAt(w, at).length).toBeLessThan(5000);
    }
    expect(Buffer.from(bytesAt(w, 'scenes/a_v001.glb')).toString('base64')).toBe(before['scenes/a_v001.glb']);
    for (let left = 2; left > 0; left--) {
      const records = await readJournals(w.tree, parseJournalLine);
      await applied(w, await planUndo(w.tree, records.sort((a, b) => (a.id < b.id ? -1 : 1))[left - 1]!));
    }
    const after = Object.fromEntries(
      [...w.tree.files]
        .filter(([p]) => !p.startsWith('.satchel'))
        .map(([p, f]) => [p, Buffer.from(f.bytes).toString('base64')]),
    );
    expect(after).toEqual(before);
  });

  test('sizes of any kind: alignment holds', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 40, max: 90 }),
        async (rig, size) => {
          const w = workspace({ 'a.glb': await glb(1, rig, size) });
          const said = await saidBy(w, 'a.glb');
          for (const part of (await partsOf('glb', bytesAt(w, 'a.glb'))).filter((p) => p.name !== 'prop'))
            await applied(
              w,
              await planTakeOut(w, { scenes: [treePath('a.glb')], digest: digestOf(w, part) }),
            );
          expect(w.tree.files.has('rig.bin')).toBe(true);
          expect(await saidBy(w, 'a.glb')).toEqual(said);
          expect(await errorsOf(w, 'a.glb')).toEqual([]);
        },
      ),
      { numRuns: 25 },
    );
  });

  test('what the same file holds already is not written twice; another of its name is not written over', async () => {
    const scenes = [treePath('a.glb')];
    const there = { 'a.glb': await glb(1), 'textures/hull planks.png': png(20_001, 5) };
    const same = workspace(there);
    const part = (await partsOf('glb', there['a.glb'])).find((p) => p.kind === 'picture')!;
    const digest = digestOf(same, part);
    expect((await planTakeOut(same, { scenes, digest })).steps).toHaveLength(1);
    const other = workspace({ ...there, 'textures/hull planks.png': utf8('mine') });
    const plan = await planTakeOut(other, { scenes, digest });
    await applied(other, plan);
    expect(bytesAt(other, 'textures/hull planks(2).png').length).toBe(20_001);
    expect(new TextDecoder().decode(bytesAt(other, 'textures/hull planks.png'))).toBe('mine');
    expect(await errorsOf(other, 'a.glb')).toEqual([]);
  });

  test('what cannot be taken out is said, and nothing is touched', async () => {
    const bytes = await glb(1);
    const w = workspace({
      'a.glb': bytes.slice(0, bytes.length - 40),
      'b.gltf': utf8('{}'),
      'c.glb': utf8('no'),
    });
    const digest = digestOf(
      w,
      (await partsOf('glb', bytes)).find((p) => p.kind === 'picture')!,
    );
    const plan = await planTakeOut(w, {
      scenes: ['a.glb', 'b.gltf', 'c.glb', 'gone.glb'].map(treePath),
      digest,
    });
    expect([plan.steps, plan.notes.map((x) => x.code)]).toEqual([[], ['stays', 'stays', 'stays', 'stays']]);
  });
});

describe('parts of text formats', () => {
  const names = async (format: 'usda' | 'obj' | 'dae', text: string) =>
    (await partsOf(format, utf8(text))).map((part) => [part.name, new TextDecoder().decode(part.bytes[0])]);
  test('OBJ, USD and COLLADA', async () => {
    expect(await names('obj', 'mtllib a.mtl\no crate\nv 0 0 0\ng lid\nv 1 1 1\n')).toEqual([
      ['crate', 'v 0 0 0\n'],
      ['lid', 'v 1 1 1\n'],
    ]);
    const rig = 'def Xform "rig"\n    {\n        string a = "}"\n    }';
    expect(
      await names('usda', `#usda 1.0\n# }\ndef "World" {\n    ${rig}\n    over "b" { }\n}\nclass "c" { }\n`),
    ).toEqual([
      ['c', 'class "c" { }'],
      ['rig', rig],
      ['b', 'over "b" { }'],
    ]);
    expect((await names('dae', '<a><geometry id="g" name="hull"><mesh/></geometry></a>'))[0]![0]).toBe(
      'hull',
    );
  });

  test('a part that changed a little is the same part', () => {
    const id = (bytes: readonly Uint8Array[]) =>
      bytes.map((b) => Buffer.from(b).toString('base64').slice(0, 60) + b.length).join();
    const whole = noise(200_000, 3);
    const changed = whole.slice();
    changed[100_000]! ^= 1;
    const cut = (bytes: Uint8Array) =>
      cutPart({ kind: 'thing', name: 'rig', bytes: [bytes], size: bytes.length }, id);
    const [found] = repeatsOf([
      { path: 'a', parts: [cut(whole)] },
      { path: 'b', parts: [cut(changed)] },
    ]);
    expect(found!.files).toEqual(['a', 'b']);
    expect(found!.each).toBeGreaterThan(150_000);
    expect(repeatsOf([{ path: 'a', parts: [cut(whole), cut(whole)] }])).toEqual([]);
  });
});
