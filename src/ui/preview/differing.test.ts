// Objects that differ between two models.

import { expect, test } from '@jest/globals';
import * as THREE from 'three';
import { differing } from './differing';

function model(parts: Record<string, { at?: number; size?: number; material?: string }>): THREE.Mesh[] {
  const root = new THREE.Group();
  const meshes = Object.entries(parts).map(([name, { at = 0, size = 1, material = 'wood' }]) => {
    const mesh = new THREE.Mesh(
      new THREE.BoxGeometry(size, 1, 1),
      new THREE.MeshStandardMaterial({ name: material }),
    );
    mesh.name = name;
    mesh.position.x = at;
    root.add(mesh);
    return mesh;
  });
  root.updateMatrixWorld(true);
  return meshes;
}
const named = (meshes: readonly THREE.Mesh[]) => meshes.map((m) => m.name);

test('what came, went, moved, changed its shape or its material', () => {
  const before = model({ tower: {}, lamp: {}, beach: {}, door: {}, gone: {} });
  const after = model({
    tower: {},
    lamp: { at: 1 },
    beach: { size: 2 },
    door: { material: 'iron' },
    came: {},
  });
  const found = differing(before, after);
  expect([named(found.gone), named(found.came), named(found.changed.map((c) => c[1]))]).toEqual([
    ['gone'],
    ['came'],
    ['lamp', 'beach', 'door'],
  ]);
  expect(differing(model({ a: {}, b: {} }), model({ a: {}, b: {} }))).toEqual({
    gone: [],
    came: [],
    changed: [],
  });
});
