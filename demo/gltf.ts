// Small glTF scenes for the demo: boxes with materials, in the text form with a buffer beside, or as GLB.

export interface Part {
  name: string;
  material: string;
  centre: readonly [number, number, number];
  size: readonly [number, number, number];
}

export interface Scene {
  parts: readonly Part[];
  cameras?: readonly { name: string; from: readonly [number, number, number] }[];
  /** Nodes that hold parts, by their names, and where they stand. */
  groups?: readonly { name: string; at: readonly [number, number, number]; holds: readonly string[] }[];
  /** Material name → slot → written URI of its picture. */
  materials: Record<string, { baseColor?: string; normal?: string; orm?: string }>;
}

const faces: [normal: number[], corners: number[][]][] = [
  [
    [1, 0, 0],
    [
      [1, -1, 1],
      [1, -1, -1],
      [1, 1, -1],
      [1, 1, 1],
    ],
  ],
  [
    [-1, 0, 0],
    [
      [-1, -1, -1],
      [-1, -1, 1],
      [-1, 1, 1],
      [-1, 1, -1],
    ],
  ],
  [
    [0, 1, 0],
    [
      [-1, 1, 1],
      [1, 1, 1],
      [1, 1, -1],
      [-1, 1, -1],
    ],
  ],
  [
    [0, -1, 0],
    [
      [-1, -1, -1],
      [1, -1, -1],
      [1, -1, 1],
      [-1, -1, 1],
    ],
  ],
  [
    [0, 0, 1],
    [
      [-1, -1, 1],
      [1, -1, 1],
      [1, 1, 1],
      [-1, 1, 1],
    ],
  ],
  [
    [0, 0, -1],
    [
      [1, -1, -1],
      [-1, -1, -1],
      [-1, 1, -1],
      [1, 1, -1],
    ],
  ],
];

/** One box of unit size as a buffer: positions, normals, texture coordinates, indexes. */
function boxBuffer(): Buffer {
  const floats: number[][] = [[], [], []];
  const indexes: number[] = [];
  faces.forEach(([normal, corners], f) => {
    corners.forEach((c, i) => {
      floats[0]!.push(...c.map((v) => v / 2));
      floats[1]!.push(...normal);
      floats[2]!.push([0, 1, 1, 0][i]!, [1, 1, 0, 0][i]!);
    });
    indexes.push(...[0, 1, 2, 0, 2, 3].map((i) => f * 4 + i));
  });
  return Buffer.concat([
    ...floats.map((f) => Buffer.from(new Float32Array(f).buffer)),
    Buffer.from(new Uint16Array(indexes).buffer),
  ]);
}

/** The document; `buffer` is the URI of the geometry, absent in a GLB. */
function document(scene: Scene, buffer: string | undefined) {
  const images: string[] = [];
  const texture = (uri: string) => {
    if (!images.includes(uri)) images.push(uri);
    return { index: images.indexOf(uri) };
  };
  const seen = scene.cameras ?? [];
  const groups = scene.groups ?? [];
  const partAt = (name: string) => scene.parts.findIndex((p) => p.name === name);
  const held = new Set(groups.flatMap((g) => g.holds.map(partAt)));
  const tops = [...scene.parts, ...seen, ...groups].map((_, i) => i).filter((i) => !held.has(i));
  const names = Object.keys(scene.materials);
  const materials = names.map((name) => {
    const m = scene.materials[name]!;
    return {
      name,
      pbrMetallicRoughness: {
        ...(m.baseColor ? { baseColorTexture: texture(m.baseColor) } : {}),
        ...(m.orm ? { metallicRoughnessTexture: texture(m.orm) } : {}),
        metallicFactor: m.orm ? 1 : 0,
      },
      ...(m.normal ? { normalTexture: texture(m.normal) } : {}),
      ...(m.orm ? { occlusionTexture: texture(m.orm) } : {}),
    };
  });
  const views = [
    [0, 288],
    [288, 288],
    [576, 192],
    [768, 72],
  ] as const;
  return {
    asset: { version: '2.0', generator: 'Harbour Lantern demo' },
    scene: 0,
    scenes: [{ name: 'harbour', nodes: tops }],
    nodes: [
      ...scene.parts.map((p, i) => ({ name: p.name, mesh: i, translation: p.centre, scale: p.size })),
      ...seen.map((v, i) => ({ name: v.name, camera: i, translation: v.from })),
      ...groups.map((g) => ({ name: g.name, translation: g.at, children: g.holds.map(partAt) })),
    ],
    ...(seen.length > 0
      ? {
          cameras: seen.map((v) => ({
            name: v.name,
            type: 'perspective',
            perspective: { yfov: 0.7, znear: 0.1 },
          })),
        }
      : {}),
    meshes: scene.parts.map((p) => ({
      name: p.name,
      primitives: [
        {
          attributes: { POSITION: 0, NORMAL: 1, TEXCOORD_0: 2 },
          indices: 3,
          material: names.indexOf(p.material),
        },
      ],
    })),
    materials,
    ...(images.length
      ? {
          textures: images.map((_, i) => ({ source: i, sampler: 0 })),
          samplers: [{}],
          // One that is embedded has no file that names it.
          images: images.map((uri) => (uri.startsWith('data:') ? { name: 'harbour water', uri } : { uri })),
        }
      : {}),
    accessors: [
      {
        bufferView: 0,
        componentType: 5126,
        count: 24,
        type: 'VEC3',
        min: [-0.5, -0.5, -0.5],
        max: [0.5, 0.5, 0.5],
      },
      { bufferView: 1, componentType: 5126, count: 24, type: 'VEC3' },
      { bufferView: 2, componentType: 5126, count: 24, type: 'VEC2' },
      { bufferView: 3, componentType: 5123, count: 36, type: 'SCALAR' },
    ],
    bufferViews: views.map(([byteOffset, byteLength], i) => ({
      buffer: 0,
      byteOffset,
      byteLength,
      target: i === 3 ? 34963 : 34962,
    })),
    buffers: [{ ...(buffer ? { uri: buffer } : {}), byteLength: 840 }],
  };
}

/** The text form: its JSON, and the buffer that belongs beside it. */
export function gltfText(scene: Scene, buffer: string): { json: string; bin: Buffer } {
  return { json: `${JSON.stringify(document(scene, buffer), null, 2)}\n`, bin: boxBuffer() };
}

/** The binary form (glTF 2.0 §4.4). */
export function glbBytes(scene: Scene): Buffer {
  let json = JSON.stringify(document(scene, undefined));
  while (Buffer.byteLength(json) % 4) json += ' ';
  const bin = boxBuffer();
  const text = Buffer.from(json);
  const out = Buffer.alloc(12 + 8 + text.length + 8 + bin.length);
  out.writeUInt32LE(0x46546c67, 0);
  out.writeUInt32LE(2, 4);
  out.writeUInt32LE(out.length, 8);
  out.writeUInt32LE(text.length, 12);
  out.writeUInt32LE(0x4e4f534a, 16);
  text.copy(out, 20);
  out.writeUInt32LE(bin.length, 20 + text.length);
  out.writeUInt32LE(0x004e4942, 24 + text.length);
  bin.copy(out, 28 + text.length);
  return out;
}

/** A box as Wavefront OBJ that uses one material of a library. */
export function objText(mtllib: string, material: string): string {
  const v = faces.flatMap(([, corners]) =>
    corners.map((c) => `v ${c.map((x) => (x / 2).toFixed(1)).join(' ')}`),
  );
  const f = faces.map((_, i) => `f ${[1, 2, 3, 4].map((n) => `${i * 4 + n}/${n}`).join(' ')}`);
  return [
    '# crate, one metre',
    `mtllib ${mtllib}`,
    'o crate',
    ...v,
    'vt 0 1',
    'vt 1 1',
    'vt 1 0',
    'vt 0 0',
    `usemtl ${material}`,
    ...f,
    '',
  ].join('\n');
}

/** One frame of the sea surface as ASCII PLY. */
export function seaFrame(frame: number, cells: number): string {
  const vertices: string[] = [];
  const triangles: string[] = [];
  for (let y = 0; y <= cells; y++)
    for (let x = 0; x <= cells; x++)
      vertices.push(
        `${x} ${(Math.sin(x * 0.9 + frame * 0.4) * 0.12 + Math.cos(y * 0.7 + frame * 0.25) * 0.09).toFixed(4)} ${y}`,
      );
  for (let y = 0; y < cells; y++)
    for (let x = 0; x < cells; x++) {
      const a = y * (cells + 1) + x;
      triangles.push(`4 ${a} ${a + 1} ${a + cells + 2} ${a + cells + 1}`);
    }
  return `ply\nformat ascii 1.0\nelement vertex ${vertices.length}\nproperty float x\nproperty float y\nproperty float z\nelement face ${triangles.length}\nproperty list uchar int vertex_indices\nend_header\n${[...vertices, ...triangles].join('\n')}\n`;
}
