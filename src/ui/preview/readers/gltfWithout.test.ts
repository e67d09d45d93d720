// A glTF with a missing buffer still shows what does not lie in it.

import { expect, test } from '@jest/globals';
import { withoutBuffers, type GltfJson } from './gltfWithout';

const scene: GltfJson = {
  buffers: [{ uri: 'here.bin' }, { uri: 'gone.bin' }],
  bufferViews: [
    { buffer: 0 },
    { buffer: 1 },
    { buffer: 0, extensions: { EXT_meshopt_compression: { buffer: 1 } } },
  ],
  accessors: [
    { bufferView: 0 },
    { bufferView: 1 },
    { bufferView: 2 },
    { bufferView: 0, sparse: { indices: { bufferView: 0 }, values: { bufferView: 1 } } },
    {},
  ],
  meshes: [
    { primitives: [{ attributes: { POSITION: 0, NORMAL: 1 }, targets: [{ POSITION: 3 }] }] },
    { primitives: [{ attributes: { POSITION: 1 } }] },
    { primitives: [{ attributes: { POSITION: 0 }, indices: 2 }, { attributes: { POSITION: 0 } }] },
    {
      primitives: [
        { attributes: { POSITION: 4 }, extensions: { KHR_draco_mesh_compression: { bufferView: 1 } } },
      ],
    },
  ],
  nodes: [{ mesh: 0 }, { mesh: 1, skin: 0 }, { mesh: 2 }, { mesh: 3 }, {}],
  skins: [{ inverseBindMatrices: 1 }],
  animations: [{}],
  images: [{ bufferView: 1 }, { uri: 'wood.png' }],
};

test('what lies in it goes, numbers stay', () => {
  const before = structuredClone(scene);
  const { json, objects } = withoutBuffers(scene, new Set([1]));
  expect(scene).toEqual(before);
  expect(objects).toBe(2);
  expect(json.nodes).toEqual([{ mesh: 0 }, {}, { mesh: 2 }, {}, {}]);
  expect(json.meshes).toEqual([
    { primitives: [{ attributes: { POSITION: 0 } }] },
    { primitives: [] },
    { primitives: [{ attributes: { POSITION: 0 } }] },
    { primitives: [] },
  ]);
  expect([json.skins, json.animations, json.images]).toEqual([
    [{}],
    undefined,
    [{ uri: 'data:,' }, { uri: 'wood.png' }],
  ]);
});

test('nothing missing is nothing changed', () =>
  expect(withoutBuffers(scene, new Set())).toEqual({ json: scene, objects: 0 }));
