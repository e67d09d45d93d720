// A grid and a box of known size, as a scene file in each format that can hold them: opened in any program, they show by eye whether its
// unit is the workspace's. The box stands on the grid, one grid spacing to a side, its corner at the middle. Numbers are in the
// workspace's unit where the format can declare one, in metres where the format lays that down.

import { zipSync } from 'fflate';
import { utf8 } from '../text/bytes';
import { metresIn, unitName, type WorkspaceUnits } from './units';

export const yardstickFormats = [
  'gltf',
  'glb',
  'obj',
  'usda',
  'usdz',
  'dae',
  'x3d',
  'x3dv',
  'ply',
  '3mf',
] as const;
export type YardstickFormat = (typeof yardstickFormats)[number];

type Point = [number, number, number];

interface Shape {
  /** Ends of lines, two by two, fine ones and heavy ones; corners of the box and its twelve triangles. */
  fine: Point[];
  heavy: Point[];
  corners: Point[];
  triangles: [number, number, number][];
}

const mostLines = 2000;

/** The shape in the workspace's unit times `factor`, lying flat for its up axis (`up` where the format has its own). */
function shapeOf(units: WorkspaceUnits, factor: number, up: 'Y' | 'Z'): Shape {
  const { spacing, heavyEvery, extent } = units.grid;
  const flat = (x: number, depth: number, height: number): Point =>
    up === 'Y'
      ? [x * factor, height * factor, -depth * factor]
      : [x * factor, depth * factor, height * factor];
  const count = Math.min(Math.floor(extent / spacing + 1e-9), mostLines);
  const reach = count * spacing;
  const fine: Point[] = [];
  const heavy: Point[] = [];
  for (let n = -count; n <= count; n++)
    (n % heavyEvery === 0 ? heavy : fine).push(
      flat(n * spacing, -reach, 0),
      flat(n * spacing, reach, 0),
      flat(-reach, n * spacing, 0),
      flat(reach, n * spacing, 0),
    );
  const s = spacing;
  const corners: Point[] = [
    flat(0, 0, 0),
    flat(s, 0, 0),
    flat(s, s, 0),
    flat(0, s, 0),
    flat(0, 0, s),
    flat(s, 0, s),
    flat(s, s, s),
    flat(0, s, s),
  ];
  const triangles: Shape['triangles'] = [
    [0, 2, 1],
    [0, 3, 2],
    [4, 5, 6],
    [4, 6, 7],
    [0, 1, 5],
    [0, 5, 4],
    [1, 2, 6],
    [1, 6, 5],
    [2, 3, 7],
    [2, 7, 6],
    [3, 0, 4],
    [3, 4, 7],
  ];
  return { fine, heavy, corners, triangles };
}

/** The file's name, without a folder. */
export function yardstickName(units: WorkspaceUnits, format: YardstickFormat): string {
  return `grid and box ${String(units.grid.spacing).replace('.', '_')} ${units.unit}.${format === 'x3dv' ? 'wrl' : format}`;
}

const n = (x: number) => String(Number(x.toPrecision(9)));
const points = (list: readonly Point[], between = ' ', around = (p: string) => p) =>
  list.map((p) => around(p.map(n).join(between === ', ' ? ', ' : ' '))).join(between);

/** The bytes of the scene. Every format gets the box; the grid too where it knows lines (3MF does not). */
export function yardstickScene(units: WorkspaceUnits, format: YardstickFormat): Uint8Array {
  const metres = metresIn(units.unit);
  const about = `Grid: a line every ${units.grid.spacing} ${units.unit}, a heavier one every ${units.grid.heavyEvery}; box: ${units.grid.spacing} ${units.unit} to a side`;
  switch (format) {
    case 'gltf':
    case 'glb':
      return gltf(shapeOf(units, metres, 'Y'), about, format === 'glb');
    case 'obj':
      return obj(
        shapeOf(units, 1, units.upAxis),
        `${about}. This format knows no unit: numbers are ${unitName(units.unit)}`,
      );
    case 'usda':
      return usda(shapeOf(units, 1, units.upAxis), about, metres, units.upAxis);
    case 'usdz':
      return usdz(usda(shapeOf(units, 1, units.upAxis), about, metres, units.upAxis));
    case 'dae':
      return dae(shapeOf(units, 1, units.upAxis), about, metres, unitName(units.unit, 1), units.upAxis);
    case 'x3d':
      return x3d(shapeOf(units, 1, 'Y'), about, metres, unitName(units.unit, 1));
    case 'x3dv':
      return vrml(shapeOf(units, metres, 'Y'), about);
    case 'ply':
      return ply(
        shapeOf(units, 1, units.upAxis),
        `${about}. This format knows no unit: numbers are ${unitName(units.unit)}`,
      );
    case '3mf':
      return threemf(shapeOf(units, metres * 1000, 'Z'), about);
  }
}

function gltf(s: Shape, about: string, binary: boolean): Uint8Array {
  const shapes = [
    { name: 'grid', list: s.fine, mode: 1 },
    { name: 'heavy grid', list: s.heavy, mode: 1 },
    { name: 'box', list: s.corners, mode: 4 },
  ].filter((l) => l.list.length > 0);
  const accessors: object[] = [];
  const views: { byteOffset: number; byteLength: number; buffer: number; target: number }[] = [];
  const parts: Uint8Array[] = [];
  let at = 0;
  const put = (bytes: Uint8Array, target: number) => {
    views.push({ buffer: 0, byteOffset: at, byteLength: bytes.length, target });
    parts.push(bytes);
    at += bytes.length;
  };
  for (const { list } of shapes) {
    const flat = Float32Array.from(list.flat());
    put(new Uint8Array(flat.buffer), 34962);
    const of = (pick: (a: number, b: number) => number) =>
      [0, 1, 2].map((k) => list.map((p) => Math.fround(p[k]!)).reduce((a, b) => pick(a, b)));
    accessors.push({
      bufferView: views.length - 1,
      componentType: 5126,
      count: list.length,
      type: 'VEC3',
      min: of(Math.min),
      max: of(Math.max),
    });
  }
  const indices = Uint16Array.from(s.triangles.flat());
  put(new Uint8Array(indices.buffer), 34963);
  accessors.push({
    bufferView: views.length - 1,
    componentType: 5123,
    count: indices.length,
    type: 'SCALAR',
  });
  const bin = new Uint8Array(Math.ceil(at / 4) * 4);
  for (const [i, p] of parts.entries()) bin.set(p, views[i]!.byteOffset);
  const json = {
    asset: { version: '2.0', generator: 'Loyal Satchel' },
    scene: 0,
    scenes: [{ nodes: shapes.map((_, i) => i), extras: { about } }],
    nodes: shapes.map((l, i) => ({ name: l.name, mesh: i })),
    meshes: shapes.map((l, i) => ({
      primitives: [
        { attributes: { POSITION: i }, mode: l.mode, ...(l.mode === 4 ? { indices: shapes.length } : {}) },
      ],
    })),
    accessors,
    bufferViews: views,
    buffers: [
      {
        byteLength: bin.length,
        ...(binary ? {} : { uri: `data:application/octet-stream;base64,${base64(bin)}` }),
      },
    ],
  };
  if (!binary) return utf8(`${JSON.stringify(json, null, 1)}\n`);
  const text = utf8(JSON.stringify(json));
  const padded = Math.ceil(text.length / 4) * 4;
  const out = new Uint8Array(12 + 8 + padded + 8 + bin.length).fill(0x20);
  const v = new DataView(out.buffer);
  for (const [i, word] of [0x46546c67, 2, out.length, padded, 0x4e4f534a].entries())
    v.setUint32(i * 4, word, true);
  out.set(text, 20);
  v.setUint32(20 + padded, bin.length, true);
  v.setUint32(24 + padded, 0x004e4942, true);
  out.set(bin, 28 + padded);
  return out;
}

function base64(bytes: Uint8Array): string {
  const digits = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  let out = '';
  for (let i = 0; i < bytes.length; i += 3) {
    const [a, b, c] = [bytes[i]!, bytes[i + 1], bytes[i + 2]];
    out +=
      digits[a >> 2]! +
      digits[((a & 3) << 4) | ((b ?? 0) >> 4)]! +
      (b === undefined ? '=' : digits[((b & 15) << 2) | ((c ?? 0) >> 6)]!) +
      (c === undefined ? '=' : digits[c & 63]!);
  }
  return out;
}

function obj(s: Shape, about: string): Uint8Array {
  const lines = [...s.fine, ...s.heavy];
  const all = [...lines, ...s.corners];
  const pairs = Array.from({ length: lines.length / 2 }, (_, i) => `l ${i * 2 + 1} ${i * 2 + 2}`);
  return utf8(
    `# ${about}\n${all.map((p) => `v ${p.map(n).join(' ')}`).join('\n')}\no grid\n${pairs.join('\n')}\no box\n${s.triangles.map((t) => `f ${t.map((i) => i + lines.length + 1).join(' ')}`).join('\n')}\n`,
  );
}

function usda(s: Shape, about: string, metres: number, up: string): Uint8Array {
  const curves = (name: string, list: Point[]) =>
    list.length === 0
      ? ''
      : `    def BasisCurves "${name}"\n    {\n        uniform token type = "linear"\n        int[] curveVertexCounts = [${list
          .filter((_, i) => i % 2 === 0)
          .map(() => 2)
          .join(', ')}]\n        point3f[] points = [${points(list, ', ', (p) => `(${p})`)}]\n    }\n`;
  return utf8(
    `#usda 1.0\n(\n    defaultPrim = "Reference"\n    doc = "${about}"\n    metersPerUnit = ${metres}\n    upAxis = "${up}"\n)\n\ndef Xform "Reference"\n{\n${curves('Grid', s.fine)}${curves('HeavyGrid', s.heavy)}    def Mesh "Box"\n    {\n        int[] faceVertexCounts = [${s.triangles.map(() => 3).join(', ')}]\n        int[] faceVertexIndices = [${s.triangles.flat().join(', ')}]\n        point3f[] points = [${points(s.corners, ', ', (p) => `(${p})`)}]\n        uniform token subdivisionScheme = "none"\n    }\n}\n`,
  );
}

/** One stored entry whose data begin at byte 64, as the usdz specification asks. */
function usdz(layer: Uint8Array): Uint8Array {
  const name = 'reference.usda';
  const extra = new Uint8Array(64 - 30 - name.length - 4);
  return zipSync(
    { [name]: [layer, { level: 0, extra: { 0x1986: extra } }] },
    { mtime: new Date(1980, 0, 1) },
  );
}

function dae(s: Shape, about: string, metres: number, unit: string, up: string): Uint8Array {
  const geometry = (id: string, list: Point[], body: string) =>
    `    <geometry id="${id}"><mesh>\n      <source id="${id}-points"><float_array id="${id}-array" count="${list.length * 3}">${points(list)}</float_array><technique_common><accessor source="#${id}-array" count="${list.length}" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>\n      <vertices id="${id}-vertices"><input semantic="POSITION" source="#${id}-points"/></vertices>\n      ${body}\n    </mesh></geometry>\n`;
  const lines = (id: string, list: Point[]) =>
    geometry(
      id,
      list,
      `<lines count="${list.length / 2}"><input semantic="VERTEX" source="#${id}-vertices" offset="0"/><p>${list.map((_, i) => i).join(' ')}</p></lines>`,
    );
  const all = (
    [
      ['grid', s.fine],
      ['heavy', s.heavy],
    ] as [string, Point[]][]
  ).filter(([, list]) => list.length > 0);
  return utf8(
    `<?xml version="1.0" encoding="utf-8"?>\n<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">\n  <asset><contributor><comments>${about}</comments></contributor><created>2000-01-01T00:00:00Z</created><modified>2000-01-01T00:00:00Z</modified><unit name="${unit}" meter="${metres}"/><up_axis>${up}_UP</up_axis></asset>\n  <library_geometries>\n${all.map(([id, list]) => lines(id, list)).join('')}${geometry('box', s.corners, `<triangles count="${s.triangles.length}"><input semantic="VERTEX" source="#box-vertices" offset="0"/><p>${s.triangles.flat().join(' ')}</p></triangles>`)}  </library_geometries>\n  <library_visual_scenes><visual_scene id="reference">${[...all.map(([id]) => id), 'box'].map((id) => `<node id="${id}-node"><instance_geometry url="#${id}"/></node>`).join('')}</visual_scene></library_visual_scenes>\n  <scene><instance_visual_scene url="#reference"/></scene>\n</COLLADA>\n`,
  );
}

function x3d(s: Shape, about: string, metres: number, unit: string): Uint8Array {
  const lines = (list: Point[]) =>
    list.length === 0
      ? ''
      : `    <Shape><LineSet vertexCount="${list
          .filter((_, i) => i % 2 === 0)
          .map(() => 2)
          .join(' ')}"><Coordinate point="${points(list, ', ')}"/></LineSet></Shape>\n`;
  return utf8(
    `<?xml version="1.0" encoding="UTF-8"?>\n<X3D profile="Interchange" version="3.3">\n  <head><unit category="length" name="${unit}" conversionFactor="${metres}"/><meta name="description" content="${about}"/></head>\n  <Scene>\n${lines(s.fine)}${lines(s.heavy)}    <Shape><Appearance><Material/></Appearance><IndexedFaceSet coordIndex="${s.triangles.map((t) => `${t.join(' ')} -1`).join(' ')}"><Coordinate point="${points(s.corners, ', ')}"/></IndexedFaceSet></Shape>\n  </Scene>\n</X3D>\n`,
  );
}

function vrml(s: Shape, about: string): Uint8Array {
  const lines = (list: Point[]) =>
    list.length === 0
      ? ''
      : `Shape { geometry IndexedLineSet { coord Coordinate { point [ ${points(list, ', ')} ] } coordIndex [ ${list.map((_, i) => (i % 2 === 0 ? `${i}` : `${i}, -1`)).join(', ')} ] } }\n`;
  return utf8(
    `#VRML V2.0 utf8\nWorldInfo { info "${about}" }\n${lines(s.fine)}${lines(s.heavy)}Shape { appearance Appearance { material Material { } } geometry IndexedFaceSet { coord Coordinate { point [ ${points(s.corners, ', ')} ] } coordIndex [ ${s.triangles.map((t) => `${t.join(', ')}, -1`).join(', ')} ] } }\n`,
  );
}

function ply(s: Shape, about: string): Uint8Array {
  const lines = [...s.fine, ...s.heavy];
  const all = [...lines, ...s.corners];
  return utf8(
    `ply\nformat ascii 1.0\ncomment ${about}\nelement vertex ${all.length}\nproperty float x\nproperty float y\nproperty float z\nelement face ${s.triangles.length}\nproperty list uchar int vertex_indices\nelement edge ${lines.length / 2}\nproperty int vertex1\nproperty int vertex2\nend_header\n${all.map((p) => p.map(n).join(' ')).join('\n')}\n${s.triangles.map((t) => `3 ${t.map((i) => i + lines.length).join(' ')}`).join('\n')}\n${Array.from({ length: lines.length / 2 }, (_, i) => `${i * 2} ${i * 2 + 1}`).join('\n')}\n`,
  );
}

function threemf(s: Shape, about: string): Uint8Array {
  const model = `<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xml:lang="en" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">\n  <metadata name="Description">${about}</metadata>\n  <resources><object id="1" type="model"><mesh><vertices>${s.corners.map(([x, y, z]) => `<vertex x="${n(x)}" y="${n(y)}" z="${n(z)}"/>`).join('')}</vertices><triangles>${s.triangles.map(([a, b, c]) => `<triangle v1="${a}" v2="${b}" v3="${c}"/>`).join('')}</triangles></mesh></object></resources>\n  <build><item objectid="1"/></build>\n</model>\n`;
  return zipSync(
    {
      '[Content_Types].xml': utf8(
        '<?xml version="1.0" encoding="UTF-8"?>\n<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>',
      ),
      '_rels/.rels': utf8(
        '<?xml version="1.0" encoding="UTF-8"?>\n<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>',
      ),
      '3D/3dmodel.model': utf8(model),
    },
    { mtime: new Date(1980, 0, 1) },
  );
}
