// Scenes that are made to take for ever when they are measured: nodes that stand in each other, nesting without end, values that are none. They end
// soon, with no size, and never with an exception.

import { expect, test } from '@jest/globals';
import { sceneBox } from './sceneBox';

const bytes = (text: string) => new TextEncoder().encode(text);
const quick = <T>(work: () => T): T => {
  const from = performance.now();
  const result = work();
  // Work without end would be seen whatever the machine; what is measured in earnest stands in bench/.
  expect(performance.now() - from).toBeLessThan(20_000);
  return result;
};

test('glTF: each node twice in the one before, forty deep', () => {
  const nodes = Array.from({ length: 40 }, (_, i) => (i < 39 ? { children: [i + 1, i + 1] } : { mesh: 0 }));
  const scene = {
    asset: { version: '2.0' },
    nodes,
    scenes: [{ nodes: [0] }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    accessors: [{ min: [0, 0, 0], max: [1, 1, 1] }],
  };
  expect(quick(() => sceneBox('gltf', bytes(JSON.stringify(scene))))).toBe(null);
});

test('glTF: a ring of nodes', () => {
  const scene = {
    asset: { version: '2.0' },
    nodes: [{ children: [1] }, { children: [0] }],
    scenes: [{ nodes: [0] }],
  };
  expect(quick(() => sceneBox('gltf', bytes(JSON.stringify(scene))))).toBe(null);
});

test('COLLADA: each node twice in the one before', () => {
  const library = Array.from(
    { length: 60 },
    (_, i) => `<node id="n${i}"><instance_node url="#n${i + 1}"/><instance_node url="#n${i + 1}"/></node>`,
  ).join('');
  const text = `<COLLADA><library_nodes>${library}<node id="n60"/></library_nodes><library_visual_scenes><visual_scene id="s"><node><instance_node url="#n0"/></node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>`;
  expect(quick(() => sceneBox('dae', bytes(text)))).toBe(null);
});

test('3MF: each object twice in the one before', () => {
  const objects = Array.from(
    { length: 60 },
    (_, i) =>
      `<object id="${i}"><components><component objectid="${i + 1}"/><component objectid="${i + 1}"/></components></object>`,
  ).join('');
  const text = `<model><resources>${objects}<object id="60"><mesh><vertices><vertex x="1" y="2" z="3"/></vertices></mesh></object></resources><build><item objectid="0"/></build></model>`;
  expect(quick(() => sceneBox('3mf', bytes(text)))).toBe(null);
});

test('USD text: a hundred thousand prims in each other', () => {
  const deep = 100_000;
  const text = `#usda 1.0\n${'def "a" {\n'.repeat(deep)}point3f[] points = [(1,2,3)]\n${'}'.repeat(deep)}`;
  expect(quick(() => sceneBox('usda', bytes(text)))).toBe(null);
});

test('values that are none count for nothing', () => {
  expect(sceneBox('obj', bytes('v 1 2 3\nv nan inf 1e999\nv x y z\nv 4 5 6\n'))!.size()).toEqual([3, 3, 3]);
});
