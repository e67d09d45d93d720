// Clashes of names, extensions that point to things, and what cannot come: glTF carried into glTF, written here by hand so that every number is seen.
// Source: glTF 2.0 Specification; texts of the extensions named in the test (from memory of the Khronos registry).

import { afterAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { treePath } from '@/core/files/treePath';
import type { NodeClashWay } from '@/core/nodes/clashes';
import { meant, meantOne, nodesIn, planCarryNodes } from '@/core/plans/planCarryNodes';
import { applyPlan } from './changing';
import { sourceOf } from './collect';
import { plainFolder } from './open';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-names-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
let folders = 0;

interface Carried {
  into: Record<string, never>;
  words?: string[];
  under?: string;
  all?: NodeClashWay;
  ways?: Record<string, NodeClashWay>;
}

// eslint-disable-next-line @typescript-eslint/no-explicit-any
type Loose = any;

/** Carries from one document into another; returns the new one, parsed and as text. */
async function carry(
  from: object,
  into: object | string,
  how: Partial<Omit<Carried, 'into'>> & { beside?: Record<string, string> } = {},
): Promise<Awaited<ReturnType<typeof planCarryNodes>> & { json: Loose; text: string; folder: string }> {
  const at = path.join(base, String(++folders));
  const [a, b] = [path.join(at, 'a'), path.join(at, 'b')];
  fs.mkdirSync(a, { recursive: true });
  fs.mkdirSync(b);
  fs.writeFileSync(path.join(a, 'a.gltf'), JSON.stringify({ asset: { version: '2.0' }, ...from }));
  for (const [name, text] of Object.entries(how.beside ?? {})) fs.writeFileSync(path.join(a, name), text);
  const written =
    typeof into === 'string' ? into : JSON.stringify({ asset: { version: '2.0' }, ...into }, null, 2);
  fs.writeFileSync(path.join(b, 'b.gltf'), written);
  const source = sourceOf(plainFolder(a));
  const target = plainFolder(b);
  const nodes = await nodesIn(source, path.join(a, 'a.gltf'));
  const there = await nodesIn(source, path.join(b, 'b.gltf'));
  const result = await planCarryNodes(
    { source, target },
    {
      from: path.join(a, 'a.gltf'),
      nodes: meant(nodes, how.words ?? ['lamp'], 'a.gltf').map((n) => n.id),
      into: treePath('b.gltf'),
      under: meantOne(there, how.under, 'b.gltf'),
      place: 'world',
      clash: { all: how.all, ways: new Map(Object.entries(how.ways ?? {})) },
      pictures: 'as-there',
      buffer: 'own',
    },
  );
  const isBlocked = result.plan.notes.some((n) => n.level === 'blocker');
  if (!isBlocked && result.plan.steps.length > 0) await applyPlan(b, result.plan);
  const text = fs.readFileSync(path.join(b, 'b.gltf'), 'utf8');
  return { ...result, text, json: JSON.parse(text), folder: b };
}

const lamp = {
  scenes: [{ nodes: [0] }],
  nodes: [{ name: 'lamp', mesh: 0 }],
  meshes: [{ name: 'glass', primitives: [{ attributes: {}, material: 0 }] }],
  materials: [{ name: 'brass', pbrMetallicRoughness: { metallicFactor: 0.10000000000000001 } }],
};
const harbour = {
  scene: 0,
  scenes: [{ nodes: [0] }],
  nodes: [{ name: 'quay', children: [1] }, { name: 'lamp' }],
  materials: [{ name: 'brass', pbrMetallicRoughness: { metallicFactor: 0.9 } }],
};

describe('clashes', () => {
  test('a new name for each, and numbers stay as they are written', async () => {
    const { json, text, clashes } = await carry(lamp, harbour, { under: 'quay' });
    expect(clashes.map((c) => [c.kind, c.name, c.isEqual, c.way, c.renamed])).toEqual([
      ['node', 'lamp', false, 'rename', 'lamp_2'],
      ['material', 'brass', false, 'rename', 'brass_2'],
    ]);
    expect(json.nodes.map((n: Loose) => n.name)).toEqual(['quay', 'lamp', 'lamp_2']);
    expect(json.nodes[0].children).toEqual([1, 2]);
    expect(json.materials[1].name).toBe('brass_2');
    expect(json.meshes[0].primitives[0].material).toBe(1);
    expect(text).toContain('"metallicFactor":0.1');
  });

  test('the same material is used, for all only where it is the same, singly always', async () => {
    const same = { ...harbour, materials: lamp.materials };
    const usual = await carry(lamp, same);
    expect(usual.clashes.find((c) => c.kind === 'material')).toMatchObject({ isEqual: true, way: 'target' });
    expect(usual.json.materials).toHaveLength(1);
    expect(usual.json.meshes[0].primitives[0].material).toBe(0);
    const all = await carry(lamp, harbour, { all: 'target' });
    expect(all.clashes.find((c) => c.kind === 'material')?.way).toBe('rename');
    const single = await carry(lamp, harbour, { ways: { 'materials 0': 'target' } });
    expect(single.json.materials).toEqual(harbour.materials);
    expect(single.json.meshes[0].primitives[0].material).toBe(0);
  });

  test('in its place: who used the old one uses the new; what is replaced leaves its parent', async () => {
    const { json } = await carry(lamp, harbour, { all: 'replace' });
    expect(json.materials).toEqual(lamp.materials);
    expect(json.nodes).toEqual([{ name: 'quay' }, { name: 'lamp', mesh: 0 }]);
    expect(json.scenes[0].nodes).toEqual([0, 1]);
  });

  test('what is replaced cannot be what it is put under', async () => {
    const { plan } = await carry(lamp, harbour, { all: 'replace', under: 'lamp' });
    expect(plan.notes.filter((n) => n.level === 'blocker')).toHaveLength(1);
    expect(plan.steps).toEqual([]);
  });

  test('left out: the node, or the material alone', async () => {
    const none = await carry(lamp, harbour, { all: 'skip' });
    expect(none.plan.steps).toEqual([]);
    const bare = await carry(lamp, harbour, { ways: { 'materials 0': 'skip' } });
    expect(bare.json.materials).toEqual(harbour.materials);
    expect(bare.json.meshes[0].primitives).toEqual([{ attributes: {} }]);
  });

  test('joints of the target serve: the rig is used, what hangs on it comes', async () => {
    const rig = {
      nodes: [
        { name: 'body', mesh: 0, skin: 0 },
        { name: 'hip', children: [2] },
        { name: 'hand', children: [3] },
        { name: 'ring' },
      ],
      meshes: [{ primitives: [{ attributes: {} }] }],
      skins: [{ joints: [1, 2] }],
      scenes: [{ nodes: [0, 1] }],
    };
    const there = { nodes: [{ name: 'hip', children: [1] }, { name: 'hand' }], scenes: [{ nodes: [0] }] };
    const { json } = await carry(rig, there, {
      words: ['body', 'hip'],
      ways: { 'nodes 1': 'target', 'nodes 2': 'target' },
    });
    expect(json.nodes.map((n: Loose) => [n.name, n.children])).toEqual([
      ['hip', [1]],
      ['hand', [3]],
      ['body', undefined],
      ['ring', undefined],
    ]);
    expect(json.skins).toEqual([{ joints: [0, 1] }]);
    expect(json.scenes[0].nodes).toEqual([0, 2]);
  });
});

describe('extensions', () => {
  test('numbers in them lead to the same things', async () => {
    const from = {
      extensionsUsed: [
        'KHR_lights_punctual',
        'KHR_materials_variants',
        'EXT_texture_webp',
        'KHR_animation_pointer',
        'KHR_materials_clearcoat',
      ],
      extensionsRequired: ['EXT_texture_webp'],
      extensions: {
        KHR_lights_punctual: { lights: [{ type: 'point' }, { type: 'spot', name: 'beam' }] },
        KHR_materials_variants: { variants: [{ name: 'wet' }, { name: 'dry' }] },
      },
      scenes: [{ nodes: [0] }],
      nodes: [{ name: 'lamp', mesh: 1, extensions: { KHR_lights_punctual: { light: 1 } } }],
      meshes: [
        { name: 'unused' },
        {
          primitives: [
            {
              attributes: {},
              material: 1,
              extensions: { KHR_materials_variants: { mappings: [{ material: 2, variants: [1] }] } },
            },
          ],
        },
      ],
      materials: [
        {},
        {
          name: 'glass',
          extensions: { KHR_materials_clearcoat: { clearcoatTexture: { index: 1, texCoord: 1 } } },
        },
        { name: 'wet glass' },
      ],
      textures: [{}, { sampler: 0, extensions: { EXT_texture_webp: { source: 1 } } }],
      samplers: [{ wrapS: 33071 }],
      images: [{ uri: 'no.png' }, { uri: 'glass.webp' }],
      animations: [
        {
          name: 'flicker',
          channels: [
            {
              sampler: 0,
              target: {
                path: 'pointer',
                extensions: { KHR_animation_pointer: { pointer: '/materials/1/emissiveFactor' } },
              },
            },
          ],
          samplers: [{ input: 0, output: 1 }],
        },
      ],
      accessors: [
        { count: 1, type: 'SCALAR', componentType: 5126 },
        { count: 1, type: 'VEC3', componentType: 5126 },
      ],
    };
    const into = {
      extensionsUsed: ['KHR_lights_punctual'],
      extensions: { KHR_lights_punctual: { lights: [{ type: 'directional' }] } },
      materials: [{ name: 'stone' }],
    };
    const { json, folder } = await carry(from, into, { beside: { 'glass.webp': 'RIFF0000WEBPVP8 ' } });
    expect(json.extensions.KHR_lights_punctual.lights).toEqual([
      { type: 'directional' },
      { type: 'spot', name: 'beam' },
    ]);
    expect(json.nodes[0].extensions.KHR_lights_punctual.light).toBe(1);
    expect(json.extensions.KHR_materials_variants.variants).toEqual([{ name: 'dry' }]);
    const [primitive] = json.meshes[0].primitives;
    expect(primitive.extensions.KHR_materials_variants.mappings).toEqual([{ material: 2, variants: [0] }]);
    expect(json.materials.map((m: Loose) => m.name)).toEqual(['stone', 'glass', 'wet glass']);
    expect(json.materials[1].extensions.KHR_materials_clearcoat.clearcoatTexture).toEqual({
      index: 0,
      texCoord: 1,
    });
    expect(json.textures).toEqual([{ sampler: 0, extensions: { EXT_texture_webp: { source: 0 } } }]);
    expect(json.animations[0].channels[0].target.extensions.KHR_animation_pointer.pointer).toBe(
      '/materials/1/emissiveFactor',
    );
    expect(fs.readFileSync(path.join(folder, json.images[0].uri), 'utf8')).toContain('WEBP');
    expect(json.extensionsRequired).toEqual(['EXT_texture_webp']);
    expect([...json.extensionsUsed].sort()).toEqual([...from.extensionsUsed].sort());
    expect(json.scenes).toEqual([{ nodes: [0] }]);
  });

  test('compressed views bring their packed bytes, and a buffer without any to unpack to', async () => {
    const packed = Buffer.from('....packed bytes of geometry').toString('base64');
    const meshopt = {
      buffer: 0,
      byteOffset: 4,
      byteLength: 24,
      byteStride: 12,
      count: 3,
      mode: 'ATTRIBUTES',
    };
    const from = {
      extensionsUsed: ['EXT_meshopt_compression'],
      nodes: [{ name: 'lamp', mesh: 0 }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
      accessors: [{ bufferView: 1, byteOffset: 0, componentType: 5126, type: 'VEC3', count: 3 }],
      bufferViews: [
        { buffer: 0, byteLength: 4 },
        {
          buffer: 1,
          byteOffset: 8,
          byteLength: 36,
          byteStride: 12,
          extensions: { EXT_meshopt_compression: meshopt },
        },
      ],
      buffers: [
        { uri: `data:application/octet-stream;base64,${packed}`, byteLength: 28 },
        { byteLength: 44, extensions: { EXT_meshopt_compression: { fallback: true } } },
      ],
    };
    const { json, folder } = await carry(from, {});
    const [view] = json.bufferViews;
    const said = view.extensions.EXT_meshopt_compression;
    expect([view.buffer, view.byteOffset, said.buffer]).toEqual([1, 0, 0]);
    const bytes = fs.readFileSync(path.join(folder, json.buffers[0].uri), 'latin1');
    expect(bytes.slice(said.byteOffset, said.byteOffset + 24)).toBe('packed bytes of geometry');
    expect(json.buffers[1]).toEqual({
      byteLength: 36,
      extensions: { EXT_meshopt_compression: { fallback: true } },
    });
    expect(json.accessors[0].bufferView).toBe(0);
  });

  test('of one that is not known nothing is guessed: it is left out, and said; required, nothing is carried', async () => {
    const from = {
      extensionsUsed: ['ACME_rope'],
      nodes: [{ name: 'lamp', extensions: { ACME_rope: { to: 3 }, ACME_word: { is: 'kept' } } }],
    };
    const { json, plan } = await carry(from, {});
    expect(json.nodes).toEqual([{ name: 'lamp', extensions: { ACME_word: { is: 'kept' } } }]);
    expect(plan.notes.filter((n) => n.level === 'warning').map((n) => n.code)).toEqual(['strange-extension']);
    const required = await carry({ ...from, extensionsRequired: ['ACME_rope'] }, {});
    expect(required.plan.notes.some((n) => n.level === 'blocker')).toBe(true);
    expect(required.json.nodes).toBeUndefined();
  });

  test('the target stays as it is written but for its lists', async () => {
    const into = `{ "asset" : {"version":"2.0"},\t"nodes" : [ {"name":"quay" , "extras":{"n":1.50}} ],\r\n "x" : 1e2 }\n`;
    const { text } = await carry({ nodes: [{ name: 'lamp' }] }, into);
    const added = text.replace(', {"name":"lamp"}', '').replace(/"scenes":\[[^\]]*\]\}\],? ?/, '');
    expect(text).toContain('"extras":{"n":1.50}');
    expect(text).toContain('\t"nodes" : [ {"name":"quay"');
    expect(added.length).toBeGreaterThanOrEqual(into.length - 1);
    expect(text.endsWith('\r\n "x" : 1e2 }\n')).toBe(true);
  });
});

test('a word that means nothing says what there is', async () => {
  await expect(carry(lamp, harbour, { words: ['lanp'] })).rejects.toThrow('lamp');
});
