// Which objects of two models differ: by their names, where they stand, their shape and what they are made of.

import type * as THREE from 'three';

/** Numbers of an attribute in short: two shapes with the same are taken for the same. */
function shapeOf(mesh: THREE.Mesh): string {
  const geometry = mesh.geometry as THREE.BufferGeometry;
  const positions = geometry.getAttribute('position') as THREE.BufferAttribute | undefined;
  let h = 2166136261;
  const bits = new DataView(new ArrayBuffer(4));
  const count = positions ? positions.count * positions.itemSize : 0;
  for (let i = 0; i < count; i++) {
    bits.setFloat32(0, positions!.array[i]!);
    h = Math.imul(h ^ bits.getUint32(0), 16777619);
  }
  return `${count} ${geometry.index?.count ?? 0} ${h >>> 0}`;
}

const wayOf = (o: THREE.Object3D): string => (o.parent ? `${wayOf(o.parent)}/${o.name}` : '');

/** Everything that can be told of a mesh, by the way of names that leads to it. */
function told(meshes: Iterable<THREE.Mesh>): Map<string, { mesh: THREE.Mesh; is: string }> {
  const all = new Map<string, { mesh: THREE.Mesh; is: string }>();
  for (const mesh of meshes) {
    const materials = [mesh.material].flat().map((m) => m.name);
    const place = mesh.matrixWorld.elements.map((n) => n.toPrecision(6)).join();
    let way = wayOf(mesh);
    while (all.has(way)) way += "'";
    all.set(way, { mesh, is: [shapeOf(mesh), place, ...materials].join('|') });
  }
  return all;
}

export interface Differing {
  /** In the older one only, and in the newer one only. */
  gone: THREE.Mesh[];
  came: THREE.Mesh[];
  /** In both, and not the same. */
  changed: [before: THREE.Mesh, after: THREE.Mesh][];
}

export function differing(before: Iterable<THREE.Mesh>, after: Iterable<THREE.Mesh>): Differing {
  const [old, now] = [told(before), told(after)];
  const found: Differing = { gone: [], came: [], changed: [] };
  for (const [way, { mesh, is }] of old) {
    const other = now.get(way);
    if (!other) found.gone.push(mesh);
    else if (other.is !== is) found.changed.push([mesh, other.mesh]);
  }
  for (const [way, { mesh }] of now) if (!old.has(way)) found.came.push(mesh);
  return found;
}
