// An X3D or VRML97 scene as objects of three.js. What moves stands as it is written; sounds, sensors and lights of the scene are not shown.

import * as THREE from 'three';
import type { Plain3d } from '@/core/convert/x3d/expand';
import { NotConvertible } from '@/core/convert/x3d/model';
import { materialOf, type Textures } from './appearance';
import { geometryOf, type Geometry3d } from './geometry';
import { flag, groups, nodeIn, nodes, number, numbers, strings } from './fields';

export interface Outside extends Textures {
  /** Lines of text, each one unit high, as a picture on a plane; null: there is nothing to write with. */
  text(lines: readonly string[]): THREE.Mesh | null;
  /** What an Inline stands for; null: it leads nowhere. */
  scene(urls: readonly string[]): readonly Plain3d[] | null;
}

const mostObjects = 200_000;

/** Builds the nodes of a scene. `unseen`: types of nodes that draw something and are not drawn here. Throws NotConvertible. */
export function build(top: readonly Plain3d[], outside: Outside): { object: THREE.Group; unseen: string[] } {
  const builder = new Builder(outside);
  const object = new THREE.Group();
  for (const node of top) builder.add(object, node, 0);
  return { object, unseen: [...builder.unseen] };
}

class Builder {
  readonly unseen = new Set<string>();
  private readonly geometries = new Map<Plain3d, Geometry3d | null>();
  private count = 0;
  /** Inlines that are being built: a file that takes in itself is shown once. */
  private readonly open = new Set<readonly Plain3d[]>();

  constructor(private readonly outside: Outside) {}

  add(parent: THREE.Object3D, node: Plain3d, depth: number): void {
    if (++this.count > mostObjects || depth > 1000)
      throw new NotConvertible('It holds more objects than can be shown.');
    if (!flag(node, 'visible', true)) return;
    if (node.type === 'Shape') {
      const shape = this.shape(node);
      if (shape) parent.add(shape);
      return;
    }
    const within = this.within(node);
    if (within.length === 0 || this.open.has(within)) return;
    const group = new THREE.Group();
    group.name = node.name;
    place(group, node);
    this.open.add(within);
    for (const child of within) this.add(group, child, depth + 1);
    this.open.delete(within);
    parent.add(group);
  }

  /** The nodes that are drawn for a node that holds others. */
  private within(node: Plain3d): readonly Plain3d[] {
    switch (node.type) {
      case 'Switch': {
        const all = [...nodes(node, 'children'), ...nodes(node, 'choice')];
        return all
          .slice(number(node, 'whichChoice', -1))
          .slice(0, number(node, 'whichChoice', -1) < 0 ? 0 : 1);
      }
      case 'LOD':
      case 'GeoLOD':
        // The finest.
        return [...nodes(node, 'level'), ...nodes(node, 'children'), ...nodes(node, 'rootNode')].slice(0, 1);
      case 'Inline':
        return this.outside.scene(strings(node, 'url')) ?? [];
      case 'HAnimHumanoid':
        return [...nodes(node, 'skeleton'), ...nodes(node, 'skin')];
      case 'CADFace':
        return nodes(node, 'shape');
      case 'LayerSet':
        return nodes(node, 'layers');
      default:
        return nodes(node, 'children');
    }
  }

  /** Text (15.4.2), as wide as its letters are here, in the colour of its shape. */
  private text(shape: Plain3d, said: Plain3d): THREE.Object3D | null {
    const style = nodeIn(said, 'fontStyle');
    const mesh = this.outside.text(strings(said, 'string'));
    if (!mesh) return null;
    const size = style ? number(style, 'size', 1) : 1;
    const material = materialOf(
      nodeIn(shape, 'appearance'),
      'points',
      false,
      this.outside,
    ) as THREE.PointsMaterial;
    (mesh.material as THREE.MeshBasicMaterial).color.copy(material.color);
    mesh.scale.setScalar(size);
    const justify = style ? strings(style, 'justify')[0]?.toUpperCase() : undefined;
    // The plane begins where its text does.
    const width = new THREE.Box3().setFromObject(mesh).max.x;
    if (justify === 'MIDDLE') mesh.position.x = -width / 2;
    if (justify === 'END') mesh.position.x = -width;
    mesh.name = shape.name;
    return mesh;
  }

  private shape(node: Plain3d): THREE.Object3D | null {
    const said = nodeIn(node, 'geometry');
    if (!said) return null;
    if (said.type === 'Text') return this.text(node, said);
    if (!this.geometries.has(said)) this.geometries.set(said, geometryOf(said));
    const made = this.geometries.get(said);
    if (!made) {
      if (!isEmpty(said)) this.unseen.add(said.type);
      return null;
    }
    const { as, geometry } = made;
    const material = materialOf(nodeIn(node, 'appearance'), as, geometry.hasAttribute('color'), this.outside);
    const object =
      as === 'faces'
        ? new THREE.Mesh(geometry, material)
        : as === 'lines'
          ? new THREE.LineSegments(geometry, material)
          : new THREE.Points(geometry, material);
    object.name = node.name;
    return object;
  }
}

/** Whether a geometry says no points at all: that is an empty one, and no unknown one. */
const isEmpty = (node: Plain3d): boolean =>
  /^(?:Indexed|Triangle|Quad|Line|Point|Elevation|Poly|Extrusion)/.test(node.type);

/** P' = T × C × R × SR × S × -SR × -C × P (Transform, ISO/IEC 19775-1, 10.4.4). */
function place(object: THREE.Object3D, node: Plain3d): void {
  const moved = (p: readonly number[], by = 1) =>
    new THREE.Matrix4().makeTranslation((p[0] ?? 0) * by, (p[1] ?? 0) * by, (p[2] ?? 0) * by);
  const turned = (r: readonly number[], by = 1) => {
    const axis = new THREE.Vector3(r[0], r[1], r[2]);
    return axis.length() === 0
      ? new THREE.Matrix4()
      : new THREE.Matrix4().makeRotationAxis(axis.normalize(), (r[3] ?? 0) * by);
  };
  if (!['translation', 'rotation', 'scale'].some((f) => node.fields.has(f))) return;
  const center = numbers(node, 'center');
  const tilt = numbers(node, 'scaleOrientation');
  const [sx = 1, sy = 1, sz = 1] = numbers(node, 'scale', [1, 1, 1]);
  const matrix = moved(numbers(node, 'translation'))
    .multiply(moved(center))
    .multiply(turned(groups(numbers(node, 'rotation'), 4)[0] ?? []))
    .multiply(turned(tilt))
    .multiply(new THREE.Matrix4().makeScale(sx, sy, sz))
    .multiply(turned(tilt, -1))
    .multiply(moved(center, -1));
  object.matrix.copy(matrix);
  object.matrixAutoUpdate = false;
}
