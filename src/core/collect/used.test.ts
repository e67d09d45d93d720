// Which frames and tiles are shown, by what scenes and meshes say.

import { describe, expect, test } from '@jest/globals';
import { Document, NodeIO } from '@gltf-transform/core';
import fc from 'fast-check';
import { utf8 } from '../text/bytes';
import { framesIn, framesOfClip } from './frameRanges';
import { tilesIn } from './uvTiles';

const none = () => Promise.resolve(null);
const tiles = async (format: Parameters<typeof tilesIn>[0], text: string | Uint8Array) => {
  const found = await tilesIn(format, typeof text === 'string' ? utf8(text) : text, none);
  return found && [...found].sort();
};

describe('tiles', () => {
  test.each([
    ['0 0', '1 1', [1001]],
    ['0.5 0.5', '1.5 0.5', [1001, 1002]],
    ['2 3', '2 3', [1033]],
    ['1 0', '2 1', [1002]],
    ['-0.5 0.2', '0.5 0.3', [1001]],
    ['9.5 0', '10.5 1', [1010]],
  ])('an OBJ whose face lies from %s to %s', async (a, b, found) => {
    expect(await tiles('obj', `vt ${a}\nvt ${b}\nvt 99 99\nv 0 0 0\nf 1/1 1/2 1/1\n`)).toEqual(found);
    expect(await tiles('obj', `vt ${a}\nvt ${b}\nv 0 0 0\nf 1/-2 1/-1 1/-2\n`)).toEqual(found);
  });
  test('USD text, also over time; what moves coordinates is not known', async () => {
    const prim = (more = '') =>
      `#usda 1.0\ndef Mesh "m" {\n  texCoord2f[] primvars:st = [(0, 0), (1, 1)] (interpolation = "varying")\n  float2[] primvars:st1.timeSamples = { 1: [(1.2, 0.1)], 2: [(0.1, 2.5)] }\n  int[] faceVertexCounts = [3]\n${more}}\n`;
    expect(await tiles('usda', prim())).toEqual([1001, 1002, 1011, 1012, 1021, 1022]);
    expect(await tiles('usda', prim('uniform token info:id = "UsdTransform2d"'))).toBeNull();
    expect(await tiles('usda', '#usda 1.0\ndef Mesh "m" { texCoord2f[] primvars:st = None }')).toEqual([]);
  });
  test('PLY, in text and in either order of bytes', async () => {
    const head = (format: string) =>
      `ply\nformat ${format} 1.0\nelement vertex 2\nproperty uchar red\nproperty float s\nproperty float t\nelement face 0\nproperty list uchar int vertex_indices\nend_header\n`;
    expect(await tiles('ply', `${head('ascii')}1 0.5 0.5\n2 1.5 0.5\n`)).toEqual([1001, 1002]);
    for (const little of [true, false]) {
      const data = new DataView(new ArrayBuffer(18));
      for (const [n, [u, v]] of [
        [0.5, 0.5],
        [1.5, 0.5],
      ].entries()) {
        data.setFloat32(n * 9 + 1, u!, little);
        data.setFloat32(n * 9 + 5, v!, little);
      }
      const text = utf8(head(`binary_${little ? 'little' : 'big'}_endian`));
      expect(await tiles('ply', new Uint8Array([...text, ...new Uint8Array(data.buffer)]))).toEqual([
        1001, 1002,
      ]);
    }
    expect(
      await tiles('ply', 'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nend_header\n0\n'),
    ).toEqual([]);
  });
  test('what is not read is not known; broken ones too', async () => {
    for (const format of ['dae', 'usdc', 'x3d', '3mf', 'usdz'] as const)
      expect(await tiles(format, 'x')).toBeNull();
    expect(await tiles('gltf', '{"meshes":')).toBeNull();
    expect(await tiles('gltf', '{"extensionsUsed":["KHR_texture_transform"]}')).toBeNull();
    expect(await tiles('mtl', 'newmtl a\n')).toEqual([]);
  });
  test('glTF as another library writes it: floats and normalized, with indices; each face alone', async () => {
    const document = new Document();
    const buffer = document.createBuffer();
    const uv = (array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>, normalized = false) =>
      document.createAccessor().setArray(array).setType('VEC2').setNormalized(normalized).setBuffer(buffer);
    const mesh = document.createMesh();
    const add = (accessor: ReturnType<typeof uv>, indices: number[]) =>
      mesh.addPrimitive(
        document
          .createPrimitive()
          .setAttribute('TEXCOORD_0', accessor)
          .setIndices(
            document.createAccessor().setArray(new Uint16Array(indices)).setType('SCALAR').setBuffer(buffer),
          ),
      );
    // Two faces that lie far apart reach two tiles, not what lies between; the last vertex is in no face.
    add(
      uv(new Float32Array([0.1, 0.1, 0.9, 0.1, 0.1, 0.9, 3.1, 2.1, 3.9, 2.1, 3.1, 2.9, 7.5, 7.5])),
      [0, 1, 2, 3, 4, 5],
    );
    add(uv(new Uint16Array([0, 0, 65535, 0, 0, 65535]), true), [0, 1, 2]);
    const glb = await new NodeIO().writeBinary(document);
    expect(await tiles('glb', glb)).toEqual([1001, 1024]);
    const { json, resources } = await new NodeIO().writeJSON(document);
    const beside = (uri: string) => Promise.resolve(resources[uri] ?? null);
    expect(await tilesIn('gltf', utf8(JSON.stringify(json)), beside)).toEqual(new Set([1001, 1024]));
    expect(await tilesIn('gltf', utf8(JSON.stringify(json)), none)).toBeNull();
  });
  test('whatever is written: it never throws', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.string({ maxLength: 200 }),
        fc.constantFrom('gltf', 'obj', 'usda', 'ply'),
        async (text, format) => {
          const starts = {
            gltf: '{"meshes":[',
            obj: 'vt 1 ',
            usda: '#usda 1.0\ntexCoord2f[] primvars:st = [',
            ply: 'ply\n',
          };
          await tiles(format as 'obj', starts[format as 'obj'] + text);
        },
      ),
    );
  });
});

describe('frames', () => {
  const layer = (head: string, body = '') => utf8(`#usda 1.0\n(\n${head}\n)\n${body}`);
  test('of a USD layer', () => {
    expect(framesIn('usda', layer('    startTimeCode = 1001.5\n    endTimeCode = 1048'))).toEqual([
      1001, 1048,
    ]);
    expect(framesIn('usda', layer('    endTimeCode = 3'))).toBe('none');
    expect(
      framesIn(
        'usda',
        layer(
          '    startTimeCode = 1\n    endTimeCode = 2',
          'def "a" (references = @b.usda@ (offset = 10)) {}',
        ),
      ),
    ).toBe('unknown');
    expect(framesIn('gltf', utf8('{}'))).toBe('none');
  });
  const timeline = (clip: object, medium: object) =>
    utf8(
      JSON.stringify({
        OTIO_SCHEMA: 'Timeline.1',
        tracks: {
          children: [
            {
              children: [
                {
                  OTIO_SCHEMA: 'Clip.2',
                  media_references: { DEFAULT_MEDIA: { start_frame: 1001, rate: 24, ...medium } },
                  ...clip,
                },
              ],
            },
          ],
        },
      }),
    );
  const at = '/tracks/children/0/children/0/media_references/DEFAULT_MEDIA/target_url_base';
  const time = (value: number, rate = 24) => ({ value, rate });
  test.each([
    [{ source_range: { start_time: time(10), duration: time(5) } }, {}, [1011, 1015]],
    [
      { source_range: { start_time: time(110), duration: time(5) } },
      { available_range: { start_time: time(100) } },
      [1011, 1015],
    ],
    [{ source_range: { start_time: time(12, 12), duration: time(1, 1) } }, {}, [1025, 1048]],
    [{ source_range: { start_time: time(2), duration: time(3) } }, { frame_step: 2 }, [1005, 1009]],
    [{ source_range: null }, {}, null],
    [
      {
        source_range: { start_time: time(0), duration: time(5) },
        effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1' }],
      },
      {},
      null,
    ],
  ])('of a clip %j of %j', (clip, medium, range) => {
    expect(framesOfClip(timeline(clip, medium), at)).toEqual(range);
  });
});
