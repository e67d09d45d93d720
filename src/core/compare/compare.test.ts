// Side by side: what came, went, was renamed, changed, in each format that is looked into.

import { describe, expect } from '@jest/globals';
import fc from 'fast-check';
import { usdText } from '../convert/crate/usdText';
import { layers } from '../convert/crate/testing/layers';
import { classicOf } from '../convert/x3d/convert';
import { startDigest } from '../files/digest';
import type { FormatId } from '../formats/format';
import { utf8 } from '../text/bytes';
import { gltfThings } from './gltfThings';
import { fromBase64, readGlb, readJson } from '../documents/gltfFile';
import { markupThings } from './markupThings';
import { mtlThings, objThings } from './objThings';
import { sceneThings } from './sceneThings';
import { sharedBytes } from './sharedBytes';
import { differences, type Difference, type Thing } from './things';
import { usdThings } from './usdThings';
import { deepTest, test } from '../files/testing/depth';

/** Differences in short: 'changed node mast: place (0, 1, 0) → (0, 2, 0)'. */
const told = (found: readonly Difference[]) =>
  found.flatMap((d) => {
    const head = `${d.what} ${d.kind} ${d.was === undefined ? '' : `${d.was} → `}${d.name}`;
    return d.changes.length === 0
      ? [head]
      : d.changes.map((c) => `${head}: ${c.fact} ${c.before ?? '–'} → ${c.after ?? '–'}`);
  });

const ship = () => ({
  asset: { version: '2.0', generator: 'a program 1.2' },
  nodes: [
    { name: 'boat', children: [1, 2] },
    { name: 'mast', translation: [0, 1, 0], mesh: 0 },
    { name: 'sail', mesh: 1 },
  ],
  meshes: [
    { name: 'pole', primitives: [{ attributes: { POSITION: 0 }, material: 0 }] },
    { name: 'cloth', primitives: [{ attributes: { POSITION: 1 }, material: 1 }] },
  ],
  materials: [
    { name: 'wood', pbrMetallicRoughness: { roughnessFactor: 0.7, baseColorTexture: { index: 0 } } },
    { name: 'canvas', pbrMetallicRoughness: { roughnessFactor: 0.9 } },
  ],
  textures: [{ source: 0 }],
  images: [{ uri: 'wood.png' }],
  accessors: [
    { bufferView: 0, componentType: 5126, type: 'VEC3', count: 1 },
    { bufferView: 1, componentType: 5126, type: 'VEC3', count: 1 },
  ],
  bufferViews: [
    { buffer: 0, byteOffset: 0, byteLength: 12 },
    { buffer: 0, byteOffset: 12, byteLength: 12 },
  ],
  buffers: [{ byteLength: 24 }],
  cameras: [{ name: 'quay', type: 'perspective', perspective: { yfov: 0.8, znear: 0.1 } }],
});
type Ship = ReturnType<typeof ship>;
const bytes = Uint8Array.from({ length: 24 }, (_, i) => i);
const things = (json: unknown, buffer = bytes) => gltfThings({ json, buffer: () => buffer }, startDigest);
const after = (change: (json: Ship & Record<string, unknown>) => void, buffer = bytes) => {
  const json = ship() as Ship & Record<string, unknown>;
  change(json);
  return told(differences(things(ship()), things(json, buffer)));
};

describe('glTF', () => {
  test('the same is the same', () => expect(after(() => undefined)).toEqual([]));
  test.each<[string, (json: Ship & Record<string, unknown>) => void, string[]]>([
    [
      'a node is moved',
      (j) => void (j.nodes[1]!.translation = [0, 1.42, 0]),
      ['changed node mast: place (0, 1, 0) → (0, 1.42, 0)'],
    ],
    ['a node is renamed', (j) => void (j.nodes[1]!.name = 'main mast'), ['renamed node mast → main mast']],
    [
      'a material is rougher',
      (j) => void (j.materials[0]!.pbrMetallicRoughness.roughnessFactor = 0.85),
      ['changed material wood: roughness 0.7 → 0.85'],
    ],
    [
      'another picture',
      (j) => void (j.images[0]!.uri = 'oak.png'),
      [
        'changed material wood: base color wood.png → oak.png',
        'changed texture texture 0: file wood.png → oak.png',
      ],
    ],
    [
      'a camera comes',
      (j) =>
        void (j.cameras as unknown[]).push({
          name: 'aloft',
          type: 'orthographic',
          orthographic: { xmag: 2 },
        }),
      ['added camera aloft'],
    ],
    [
      'a mesh goes',
      (j) => void j.meshes.pop(),
      ['changed node sail: mesh cloth → none', 'removed mesh cloth'],
    ],
    [
      'an extension is used',
      (j) => void (j.extensionsUsed = ['KHR_materials_unlit']),
      ['changed scene scene: extensions – → KHR_materials_unlit'],
    ],
  ])('%s', (_, change, expected) => expect(after(change)).toEqual(expected));

  test('a vertex that moved shows, though no number of the JSON did', () => {
    const moved = bytes.slice();
    moved[13]! ^= 1;
    expect(after(() => undefined, moved)).toEqual([
      expect.stringMatching(/^changed mesh cloth: shape \w{8} → \w{8}$/),
    ]);
  });

  test('what lies elsewhere in the buffer is the same mesh', () => {
    const far = new Uint8Array(100);
    far.set(bytes.subarray(0, 12), 40);
    far.set(bytes.subarray(12), 60);
    const json = ship();
    [json.bufferViews[0]!.byteOffset, json.bufferViews[1]!.byteOffset] = [40, 60];
    expect(differences(things(ship()), things(json, far))).toEqual([]);
  });

  test('files taken apart: GLB with its binary chunk, data URIs, and what is broken', async () => {
    const json = utf8(JSON.stringify({ ...ship(), buffers: [{ byteLength: 24 }] }).padEnd(2000));
    const glb = new Uint8Array(12 + 8 + json.length + 8 + 24);
    const view = new DataView(glb.buffer);
    for (const [at, v] of [
      [0, 0x46546c67],
      [4, 2],
      [8, glb.length],
      [12, json.length],
      [16, 0x4e4f534a],
      [20 + json.length, 24],
      [24 + json.length, 0x004e4942],
    ] as const)
      view.setUint32(at, v, true);
    glb.set(json, 20);
    glb.set(bytes, 28 + json.length);
    const file = readGlb(glb)!;
    expect((await file.buffers(async () => null))(0)).toEqual(bytes);
    const inline = readJson(utf8('{"buffers":[{"uri":"data:;base64,AAEC"},{"uri":"gone.bin"}]}'))!;
    const buffer = await inline.buffers(async () => null);
    expect([buffer(0), buffer(1), buffer(7)]).toEqual([Uint8Array.of(0, 1, 2), null, null]);
    expect([readGlb(glb.subarray(0, 15)), readGlb(glb.subarray(0, 60)), readJson(utf8('{"a":'))]).toEqual([
      null,
      null,
      null,
    ]);
  });

  test('nonsense is no error', () =>
    fc.assert(
      fc.property(fc.jsonValue(), (json) => {
        things(json);
        things({
          nodes: json,
          meshes: [json],
          accessors: json,
          materials: [json],
          animations: [json],
          images: [json],
        });
      }),
    ));
});

// RFC 4648 §10, test vectors.
test.each([
  ['', ''],
  ['Zg==', 'f'],
  ['Zm8=', 'fo'],
  ['Zm9v', 'foo'],
  ['Zm9vYg==', 'foob'],
  ['Zm9vYmE=', 'fooba'],
  ['Zm9vYmFy', 'foobar'],
])('base64 %s', (text, plain) => expect(fromBase64(text)).toEqual(utf8(plain)));

describe('USD text', () => {
  const layer = (more: { x?: string; y?: number; extra?: string; up?: string } = {}) =>
    utf8(`#usda 1.0
(
    "the quay" # a note
    upAxis = "${more.up ?? 'Y'}"
    metersPerUnit = 0.01
    subLayers = [@./base.usda@]
)

def Xform "Quay" (
    prepend references = @./kit/wall.usda@</Wall>
    kind = "assembly"
)
{
    double3 xformOp:translate = (0, ${more.y ?? 1}, 0)
    uniform token[] xformOpOrder = ["xformOp:translate"]
    # def "not" in a comment { }
    def Mesh "${more.x ?? 'Wall'}"
    {
        point3f[] points = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0), (2, 2, 2), (3, 3, 3), (4, 4, 4)]
        int[] faceVertexCounts = [4]
        string doc = """a { brace
        over lines"""
        color3f[] primvars:displayColor = [(1, 0, 0)] (
            interpolation = "constant"
        )
    }
    variantSet "detail" = {
        "high" {
            def Cube "Post" {}
        }
        "low" (kind = "x") {
        }
    }${more.extra ?? ''}
}
`);
  const same = usdThings(layer(), startDigest);
  const now = (more: Parameters<typeof layer>[0]) =>
    told(differences(same, usdThings(layer(more), startDigest)));

  test('prims, properties, variants and the layer itself', () =>
    expect(same.map((t) => `${t.kind} ${t.name}`)).toEqual([
      'scene layer',
      'node /Quay',
      'mesh /Quay/Wall',
      'node /Quay{detail=high}',
      'mesh /Quay{detail=high}/Post',
      'node /Quay{detail=low}',
    ]));
  test('facts', () => {
    const facts = (name: string) => Object.fromEntries(same.find((t) => t.name === name)!.facts);
    expect(facts('layer')).toEqual({
      comment: '"the quay"',
      upAxis: '"Y"',
      metersPerUnit: '0.01',
      subLayers: '[@./base.usda@]',
    });
    expect(facts('/Quay')).toMatchObject({
      'prepend references': '@./kit/wall.usda@</Wall>',
      kind: '"assembly"',
      'xformOp:translate': '(0, 1, 0)',
    });
    expect(facts('/Quay/Wall')).toMatchObject({
      'primvars:displayColor interpolation': '"constant"',
      points: expect.stringMatching(/^\d+ values, \w{8}$/),
    });
  });
  test.each([
    [{ y: 2 }, ['changed node /Quay: xformOp:translate (0, 1, 0) → (0, 2, 0)']],
    [{ x: 'OldWall' }, ['renamed mesh /Quay/Wall → /Quay/OldWall']],
    [{ extra: '\n    def Camera "Eye" { float focalLength = 35 }' }, ['added camera /Quay/Eye']],
    [{ up: 'Z' }, ['changed scene layer: upAxis "Y" → "Z"']],
  ])('%j', (more, expected) => expect(now(more)).toEqual(expected));

  test('what is cut off anywhere ends all the same', () => {
    const whole = layer();
    for (let n = 0; n < whole.length; n += 3) usdThings(whole.subarray(0, n), startDigest);
  });
});

test('USD crate and X3D in its classic form hold the same things as their other form', async () => {
  const of = async (format: FormatId, bytes: Uint8Array) =>
    sceneThings({ format, bytes, beside: () => Promise.resolve(null) }, startDigest);
  const crate = (await of('usdc', layers.arcs!))!;
  const text = await usdText(layers.arcs!);
  expect(crate).toEqual(await of('usda', text as Uint8Array));
  expect(crate.map((t) => `${t.kind} ${t.name}`)).toContain('node /Boat');
  const xml = utf8(
    `<X3D version='3.3' profile='Core'><Scene><Viewpoint DEF='Eye' position='0 1 2'/></Scene></X3D>`,
  );
  const classic = classicOf(xml);
  if ('refused' in classic) throw new Error(classic.refused);
  const things = (await of('x3dv', classic.content))!;
  expect(differences((await of('x3d', xml))!, things)).toEqual([]);
  expect(things.map((t) => t.name)).toContain('Eye');
  expect(await of('x3dv', utf8('#VRML V2.0 utf8\nGroup { }\n'))).toBeNull();
});

describe('OBJ and MTL', () => {
  const obj = (y: number, group = 'hull') =>
    utf8(
      `mtllib boat.mtl\nv 0 0 0\nv 1 ${y} 0\no ${group}\nusemtl wood\nv 1 1 1\nf 1 2 3\ng sail\nf 1 2 3\n`,
    );
  test('groups with their shape', () => {
    const found = differences(objThings(obj(0), startDigest), objThings(obj(2), startDigest));
    expect(told(found)).toEqual([expect.stringMatching(/^changed mesh \(before the first name\): shape/)]);
    expect(told(differences(objThings(obj(0), startDigest), objThings(obj(0, 'bow'), startDigest)))).toEqual([
      'renamed mesh hull → bow',
    ]);
  });
  test('materials', () =>
    expect(
      told(
        differences(
          mtlThings(utf8('newmtl wood\r\nKd 1 0 0\r\nmap_Kd a.png\r\n'), startDigest),
          mtlThings(utf8('# x\nnewmtl wood\nKd 1 0.5 0\nnewmtl iron\nKd 0 0 0\n'), startDigest),
        ),
      ),
    ).toEqual([
      'added material iron',
      'changed material wood: Kd 1 0 0 → 1 0.5 0',
      'changed material wood: map_Kd a.png → –',
    ]));
});

describe('XML', () => {
  const dae = (x: number, id = 'mast') =>
    utf8(`<?xml version="1.0"?><COLLADA><asset><unit name="meter" meter="1"/><up_axis>Y_UP</up_axis></asset>
<library_visual_scenes><visual_scene id="scene"><node id="${id}" name="${id}"><translate sid="t">${x} 0 0</translate>
<instance_geometry url="#pole"/></node></visual_scene></library_visual_scenes>
<library_images><image id="wood"><init_from>wood.png</init_from></image></library_images></COLLADA>`);
  const now = (a: Uint8Array, b: Uint8Array) =>
    told(differences(markupThings(a, startDigest, false), markupThings(b, startDigest, false)));
  test('COLLADA', () => {
    expect(now(dae(0), dae(4))).toEqual(['changed node mast: translate 0 0 0 → 4 0 0']);
    expect(now(dae(0), dae(0, 'pole'))).toEqual(['renamed node mast → pole']);
    expect(markupThings(dae(0), startDigest, false).map((t: Thing) => `${t.kind} ${t.name}`)).toContain(
      'texture wood',
    );
  });
  test('X3D', () => {
    const x3d = (c: string, more = '') =>
      utf8(
        `<X3D><Scene><Transform DEF="Buoy" translation="0 0 0"><Shape><Appearance><Material diffuseColor="${c}"/></Appearance></Shape></Transform>${more}</Scene></X3D>`,
      );
    expect(now(x3d('1 0 0'), x3d('1 1 0', '<Viewpoint DEF="quay" position="0 0 9"/>'))).toEqual([
      'changed material Buoy/Material: diffuseColor 1 0 0 → 1 1 0'.replace('Buoy/Material', 'Material'),
      'added camera quay',
    ]);
  });
  test('MaterialX', () => {
    const mtlx = (v: string) =>
      utf8(
        `<materialx version="1.39"><standard_surface name="oak" type="surfaceshader"><input name="base" type="float" value="${v}"/></standard_surface></materialx>`,
      );
    const things = (v: string) => markupThings(mtlx(v), startDigest, true);
    expect(told(differences(things('0.8'), things('0.9')))).toEqual([
      'changed material oak: input value 0.8 → 0.9',
    ]);
  });
});

test('shared bytes: all of what was moved, none of what is new', () => {
  const noise = (seed: number) => {
    let x = seed;
    return Uint8Array.from({ length: 50_000 }, () => {
      x ^= x << 13;
      x ^= x >>> 17;
      return (x ^= x << 5);
    });
  };
  const [a, b] = [noise(1), noise(2)];
  expect(sharedBytes(a, a, startDigest)).toBe(a.length);
  expect(sharedBytes(a, b, startDigest)).toBe(0);
  const both = new Uint8Array(100_000);
  both.set(b);
  both.set(a, 50_000);
  expect(sharedBytes(a, both, startDigest)).toBeGreaterThan(46_000);
});

deepTest('what is the same of two files, wherever the change is', () => {
  const noise = (seed: number, size: number) => {
    let s = seed;
    return Uint8Array.from({ length: size }, () => (s = (Math.imul(s, 1664525) + 1013904223) | 0) >>> 24);
  };
  const whole = noise(1, 300_000);
  fc.assert(
    fc.property(fc.nat(300_000), fc.nat(2000), fc.nat(2000), (at, cut, put) => {
      const from = Math.min(at, whole.length);
      const to = Math.min(whole.length, from + cut);
      const changed = Uint8Array.from([...whole.subarray(0, from), ...noise(7, put), ...whole.subarray(to)]);
      const shared = sharedBytes(whole, changed, startDigest);
      // What stayed is counted; of what is new a byte at each end may be as it was by chance, and a few more.
      expect(shared).toBeGreaterThanOrEqual(whole.length - (to - from));
      expect(shared).toBeLessThanOrEqual(whole.length - (to - from) + 16);
    }),
    { numRuns: 60 },
  );
  // A large piece that moved is found in the whole of the other.
  const moved = Uint8Array.from([...whole.subarray(150_000), ...whole.subarray(0, 150_000)]);
  expect(sharedBytes(whole, moved, startDigest)).toBeGreaterThan(250_000);
});
