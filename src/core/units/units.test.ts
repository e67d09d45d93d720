// Lengths against NIST SP 811, scenes' units against their formats' specifications, sizes against hand-made scenes, and the reference
// scenes read back by our own readers and by the glTF validator (Khronos).

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { unzipSync } from 'fflate';
import { validateBytes } from 'gltf-validator';
import { formatOf, readReferences } from '../formats/formats';
import type { FormatId } from '../formats/format';
import { Box } from './box';
import { quaternion, times, translation, turning } from './matrix';
import { yardstickFormats, yardstickName, yardstickScene } from './yardstickScene';
import { measurable, sceneBox } from './sceneBox';
import { sceneUnits, sceneUnitText } from './sceneUnits';
import { confusionOf, suspicions, type Measured } from './suspicion';
import {
  convert,
  lengthText,
  metresIn,
  exactLengthText,
  gridTrouble,
  parseLength,
  unitIds,
  unitOfMetres,
  usualUnits,
  type WorkspaceUnits,
} from './units';

const bytes = (s: string) => new TextEncoder().encode(s);

describe('lengths', () => {
  test.each([
    ['in', 'mm', 25.4],
    ['ft', 'm', 0.3048],
    ['yd', 'm', 0.9144],
    ['mi', 'm', 1609.344],
    ['mi', 'ft', 5280],
    ['ft', 'in', 12],
    ['yd', 'ft', 3],
    ['m', 'cm', 100],
    ['km', 'mm', 1e6],
  ] as const)('NIST SP 811: 1 %s is %s %d', (from, to, value) => {
    expect(convert(1, from, to)).toBe(value);
  });
  test('there and back is the same to the last digit that counts (property)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -1e6, max: 1e6 }),
        fc.constantFrom(...unitIds),
        fc.constantFrom(...unitIds),
        (v, a, b) => {
          expect(Math.abs(convert(convert(v, a, b), b, a) - v)).toBeLessThanOrEqual(Math.abs(v) * 4e-16);
        },
      ),
    );
  });
  test('whole inches are a whole number of 127ths of 5 mm (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e9 }), (v) => expect(convert(v * 5, 'in', 'mm')).toBe(v * 127)),
    );
  });
  test.each([
    [3.625, 'in', 32, '3 5/8 in'],
    [63.5, 'in', 2, '63 1/2 in'],
    [5.25, 'ft', 8, '5 ft 3 in'],
    [5, 'ft', 8, '5 ft'],
    [0.03125, 'in', 32, '1/32 in'],
    [0.01, 'in', 32, '0 in'],
    [-1.5, 'in', 4, '−1 1/2 in'],
    [5.999999, 'ft', 32, '6 ft'],
    [2.5, 'm', 8, '2.5 m'],
  ] as const)('%d %s in 1/%d is %s', (v, unit, parts, text) => {
    expect(lengthText(v, unit, { form: 'fraction', parts })).toBe(text);
  });
  test('decimals', () => {
    expect([
      lengthText(1.23456, 'm', { form: 'decimal', digits: 3 }),
      lengthText(12000, 'mm', { form: 'decimal', digits: 1 }),
      lengthText(2, 'cm', { form: 'decimal', digits: 3 }),
    ]).toEqual(['1.235 m', '12,000 mm', '2 cm']);
  });
  test.each([
    ['12', 'cm', 12],
    ['3 5/8"', 'in', 3.625],
    ['5\' 3 1/2"', 'in', 63.5],
    ['1/32 in', 'in', 0.03125],
    ['1.5 m', 'cm', 150],
    ['1 ft', 'mm', 304.8],
    ['-2', 'm', -2],
    ['2,5', 'm', 2.5],
    ['60,000 mm', 'mm', 60_000],
    ['1,250,000 mm', 'mm', 1_250_000],
    ['12,000.5 mm', 'mm', 12_000.5],
    ['1.250.000 mm', 'mm', 1_250_000],
    ['1.250,5 mm', 'mm', 1250.5],
    ['60 000 mm', 'mm', 60_000],
    ['60\u202f000,25 mm', 'mm', 60_000.25],
    ['1.250 m', 'm', 1.25],
    ['0,250 m', 'm', 0.25],
    ['.5', 'm', 0.5],
    ['2 mi', 'yd', 3520],
    ['3 metres 5 centimetres', 'm', 3.05],
    ['½', 'in', 0.5],
    ['3½"', 'in', 3.5],
    ['3 ⅝ in', 'in', 3.625],
    ["5' 3½", 'ft', 5 + 3.5 / 12],
    ['7⁄8 in', 'in', 0.875],
    ['1 250/1000 in', 'in', 1.25],
    ['1,000 1/2 in', 'in', 1000.5],
  ] as const)('%s typed in %s is %d', (text, unit, value) => {
    expect(parseLength(text, unit)).toBeCloseTo(value, 12);
  });
  test.each(['', 'wide', '1/0 in', '3 -2', '5 furlongs', '60 12', '60 12 m', '5 m 3', '1,2,3', '½/2'])(
    '%j is no length',
    (text) => {
      expect(parseLength(text, 'm')).toBeNull();
    },
  );
  test('what is shown in fractions reads back to within half the last part (property)', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1e5, noNaN: true }),
        fc.constantFrom(1, 2, 4, 8, 16, 32),
        fc.constantFrom('in', 'ft'),
        (v, parts, unit) => {
          const back = parseLength(lengthText(v, unit, { form: 'fraction', parts }), unit)!;
          expect(Math.abs(convert(back - v, unit, 'in'))).toBeLessThanOrEqual(0.5 / parts + 1e-6);
        },
      ),
    );
  });
});

describe('lengths in a field', () => {
  test('what a field shows reads back as what is kept (property)', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.double({ min: 1e-7, max: 1e9, noNaN: true }), fc.integer({ min: 1, max: 1e9 })),
        fc.constantFrom(...unitIds),
        fc.oneof(
          fc.record({ form: fc.constant('decimal' as const), digits: fc.integer({ min: 0, max: 6 }) }),
          fc.record({ form: fc.constant('fraction' as const), parts: fc.constantFrom(2, 8, 32) }),
        ),
        (v, unit, display) => {
          const back = parseLength(exactLengthText(v, unit, display), unit);
          expect(back === null ? back : Math.abs(back - v) / v).toBeLessThanOrEqual(1e-9);
        },
      ),
    );
  });
  test('short where that is exact, whole where it is not', () =>
    expect([
      exactLengthText(60_000, 'mm', { form: 'decimal', digits: 0 }),
      exactLengthText(0.25, 'cm', { form: 'decimal', digits: 0 }),
      exactLengthText(3.625, 'in', { form: 'fraction', parts: 8 }),
    ]).toEqual(['60,000 mm', '0.25 cm', '3 5/8 in']));
  test('a grid that ends before its first line is none', () =>
    expect(
      [
        { spacing: 1, heavyEvery: 10, extent: 50 },
        { spacing: 1, heavyEvery: 10, extent: 1 },
        { spacing: 2, heavyEvery: 10, extent: 1 },
        { spacing: 0, heavyEvery: 10, extent: 1 },
      ].map((g) => gridTrouble(g) === null),
    ).toEqual([true, true, false, false]));
});

describe('what scenes declare', () => {
  test.each([
    ['<COLLADA><asset><unit meter="1" name="centimeter"/></asset></COLLADA>', 'dae', 'centimeter'],
    ['<COLLADA><asset><unit meter="0.0254" name="Inches"/></asset></COLLADA>', 'dae', undefined],
    ['<COLLADA><asset><unit meter="0.01" name="meter"/></asset></COLLADA>', 'dae', 'meter'],
    ['<COLLADA><asset><unit meter="0.3" name="cubit"/></asset></COLLADA>', 'dae', undefined],
    ['<X3D><head><unit category="length" name="cm" conversionFactor="1"/></head></X3D>', 'x3d', 'cm'],
  ] as const)('%s names its unit rightly, or not', (text, format, misnamed) => {
    expect(sceneUnits(format, bytes(text))?.misnamed).toBe(misnamed);
  });
  test.each<[FormatId, string, number | null, string | null, string]>([
    ['gltf', '{}', 1, 'Y', 'definition'],
    [
      'usda',
      '#usda 1.0\n(\n    doc = "metersPerUnit = 5 and upAxis"\n    # metersPerUnit = 3\n    metersPerUnit = 0.0254\n    upAxis = "Z"\n)\ndef "A" ( customData = { double metersPerUnit = 9 } ) {}\n',
      0.0254,
      'Z',
      'file',
    ],
    ['usda', '#usda 1.0\ndef "A" (\n    metersPerUnit = 9\n) {}\n', 0.01, 'Y', 'default'],
    [
      'dae',
      '<COLLADA><asset><unit name="inch" meter="0.0254"/><up_axis>Z_UP</up_axis></asset><library_nodes><node><asset><unit meter="9"/></asset></node></library_nodes></COLLADA>',
      0.0254,
      'Z',
      'file',
    ],
    ['dae', '<COLLADA><asset/></COLLADA>', 1, 'Y', 'default'],
    [
      'x3d',
      '<X3D><head><unit category="length" name="cm" conversionFactor="0.01"/></head></X3D>',
      0.01,
      'Y',
      'file',
    ],
    ['x3d', '<X3D><Scene/></X3D>', 1, 'Y', 'definition'],
    ['x3dv', '#VRML V2.0 utf8\n', 1, 'Y', 'definition'],
    ['3mf', '<model unit="inch"/>', 0.0254, 'Z', 'file'],
    ['3mf', '<model/>', 0.001, 'Z', 'default'],
    ['obj', 'v 1 2 3\n', null, null, 'nobody'],
  ])('%s %j', (format, text, metres, up, by) => {
    expect(sceneUnits(format, bytes(text))).toEqual({ metres, upAxis: up, by });
  });
  test('formats without lengths have none', () =>
    expect([sceneUnits('mtl', bytes('')), sceneUnits('otio', bytes(''))]).toEqual([null, null]));
  test('units in words', () =>
    expect([
      sceneUnitText(0.01),
      sceneUnitText(null),
      sceneUnitText(0.05),
      unitOfMetres(0.3048000001),
    ]).toEqual(['centimetres', 'no unit', '0.05 m', 'ft']));
});

describe('how large scenes are', () => {
  const gltf = JSON.stringify({
    scenes: [{ nodes: [0] }],
    nodes: [
      { translation: [10, 0, 0], scale: [2, 2, 2], children: [1] },
      { mesh: 0, rotation: [0, 0, Math.SQRT1_2, Math.SQRT1_2] },
      { mesh: 0, translation: [999, 0, 0] },
    ],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    accessors: [{ min: [0, 0, 0], max: [3, 1, 1] }],
  });
  const triples = (text: string) => text.trim().split(/\s+/).map(Number);
  test.each<[FormatId, string | Uint8Array, string, string]>([
    ['gltf', gltf, '8 0 0', '10 6 2'], // turned by 90° about Z: x → y; then doubled, then moved; a node outside the scene counts nothing
    ['obj', '# v 9 9 9\nv 1 2 3\r\n  v -1 0 0 1\nvn 5 5 5\nvt 7 7\n', '-1 0 0', '1 2 3'],
    [
      'ply',
      'ply\nformat ascii 1.0\nelement vertex 2\nproperty uchar red\nproperty float x\nproperty float y\nproperty float z\nelement face 0\nend_header\n9 1 2 3\n9 -1 0 5\n',
      '-1 0 3',
      '1 2 5',
    ],
    [
      'usda',
      '#usda 1.0\ndef Xform "A"\n{\n    double3 xformOp:translate = (0, 5, 0)\n    float xformOp:rotateZ = 90\n    uniform token[] xformOpOrder = ["xformOp:translate", "xformOp:rotateZ"]\n    def Mesh "M"\n    {\n        point3f[] points = [(0, 0, 0), (2, 1, 0)] # {\n        string doc = "{ points = [(99, 99, 99)]"\n    }\n}\n',
      '-1 5 0',
      '0 7 0',
    ],
    [
      'dae',
      '<COLLADA><library_geometries><geometry id="g"><mesh><source id="p"><float_array>0 0 0 1 2 3</float_array></source><vertices><input semantic="POSITION" source="#p"/></vertices></mesh></geometry></library_geometries><library_visual_scenes><visual_scene id="v"><node><translate>1 0 0</translate><node><matrix>2 0 0 0 0 2 0 0 0 0 2 0 0 0 0 1</matrix><instance_geometry url="#g"/></node></node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#v"/></scene></COLLADA>',
      '1 0 0',
      '3 4 6',
    ],
    [
      '3mf',
      '<model><resources><object id="1"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="2" z="3"/></vertices></mesh></object><object id="2"><components><component objectid="1" transform="2 0 0 0 2 0 0 0 2 0 0 0"/></components></object></resources><build><item objectid="2" transform="1 0 0 0 1 0 0 0 1 10 0 0"/></build></model>',
      '10 0 0',
      '12 4 6',
    ],
  ])('%s', (format, content, min, max) => {
    const box = sceneBox(format, typeof content === 'string' ? bytes(content) : content)!;
    for (const i of [0, 1, 2]) {
      expect(box.min[i]).toBeCloseTo(triples(min)[i]!, 9);
      expect(box.max[i]).toBeCloseTo(triples(max)[i]!, 9);
    }
  });
  test('binary PLY, either byte order', () => {
    for (const little of [true, false]) {
      const head = bytes(
        `ply\nformat binary_${little ? 'little' : 'big'}_endian 1.0\nelement vertex 2\nproperty uchar q\nproperty float x\nproperty double y\nproperty float z\nend_header\n`,
      );
      const body = new DataView(new ArrayBuffer(34));
      for (const [n, [x, y, z]] of [
        [1, 2, 3],
        [-4, 0, 8],
      ].entries()) {
        body.setFloat32(n * 17 + 1, x!, little);
        body.setFloat64(n * 17 + 5, y!, little);
        body.setFloat32(n * 17 + 13, z!, little);
      }
      expect(sceneBox('ply', new Uint8Array([...head, ...new Uint8Array(body.buffer)]))?.size()).toEqual([
        5, 2, 5,
      ]);
    }
  });
  test('PLY whose points do not come first', () => {
    const text =
      'ply\nformat ascii 1.0\ncomment made by hand\nelement camera 1\nproperty float fov\nelement vertex 2\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n45\n0 0 0\n1 2 3\n2 0 1\n';
    expect(sceneBox('ply', bytes(text))?.size()).toEqual([1, 2, 3]);
    const head = bytes(
      'ply\nformat binary_little_endian 1.0\nelement camera 1\nproperty float fov\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n',
    );
    const body = new Uint8Array(Float32Array.of(45, 7, 8, 9).buffer);
    expect(sceneBox('ply', new Uint8Array([...head, ...body]))?.min).toEqual([7, 8, 9]);
  });
  test('bad input is not measured', () => {
    for (const f of measurable) expect(sceneBox(f, bytes('{"nodes":['))).toBeNull();
    expect(sceneBox('gltf', bytes('{"scenes":[{"nodes":[0]}],"nodes":[{"children":[0]}]}'))).toBeNull();
  });
  test('a turn and a quaternion agree', () => {
    const box = new Box();
    box.addPlaced(times(translation([1, 0, 0]), turning([0, 1, 0], 90)), 0, 0, 1);
    box.addPlaced(times(translation([1, 0, 0]), quaternion([0, Math.SQRT1_2, 0, Math.SQRT1_2])), 0, 0, 1);
    for (const side of box.size()) expect(side).toBeCloseTo(0, 12);
  });
});

describe('suspicions', () => {
  const units: WorkspaceUnits = usualUnits;
  const scene = (
    path: string,
    metres: number | null,
    size: [number, number, number] | null,
    upAxis: 'Y' | 'Z' = 'Y',
  ): Measured => ({ path, units: { metres, upAxis, by: 'file' }, size });
  test.each([
    [1000, 'mm', 'm'],
    [100, 'cm', 'm'],
    [2.54, 'cm', 'in'],
    [12, 'in', 'ft'],
    [39.3701, 'in', 'm'],
    [0.3048, 'm', 'ft'],
  ])('a factor of %d is %s taken for %s', (factor, meant, taken) => {
    expect(confusionOf(factor)).toEqual({ meant, taken });
  });
  test('no unit explains any other factor', () =>
    expect([confusionOf(7), confusionOf(1.5), confusionOf(50)]).toEqual([null, null, null]));
  test('a scene larger than the grid is told, with the unit that would fit', () => {
    const [found] = suspicions(scene('a.gltf', 1, [2400, 800, 900]), units, []).filter(
      (f) => f.code === 'size',
    );
    expect([found?.level, found?.message]).toEqual([
      'warning',
      expect.stringContaining('If its numbers were centimetres, it would be 24 m'),
    ]);
    expect(suspicions(scene('a.gltf', 1, [2, 1, 1]), units, []).map((f) => f.code)).toEqual([]);
  });
  test('the same thing in two formats, one by a unit too large', () => {
    const a = scene('models/crate.obj', null, [39.3701, 39.3701, 20], 'Y');
    const b = scene('models/crate_v002.gltf', 1, [1, 1, 0.508]);
    expect(suspicions(a, units, [a, b]).find((f) => f.code === 'twin')?.message).toContain(
      'inches had been taken for metres',
    );
    expect(
      suspicions(a, units, [a, scene('models/crate.gltf', 1, [7, 7, 3.5])]).filter((f) => f.code === 'twin'),
    ).toEqual([]);
  });
  test('a unit that is named otherwise than its number says is told', () => {
    const m: Measured = {
      path: 'a.dae',
      units: { metres: 1, upAxis: 'Y', by: 'file', misnamed: 'centimeter' },
      size: null,
    };
    expect(suspicions(m, units, []).map((f) => [f.code, f.level])).toEqual([['unit-name', 'warning']]);
  });
  test('another unit and another up axis are named', () => {
    expect(
      suspicions(scene('q.usda', 0.01, null, 'Z'), units, []).map((f) => [
        f.code,
        f.message.includes('100 times too large'),
      ]),
    ).toEqual([
      ['unit-differs', true],
      ['up-differs', false],
    ]);
  });
});

describe('reference scenes', () => {
  const units: WorkspaceUnits = {
    unit: 'in',
    display: { form: 'fraction', parts: 32 },
    upAxis: 'Z',
    grid: { spacing: 6, heavyEvery: 4, extent: 60 },
  };
  test.each(yardstickFormats)(
    '%s: its unit is declared, grid and box have their sizes, it needs no other file',
    async (format) => {
      const made = yardstickScene(units, format);
      const name = yardstickName(units, format);
      expect(formatOf(name, made)?.id).toBe(format);
      const reading = (await readReferences(name, made.length, async ([a, b]) => made.subarray(a, b)))!;
      expect([reading.references, reading.problems]).toEqual([[], []]);
      const inner =
        format === 'usdz'
          ? unzipSync(made)['reference.usda']!
          : format === '3mf'
            ? unzipSync(made)['3D/3dmodel.model']!
            : made;
      const of = format === 'usdz' ? 'usda' : format;
      const declared = sceneUnits(of, inner)!;
      const metres = declared.metres ?? metresIn('in');
      if (format !== 'obj' && format !== 'ply')
        expect(declared.metres).toBe({ gltf: 1, glb: 1, x3dv: 1, '3mf': 0.001 }[format as string] ?? 0.0254);
      const box = measurable.has(of) ? sceneBox(of, inner)! : null;
      if (box)
        expect(Math.max(...box.size()) * metres).toBeCloseTo(format === '3mf' ? 6 * 0.0254 : 120 * 0.0254, 5);
    },
  );
  test('glTF and GLB satisfy the validator', async () => {
    for (const format of ['gltf', 'glb'] as const)
      for (const u of [
        units,
        usualUnits,
        { ...usualUnits, grid: { spacing: 1, heavyEvery: 1, extent: 3 } },
      ]) {
        const { issues } = await validateBytes(yardstickScene(u, format));
        expect(issues.numErrors).toBe(0);
      }
  });
});
