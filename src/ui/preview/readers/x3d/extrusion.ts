// A cross-section moved along a spine (Extrusion, ISO/IEC 19775-1, 13.3.5).

import * as THREE from 'three';
import type { Plain3d } from '@/core/convert/x3d/expand';
import { flag, groups, numbers } from './fields';

/** Points (x, y, z each) and polygons by their points. */
export function extruded(node: Plain3d): { points: number[]; faces: number[][] } {
  const section = groups(numbers(node, 'crossSection', [1, 1, 1, -1, -1, -1, -1, 1, 1, 1]), 2);
  const spine = groups(numbers(node, 'spine', [0, 0, 0, 0, 1, 0]), 3).map((p) => new THREE.Vector3(...p));
  const scales = groups(numbers(node, 'scale', [1, 1]), 2);
  const turns = groups(numbers(node, 'orientation', [0, 0, 1, 0]), 4);
  const frames = framesOf(spine);
  const points = spine.flatMap((centre, i) => {
    const [sx, sz] = scales[Math.min(i, scales.length - 1)] ?? [1, 1];
    const [x, y, z, angle] = turns[Math.min(i, turns.length - 1)] ?? [0, 0, 1, 0];
    const axis = new THREE.Vector3(x, y, z).normalize();
    return section.flatMap(([a, b]) =>
      new THREE.Vector3(a! * sx!, 0, b! * sz!)
        .applyAxisAngle(axis, angle!)
        .applyMatrix4(frames[i]!)
        .add(centre)
        .toArray(),
    );
  });
  const faces: number[][] = [];
  const n = section.length;
  for (let i = 0; i + 1 < spine.length; i++)
    for (let j = 0; j + 1 < n; j++) {
      const a = i * n + j;
      faces.push([a, a + 1, a + n + 1, a + n]);
    }
  const isRing = n > 1 && section[0]!.every((v, k) => v === section[n - 1]![k]);
  const cap = [...Array(isRing ? n - 1 : n).keys()];
  if (flag(node, 'beginCap', true)) faces.push(cap.toReversed());
  if (flag(node, 'endCap', true)) faces.push(cap.map((j) => (spine.length - 1) * n + j));
  return { points, faces };
}

/** The axes of the section at each point of the spine: y along it, z to where it bends. */
function framesOf(spine: readonly THREE.Vector3[]): THREE.Matrix4[] {
  const last = spine.length - 1;
  const isClosed = last > 1 && spine[0]!.distanceTo(spine[last]!) === 0;
  const along = spine.map((p, i) => {
    const [before, after] =
      i === 0 || i === last
        ? isClosed
          ? [spine[last - 1]!, spine[1]!]
          : i === 0
            ? [p, spine[1] ?? p]
            : [spine[i - 1]!, p]
        : [spine[i - 1]!, spine[i + 1]!];
    return after.clone().sub(before).normalize();
  });
  const bends = spine.map((p, i) => {
    const [before, after] =
      i === 0 || i === last
        ? isClosed
          ? [spine[last - 1]!, spine[1]!]
          : [null, null]
        : [spine[i - 1]!, spine[i + 1]!];
    if (!before || !after) return null;
    const z = after.clone().sub(p).cross(before.clone().sub(p));
    return z.length() < 1e-10 ? null : z.normalize();
  });
  // Where it does not bend, as at the nearest point before that does; before the first, as there.
  let held = bends.find((z) => z !== null) ?? null;
  if (!held) {
    // All of it is straight: y is turned to where it goes, and z with it.
    const turn = new THREE.Quaternion().setFromUnitVectors(
      new THREE.Vector3(0, 1, 0),
      along.find((y) => y.length() > 0) ?? new THREE.Vector3(0, 1, 0),
    );
    return spine.map(() => new THREE.Matrix4().makeRotationFromQuaternion(turn));
  }
  return spine.map((_, i) => {
    let z = bends[i] ?? held!;
    if (z.dot(held!) < 0) z = z.clone().negate();
    held = z;
    const y = along[i]!;
    return new THREE.Matrix4().makeBasis(y.clone().cross(z).normalize(), y, z);
  });
}
