// Geometry of X3D and VRML97 nodes as triangles, lines and points (ISO/IEC 19775-1, clauses 11, 13 and 14).

import * as THREE from 'three';
import { toCreasedNormals } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import type { Plain3d } from '@/core/convert/x3d/expand';
import { extruded } from './extrusion';
import { flag, groups, nodeIn, number, numbers, runs } from './fields';

export type Drawn = 'faces' | 'lines' | 'points';
export interface Geometry3d {
  as: Drawn;
  geometry: THREE.BufferGeometry;
}

/** A polygon by its corners: what each takes from the lists of points, colours, normals and texture coordinates. */
interface Face {
  point: number[];
  colour: number[];
  normal: number[];
  texture: number[];
}
const same = (index: number[]): Face => ({ point: index, colour: index, normal: index, texture: index });

/** Corners on a circle are so far apart. */
const steps = 48;

/** What a geometry node draws; null: nothing, or it is not known how. */
export function geometryOf(node: Plain3d): Geometry3d | null {
  const faces = (geometry: THREE.BufferGeometry): Geometry3d => ({ as: 'faces', geometry });
  switch (node.type) {
    case 'Box': {
      const [x = 2, y = 2, z = 2] = numbers(node, 'size', [2, 2, 2]);
      return faces(new THREE.BoxGeometry(x, y, z));
    }
    case 'Sphere':
      return faces(new THREE.SphereGeometry(number(node, 'radius', 1), steps, steps / 2));
    case 'Cone':
      return faces(
        new THREE.ConeGeometry(
          number(node, 'bottomRadius', 1),
          number(node, 'height', 2),
          steps,
          1,
          !flag(node, 'bottom', true),
        ),
      );
    case 'Cylinder': {
      const radius = number(node, 'radius', 1);
      const isOpen = !flag(node, 'top', true) && !flag(node, 'bottom', true);
      return faces(new THREE.CylinderGeometry(radius, radius, number(node, 'height', 2), steps, 1, isOpen));
    }
    case 'Rectangle2D': {
      const [x = 2, y = 2] = numbers(node, 'size', [2, 2]);
      return faces(new THREE.PlaneGeometry(x, y));
    }
    case 'Disk2D': {
      const [inner, outer] = [number(node, 'innerRadius', 0), number(node, 'outerRadius', 1)];
      return faces(
        inner > 0 ? new THREE.RingGeometry(inner, outer, steps) : new THREE.CircleGeometry(outer, steps),
      );
    }
    case 'TriangleSet2D': {
      const flat = groups(numbers(node, 'vertices'), 2);
      return polygons(
        node,
        flat.flatMap(([x, y]) => [x!, y!, 0]),
        groups([...flat.keys()], 3).map(same),
      );
    }
    case 'Arc2D':
    case 'ArcClose2D':
    case 'Circle2D':
      return lines(arc(node), []);
    case 'Polyline2D':
    case 'ContourPolyline2D':
      return lines([flat3(numbers(node, node.type === 'Polyline2D' ? 'lineSegments' : 'controlPoint'))], []);
    case 'Polypoint2D':
      return points(flat3(numbers(node, 'point')), []);
    case 'IndexedFaceSet':
      return indexedFaces(node);
    case 'IndexedTriangleSet':
      return polygons(node, pointsOf(node), groups(numbers(node, 'index'), 3).map(same));
    case 'IndexedQuadSet':
      return polygons(node, pointsOf(node), groups(numbers(node, 'index'), 4).map(same));
    case 'IndexedTriangleStripSet':
      return polygons(node, pointsOf(node), runs(numbers(node, 'index')).flatMap(strip).map(same));
    case 'IndexedTriangleFanSet':
      return polygons(node, pointsOf(node), runs(numbers(node, 'index')).flatMap(fan).map(same));
    case 'TriangleSet':
    case 'QuadSet': {
      const own = pointsOf(node);
      const all = [...Array(Math.floor(own.length / 3)).keys()];
      return polygons(node, own, groups(all, node.type === 'QuadSet' ? 4 : 3).map(same));
    }
    case 'TriangleStripSet':
      return polygons(node, pointsOf(node), counted(numbers(node, 'stripCount')).flatMap(strip).map(same));
    case 'TriangleFanSet':
      return polygons(node, pointsOf(node), counted(numbers(node, 'fanCount')).flatMap(fan).map(same));
    case 'ElevationGrid':
    case 'GeoElevationGrid':
      return grid(node);
    case 'Extrusion': {
      const { points: own, faces: all } = extruded(node);
      return polygons(node, own, all.map(same), number(node, 'creaseAngle', 0));
    }
    case 'IndexedLineSet':
      return indexedLines(node);
    case 'LineSet': {
      const own = pointsOf(node);
      const of = (list: readonly number[], width: number) =>
        counted(numbers(node, 'vertexCount')).map((run) => run.flatMap((i) => at(list, i, width)));
      const { list, width } = coloursOf(node);
      return lines(
        of(own, 3),
        list.length > 0 ? of(list, width).map((run) => groups(run, width).flatMap((c) => c.slice(0, 3))) : [],
      );
    }
    case 'PointSet': {
      const { list, width } = coloursOf(node);
      return points(
        pointsOf(node),
        groups(list, width).flatMap((c) => c.slice(0, 3)),
      );
    }
    default:
      return null;
  }
}

const at = (list: readonly number[], i: number, width: number): number[] =>
  list.slice(i * width, i * width + width);
const flat3 = (list: readonly number[]): number[] => groups(list, 2).flatMap(([x, y]) => [x!, y!, 0]);

function pointsOf(node: Plain3d): readonly number[] {
  const coord = nodeIn(node, 'coord');
  return coord ? numbers(coord, 'point') : [];
}

function coloursOf(node: Plain3d): { list: readonly number[]; width: number } {
  const colour = nodeIn(node, 'color');
  return {
    list: colour ? numbers(colour, 'color') : [],
    width: colour?.type === 'ColorRGBA' ? 4 : 3,
  };
}

/** Runs one behind the other, of so many each. */
function counted(counts: readonly number[]): number[][] {
  let from = 0;
  return counts.map((count) => {
    // What says more than any file holds is cut off by the points that are there.
    const run = Array.from({ length: Math.min(Math.max(0, count), 5_000_000) }, (_, i) => from + i);
    from += run.length;
    return run;
  });
}

const strip = (run: number[]): number[][] =>
  run
    .slice(2)
    .map((third, i) => (i % 2 === 0 ? [run[i]!, run[i + 1]!, third] : [run[i + 1]!, run[i]!, third]));
const fan = (run: number[]): number[][] => run.slice(2).map((third, i) => [run[0]!, run[i + 1]!, third]);

function indexedFaces(node: Plain3d): Geometry3d | null {
  const faces = runs(numbers(node, 'coordIndex'));
  /** What corners take from another list: by indices of its own, one for each face, or as they take their points. */
  const corners = (field: string, perVertex: boolean): ((face: number) => number[]) => {
    const index = numbers(node, field);
    if (perVertex) {
      if (index.length === 0) return (f) => faces[f]!;
      const own = runs(index);
      return (f) => own[f] ?? faces[f]!;
    }
    return (f) => faces[f]!.map(() => (index.length > 0 ? (index[f] ?? f) : f));
  };
  const colour = corners('colorIndex', flag(node, 'colorPerVertex', true));
  const normal = corners('normalIndex', flag(node, 'normalPerVertex', true));
  const texture = corners('texCoordIndex', true);
  return polygons(
    node,
    pointsOf(node),
    faces.map((point, f) => ({ point, colour: colour(f), normal: normal(f), texture: texture(f) })),
    number(node, 'creaseAngle', 0),
  );
}

function grid(node: Plain3d): Geometry3d | null {
  const [columns, rows] = [number(node, 'xDimension', 0), number(node, 'zDimension', 0)];
  const [dx, dz] = [number(node, 'xSpacing', 1), number(node, 'zSpacing', 1)];
  const heights = numbers(node, 'height');
  const across = Math.min(columns, heights.length);
  const down = Math.min(rows, Math.floor(heights.length / Math.max(1, columns)));
  const own: number[] = [];
  const texture: number[] = [];
  for (let z = 0; z < down; z++)
    for (let x = 0; x < across; x++) {
      own.push(x * dx, heights[z * columns + x]!, z * dz);
      texture.push(x / Math.max(1, across - 1), z / Math.max(1, down - 1));
    }
  const isPerVertex = flag(node, 'colorPerVertex', true);
  const faces: Face[] = [];
  for (let z = 0; z + 1 < down; z++)
    for (let x = 0; x + 1 < across; x++) {
      const a = z * across + x;
      const point = [a, a + across, a + across + 1, a + 1];
      const one = faces.length;
      faces.push({ ...same(point), ...(isPerVertex ? {} : { colour: point.map(() => one) }) });
    }
  return polygons(node, own, faces, number(node, 'creaseAngle', 0), texture);
}

/** Polygons as triangles with corners of their own. `crease`: edges flatter than this many radians are smoothed; null: all are. */
function polygons(
  node: Plain3d,
  own: readonly number[],
  faces: readonly Face[],
  crease: number | null = null,
  ownTexture: readonly number[] | null = null,
): Geometry3d | null {
  const colours = coloursOf(node);
  const normalNode = nodeIn(node, 'normal');
  const normals = normalNode ? numbers(normalNode, 'vector') : [];
  const textureNode = nodeIn(node, 'texCoord');
  const told = textureNode
    ? nodeIn(textureNode, 'texCoord') // of several, the first
      ? numbers(nodeIn(textureNode, 'texCoord')!, 'point')
      : numbers(textureNode, 'point')
    : (ownTexture ?? []);
  const uv = told.length > 0 ? told : boxed(own);
  const uvIndex = (face: Face) => (told.length > 0 ? face.texture : face.point);
  const isConvex = flag(node, 'convex', true);
  const isClockwise = !flag(node, 'ccw', true);
  const out = { position: [] as number[], normal: [] as number[], uv: [] as number[], color: [] as number[] };
  const count = own.length / 3;
  for (const face of faces) {
    const corners = [...face.point.keys()].filter((i) => face.point[i]! < count);
    for (const triangle of triangles(corners, face, own, isConvex)) {
      for (const i of isClockwise ? triangle.toReversed() : triangle) {
        out.position.push(...at(own, face.point[i]!, 3));
        if (normals.length > 0) out.normal.push(...filled(at(normals, face.normal[i]!, 3), [0, 1, 0]));
        out.uv.push(...filled(at(uv, uvIndex(face)[i]!, 2), [0, 0]));
        if (colours.list.length > 0)
          out.color.push(...filled(at(colours.list, face.colour[i]!, colours.width).slice(0, 3), [1, 1, 1]));
      }
    }
  }
  if (out.position.length === 0) return null;
  let geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(out.position, 3));
  geometry.setAttribute('uv', new THREE.Float32BufferAttribute(out.uv, 2));
  if (out.color.length > 0) geometry.setAttribute('color', coloured(out.color));
  if (out.normal.length > 0) geometry.setAttribute('normal', new THREE.Float32BufferAttribute(out.normal, 3));
  else if (crease === 0 || !flag(node, 'normalPerVertex', true)) geometry.computeVertexNormals();
  else geometry = toCreasedNormals(geometry, crease ?? Math.PI);
  return { as: 'faces', geometry };
}

const filled = (some: number[], otherwise: number[]): number[] =>
  some.length === otherwise.length ? some : otherwise;

/** Colours are written for the screen, as the standard's light has it; three.js adds light up before that. */
function coloured(list: readonly number[]): THREE.Float32BufferAttribute {
  const colour = new THREE.Color();
  return new THREE.Float32BufferAttribute(
    groups(list, 3).flatMap(([r, g, b]) => colour.setRGB(r!, g!, b!, THREE.SRGBColorSpace).toArray()),
    3,
  );
}

/** Triples of corners of one polygon. */
function triangles(corners: number[], face: Face, own: readonly number[], isConvex: boolean): number[][] {
  if (corners.length < 3) return [];
  if (corners.length === 3) return [corners];
  if (isConvex) return fan(corners);
  const flat = inPlane(corners.map((i) => new THREE.Vector3(...at(own, face.point[i]!, 3))));
  return THREE.ShapeUtils.triangulateShape(flat, []).map((t) => t.map((i) => corners[i]!));
}

/** Points of a polygon in their plane (by Newell's normal, so that one may be bent). */
function inPlane(list: readonly THREE.Vector3[]): THREE.Vector2[] {
  const normal = new THREE.Vector3();
  for (const [i, a] of list.entries()) {
    const b = list[(i + 1) % list.length]!;
    normal.x += (a.y - b.y) * (a.z + b.z);
    normal.y += (a.z - b.z) * (a.x + b.x);
    normal.z += (a.x - b.x) * (a.y + b.y);
  }
  normal.normalize();
  const side = Math.abs(normal.x) > 0.9 ? new THREE.Vector3(0, 1, 0) : new THREE.Vector3(1, 0, 0);
  const u = side.cross(normal).normalize();
  const v = normal.clone().cross(u);
  return list.map((p) => new THREE.Vector2(p.dot(u), p.dot(v)));
}

/** Texture coordinates where none are told: the longest side of the box from 0 to 1, the second beside it (ISO/IEC 19775-1, 13.3.6). */
function boxed(own: readonly number[]): number[] {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i + 2 < own.length; i += 3)
    for (let axis = 0; axis < 3; axis++) {
      low[axis] = Math.min(low[axis]!, own[i + axis]!);
      high[axis] = Math.max(high[axis]!, own[i + axis]!);
    }
  const size = low.map((l, axis) => high[axis]! - l);
  const [s, t] = [0, 1, 2].sort((a, b) => size[b]! - size[a]! || a - b) as [number, number, number];
  const out: number[] = [];
  for (let i = 0; i + 2 < own.length; i += 3)
    out.push((own[i + s]! - low[s]!) / (size[s] || 1), (own[i + t]! - low[t]!) / (size[s] || 1));
  return out;
}

function arc(node: Plain3d): number[][] {
  const radius = number(node, 'radius', 1);
  const isCircle = node.type === 'Circle2D';
  const from = isCircle ? 0 : number(node, 'startAngle', 0);
  let to = isCircle ? 2 * Math.PI : number(node, 'endAngle', Math.PI / 2);
  if (to <= from) to += 2 * Math.PI;
  const run = Array.from({ length: steps + 1 }, (_, i) => {
    const angle = from + ((to - from) * i) / steps;
    return [radius * Math.cos(angle), radius * Math.sin(angle), 0];
  }).flat();
  if (node.type === 'ArcClose2D') run.push(...run.slice(0, 3));
  return [run];
}

function indexedLines(node: Plain3d): Geometry3d | null {
  const own = pointsOf(node);
  const all = runs(numbers(node, 'coordIndex'));
  const { list, width } = coloursOf(node);
  const index = numbers(node, 'colorIndex');
  const isPerVertex = flag(node, 'colorPerVertex', true);
  const ownRuns = runs(index);
  const colours =
    list.length === 0
      ? []
      : all.map((run, r) =>
          run.flatMap((p, i) =>
            at(list, isPerVertex ? (ownRuns[r]?.[i] ?? p) : (index[r] ?? r), width).slice(0, 3),
          ),
        );
  return lines(
    all.map((run) => run.flatMap((i) => at(own, i, 3))),
    colours,
  );
}

/** Lines through the points of each run. */
function lines(allRuns: readonly number[][], colours: readonly number[][]): Geometry3d | null {
  const between = (list: readonly number[]) =>
    groups(list, 3).flatMap((point, i, all) => (i === 0 ? [] : [...all[i - 1]!, ...point]));
  const position = allRuns.flatMap(between);
  if (position.length === 0) return null;
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
  const colour = colours.flatMap(between);
  if (colour.length === position.length) geometry.setAttribute('color', coloured(colour));
  return { as: 'lines', geometry };
}

function points(position: readonly number[], colour: readonly number[]): Geometry3d | null {
  if (position.length < 3) return null;
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(position, 3));
  if (colour.length === position.length) geometry.setAttribute('color', coloured(colour));
  return { as: 'points', geometry };
}
