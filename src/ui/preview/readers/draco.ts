// Geometry packed by Draco (KHR_draco_mesh_compression), unpacked by the decoder that comes with three.js, in this page: no worker, nothing fetched.

import * as THREE from 'three';

type Numbers = Float32Array | Int8Array | Int16Array | Int32Array | Uint8Array | Uint16Array | Uint32Array;
interface Draco {
  Decoder: new () => {
    DecodeArrayToMesh(
      bytes: Int8Array,
      size: number,
      into: DracoMesh,
    ): { ok(): boolean; error_msg(): string };
    GetAttributeByUniqueId(mesh: DracoMesh, id: number): { num_components(): number };
    GetAttributeDataArrayForAllPoints(
      mesh: DracoMesh,
      of: object,
      type: number,
      size: number,
      at: number,
    ): boolean;
    GetTrianglesUInt32Array(mesh: DracoMesh, size: number, at: number): boolean;
  };
  Mesh: new () => DracoMesh;
  destroy(thing: object): void;
  _malloc(size: number): number;
  _free(at: number): void;
  HEAPF32: Float32Array;
  [type: `DT_${string}`]: number;
}
interface DracoMesh {
  num_points(): number;
  num_faces(): number;
}

const kinds = {
  Float32Array: [Float32Array, 'DT_FLOAT32'],
  Int8Array: [Int8Array, 'DT_INT8'],
  Int16Array: [Int16Array, 'DT_INT16'],
  Int32Array: [Int32Array, 'DT_INT32'],
  Uint8Array: [Uint8Array, 'DT_UINT8'],
  Uint16Array: [Uint16Array, 'DT_UINT16'],
  Uint32Array: [Uint32Array, 'DT_UINT32'],
} as const;

function geometryOf(
  draco: Draco,
  bytes: ArrayBuffer,
  ids: Record<string, number>,
  types: Record<string, keyof typeof kinds>,
): THREE.BufferGeometry {
  const decoder = new draco.Decoder();
  const mesh = new draco.Mesh();
  try {
    const status = decoder.DecodeArrayToMesh(new Int8Array(bytes), bytes.byteLength, mesh);
    if (!status.ok()) throw new Error(`Its packed geometry cannot be unpacked: ${status.error_msg()}`);
    /** Numbers that the decoder writes into memory of its own. */
    const taken = (
      Kind: (typeof kinds)[keyof typeof kinds][0],
      count: number,
      fill: (at: number, size: number) => void,
    ): Numbers => {
      const size = count * Kind.BYTES_PER_ELEMENT;
      const at = draco._malloc(size);
      try {
        fill(at, size);
        return new Kind(draco.HEAPF32.buffer as ArrayBuffer, at, count).slice();
      } finally {
        draco._free(at);
      }
    };
    const geometry = new THREE.BufferGeometry();
    for (const [name, id] of Object.entries(ids)) {
      const attribute = decoder.GetAttributeByUniqueId(mesh, id);
      const [Kind, type] = kinds[types[name] ?? 'Float32Array'];
      const each = attribute.num_components();
      const numbers = taken(Kind, mesh.num_points() * each, (at, size) =>
        decoder.GetAttributeDataArrayForAllPoints(mesh, attribute, draco[type]!, size, at),
      );
      geometry.setAttribute(name, new THREE.BufferAttribute(numbers, each));
    }
    const index = taken(Uint32Array, mesh.num_faces() * 3, (at, size) =>
      decoder.GetTrianglesUInt32Array(mesh, size, at),
    );
    geometry.setIndex(new THREE.BufferAttribute(index, 1));
    return geometry;
  } finally {
    draco.destroy(mesh);
    draco.destroy(decoder);
  }
}

let held: Promise<Draco> | null = null;

/** The decoder is a script that is no module: it is put into the page, once, when the first packed geometry comes. */
function decoder(): Promise<Draco> {
  return (held ??= new Promise((resolve, reject) => {
    const script = document.createElement('script');
    script.src = new URL('three/examples/jsm/libs/draco/gltf/draco_decoder.js', import.meta.url).href;
    script.onload = () => {
      const { DracoDecoderModule } = globalThis as unknown as { DracoDecoderModule: () => Promise<Draco> };
      DracoDecoderModule().then(resolve, reject);
    };
    script.onerror = () => reject(new Error('the decoder of packed geometry did not come'));
    document.head.append(script);
  }));
}

/** What the glTF reader asks for packed geometry. */
export async function dracoReader(): Promise<{
  preload(): void;
  decodeDracoFile(
    bytes: ArrayBuffer,
    done: (geometry: THREE.BufferGeometry) => void,
    ids: Record<string, number>,
    types: Record<string, keyof typeof kinds>,
    space: string,
    failed: (cause: unknown) => void,
  ): void;
}> {
  const draco = await decoder();
  return {
    preload: () => undefined,
    decodeDracoFile(bytes, done, ids, types, _, failed) {
      try {
        done(geometryOf(draco, bytes, ids, types));
      } catch (cause) {
        failed(cause);
      }
    },
  };
}
