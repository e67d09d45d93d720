// Triangles of X3D geometry, by the standard's own words and beside what three.js' VRML reader makes of the same text.

import { describe, expect, test } from '@jest/globals';
import * as THREE from 'three';
import { VRMLLoader } from 'three/examples/jsm/loaders/VRMLLoader.js';
import { expand } from '@/core/convert/x3d/expand';
import { readClassicToSee } from '@/core/convert/x3d/readClassic';
import { utf8 } from '@/core/text/bytes';
import { build } from './build';

const text = (body: string) => `#VRML V2.0 utf8\n${body}`;
const none = { load: () => null, scene: () => null, text: () => null };
function ours(body: string) {
  return build(expand(readClassicToSee(utf8(text(body)))).nodes, none);
}
function meshes(object: THREE.Object3D): THREE.Mesh[] {
  const all: THREE.Mesh[] = [];
  object.updateMatrixWorld(true);
  object.traverse((o) => {
    if (o instanceof THREE.Mesh) all.push(o);
  });
  return all;
}
/** Area of all faces and the box around them, rounded. */
function measured(object: THREE.Object3D) {
  let area = 0;
  for (const mesh of meshes(object)) {
    const said = mesh.geometry as THREE.BufferGeometry;
    const geometry = said.index ? said.toNonIndexed() : said;
    const p = geometry.getAttribute('position');
    const corner = (i: number) =>
      new THREE.Vector3().fromBufferAttribute(p, i).applyMatrix4(mesh.matrixWorld);
    for (let i = 0; i + 2 < p.count; i += 3)
      area += new THREE.Triangle(corner(i), corner(i + 1), corner(i + 2)).getArea();
  }
  const box = new THREE.Box3().setFromObject(object, true);
  const round = (n: number) => Math.round(n * 1e4) / 1e4;
  return { area: round(area), min: box.min.toArray().map(round), max: box.max.toArray().map(round) };
}
const shape = (geometry: string) => `Shape { geometry ${geometry} }`;
const square = 'coord Coordinate { point [ 0 0 0, 2 0 0, 2 1 0, 0 1 0 ] }';

describe('beside three.js', () => {
  test.each([
    ['a square and a triangle', shape(`IndexedFaceSet { ${square} coordIndex [ 0 1 2 3 -1 0 1 2 -1 ] }`)],
    ['a straight beam', shape('Extrusion { spine [ 0 0 0, 0 3 0 ] }')],
    [
      'a box moved, turned and stretched',
      `Transform { translation 1 2 3 rotation 0 0 1 0.5 scale 1 2 1 children ${shape('Box { size 1 2 3 }')} }`,
    ],
    ['one thing twice', `DEF S ${shape('Box {}')} Transform { translation 5 0 0 children USE S }`],
  ])('%s: the same area and the same box', (_, body) => {
    const theirs = new VRMLLoader().parse(text(body), '');
    const own = ours(body);
    expect(own.unseen).toEqual([]);
    expect(measured(own.object)).toEqual(measured(theirs));
  });
});

// What three.js' reader does otherwise than the standard: spacing along x and z, the planes of a cross-section, center and scaleOrientation.
test.each([
  [
    'a grid is as long as its spacing says (13.3.4)',
    shape('ElevationGrid { xDimension 3 zDimension 2 xSpacing 2 zSpacing 1.5 height [ 0 1 0 0.5 0 2 ] }'),
    [0, 0, 0],
    [4, 2, 1.5],
  ],
  [
    // Its end goes to (2, 1): its section lies across that, so a corner is at (3, 5) ± (-1, 2) / √5.
    'a section lies across its spine (13.3.5.4)',
    shape(
      'Extrusion { crossSection [ 1 0, 0 1, -1 0, 0 -1, 1 0 ] spine [ 0 0 0, 0 2 0, 1 4 0, 3 5 0 ] scale [ 1 1, 0.5 0.5, 0.5 0.5, 1 1 ] }',
    ),
    [-1, 0, -1],
    [3.4472, 5.8944, 1],
  ],
  [
    'stretched from its center (10.4.4)',
    `Transform { center 1 0 0 scale 2 1 1 children ${shape('Box {}')} }`,
    [-3, -1, -1],
    [1, 1, 1],
  ],
  [
    'stretched along a turned axis',
    `Transform { scale 2 1 1 scaleOrientation 0 0 1 1.5707963267948966 children ${shape('Box {}')} }`,
    [-1, -2, -1],
    [1, 2, 1],
  ],
])('%s', (_, body, min, max) => {
  expect(measured(ours(body).object)).toMatchObject({ min, max });
});

test('a hollow polygon is cut along its edge, and no further (convex FALSE)', () => {
  // An L of three unit squares.
  const body = shape(
    'IndexedFaceSet { convex FALSE coord Coordinate { point [ 0 0 0, 2 0 0, 2 1 0, 1 1 0, 1 2 0, 0 2 0 ] } coordIndex [ 0 1 2 3 4 5 -1 ] }',
  );
  expect(measured(ours(body).object).area).toBe(3);
});

test.each([
  ['TriangleSet', 'coord Coordinate { point [ 0 0 0, 1 0 0, 0 1 0, 0 0 1, 1 0 1, 0 1 1 ] }', 2],
  ['IndexedTriangleSet', `${square} index [ 0 1 2 0 2 3 ]`, 2],
  ['IndexedQuadSet', `${square} index [ 0 1 2 3 ]`, 2],
  ['TriangleStripSet', 'stripCount [ 4 ] coord Coordinate { point [ 0 0 0, 1 0 0, 0 1 0, 1 1 0 ] }', 2],
  ['TriangleFanSet', `fanCount [ 4 ] ${square}`, 2],
  [
    'IndexedTriangleStripSet',
    'coord Coordinate { point [ 0 0 0, 1 0 0, 0 1 0, 1 1 0 ] } index [ 0 1 2 3 -1 1 2 3 ]',
    3,
  ],
  ['IndexedTriangleFanSet', `${square} index [ 0 1 2 3 -1 ]`, 2],
  ['TriangleSet2D', 'vertices [ 0 0 1 0 0 1 ]', 1],
])('%s %s: %i triangles', (type, fields, triangles) => {
  const [mesh] = meshes(ours(shape(`${type} { ${fields} }`)).object);
  expect(mesh!.geometry.getAttribute('position').count).toBe(triangles * 3);
});

test('colours of corners and of faces, and coordinates where none are told', () => {
  const red = new THREE.Color().setRGB(1, 0, 0, THREE.SRGBColorSpace).toArray();
  const colours = 'color Color { color [ 1 0 0, 0 1 0 ] } colorPerVertex FALSE';
  const [mesh] = meshes(
    ours(shape(`IndexedFaceSet { ${square} ${colours} coordIndex [ 0 1 2 -1 0 2 3 -1 ] }`)).object,
  );
  const { color, uv } = mesh!.geometry.attributes;
  expect([...color!.array.slice(0, 3)]).toEqual(red);
  expect([...color!.array.slice(9, 12)]).toEqual([0, 1, 0]);
  expect((mesh!.material as THREE.MeshStandardMaterial).vertexColors).toBe(true);
  // The longer side from 0 to 1, the other as far as it goes.
  expect([...uv!.array.slice(0, 6)]).toEqual([0, 0, 1, 0, 1, 0.5]);
});

test('of a choice the chosen, of levels the finest, what is hidden not at all; a file in itself once', () => {
  const box = shape('Box {}');
  const counted = (body: string) => meshes(ours(body).object).length;
  expect(counted(`Switch { whichChoice 1 choice [ Group { children [ ${box} ${box} ] } ${box} ] }`)).toBe(1);
  expect(counted(`Switch { choice [ ${box} ] }`)).toBe(0);
  expect(counted(`LOD { level [ Group { children [ ${box} ${box} ] } ${box} ] }`)).toBe(2);
  const self = expand(readClassicToSee(utf8(text(`${box} Inline { url "self.wrl" }`)))).nodes;
  expect(meshes(build(self, { ...none, scene: () => self }).object)).toHaveLength(2);
});

test('what is drawn and not known how is told, and indices that lead nowhere draw nothing', () => {
  expect(ours(shape('NurbsPatchSurface { uDimension 4 }')).unseen).toEqual(['NurbsPatchSurface']);
  expect(
    meshes(ours(shape(`IndexedFaceSet { ${square} coordIndex [ 0 1 99 -1 7 8 9 -1 ] }`)).object),
  ).toEqual([]);
  expect(ours(shape('IndexedFaceSet {}')).unseen).toEqual([]);
});
