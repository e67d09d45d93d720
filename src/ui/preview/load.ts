// A scene file as objects in space. Every path a reader asks for is answered by the workspace's own resolution.

import * as THREE from 'three';
import { folderOf, joinInside, treePath } from '@/core/files/treePath';
import { readAgainFormats, seenFormats } from '@/core/formats/inSpace';
import { unwrapped, type Unwrapped } from '@/core/formats/packed';
import { keyOfRow } from '@/core/references/key';
import { bytes as megabytes } from '@/core/text/figures';
import { NotShown, type Given, type Reader, type Shown } from './readers/reader';
import { decode, isLost, type Sources } from './sources';

export interface Model {
  object: THREE.Object3D;
  /** Keys of the references each mesh is drawn with. */
  references: Map<THREE.Mesh, string[]>;
  /** The number of the node that a mesh belongs to; null: its format has none. */
  nodeOf: (mesh: THREE.Object3D) => string | null;
  notes: string[];
  /** How many things are drawn: faces, points, lines. */
  drawn: number;
}

const textureSlots = [
  'map',
  'normalMap',
  'roughnessMap',
  'metalnessMap',
  'aoMap',
  'emissiveMap',
  'alphaMap',
  'bumpMap',
  'displacementMap',
  'specularMap',
  'lightMap',
  'clearcoatMap',
  'clearcoatNormalMap',
  'clearcoatRoughnessMap',
  'transmissionMap',
  'thicknessMap',
  'sheenColorMap',
  'sheenRoughnessMap',
  'specularColorMap',
  'specularIntensityMap',
  'iridescenceMap',
  'anisotropyMap',
] as const;

// A page has to hold it twice; beyond this a browser ends the page.
const mostBytes = 500_000_000;

/** The reader of a format comes when it is needed. */
const readers: Record<string, () => Promise<Reader>> = {
  gltf: async () => (await import('./readers/gltf')).readGltf,
  glb: async () => (await import('./readers/gltf')).readGltf,
  obj: async () => (await import('./readers/obj')).readObj,
  dae: async () => (await import('./readers/others')).readCollada,
  zae: async () => (await import('./readers/others')).readCollada,
  ply: async () => (await import('./readers/others')).readPly,
  '3mf': async () => (await import('./readers/others')).read3mf,
  x3d: async () => (await import('./readers/x3d')).readX3d,
  x3dv: async () => (await import('./readers/x3d')).readX3d,
  mtlx: async () => (await import('./readers/materialX')).readMaterialX,
  usda: async () => (await import('./readers/usd')).readUsd,
  usdc: async () => (await import('./readers/usd')).readUsd,
  usdz: async () => (await import('./readers/usd')).readUsd,
};

async function bytesOf(address: string, signal: AbortSignal): Promise<Uint8Array<ArrayBuffer>> {
  const answer = await fetch(address, { signal });
  if (!answer.ok)
    throw new NotShown(
      ((await answer.json().catch(() => null)) as { error?: { message: string } } | null)?.error?.message ??
        `The server answered ${answer.status}.`,
    );
  return new Uint8Array(await answer.arrayBuffer());
}

/** Answers every path that a reader of `from` asks for; `idle` resolves when nothing is on its way. `packed`: addresses of what lies in the same package. */
function managerOf(
  sources: Sources,
  from: string,
  packed?: (path: string) => string | undefined,
): { manager: THREE.LoadingManager; idle: () => Promise<void> } {
  const manager = new THREE.LoadingManager();
  let isBusy = false;
  let tell = () => {};
  manager.onStart = () => {
    isBusy = true;
  };
  manager.onLoad = () => {
    isBusy = false;
    tell();
  };
  manager.setURLModifier((url) => {
    if (/^(blob:|data:|\/api\/)/.test(url)) return url;
    const inside = packed?.(url);
    if (inside !== undefined) return inside;
    const r = sources.find(url, from);
    return r ? sources.address(r) : 'data:,';
  });
  return {
    manager,
    idle: () =>
      new Promise((resolve) => {
        if (isBusy) tell = resolve;
        else resolve();
      }),
  };
}

/** Pictures of a package, each with an address in this page. */
async function picturesIn({ path, beside, names }: Unwrapped): Promise<Map<string, string>> {
  const addresses = new Map<string, string>();
  for (const name of names) {
    const kind = /\.(png|jpe?g|gif|bmp|webp|avif)$/i.exec(name)?.[1]?.toLowerCase();
    const bytes = kind && name !== path ? await beside(name) : null;
    if (bytes)
      addresses.set(
        name,
        URL.createObjectURL(
          new Blob([new Uint8Array(bytes)], { type: `image/${kind === 'jpg' ? 'jpeg' : kind}` }),
        ),
      );
  }
  return addresses;
}

/** Loads the scene of `sources`. Throws with a sentence where it cannot be shown. */
export async function loadModel(sources: Sources, signal: AbortSignal): Promise<Model> {
  try {
    return await readModel(sources, signal);
  } catch (cause) {
    if (signal.aborted || cause instanceof NotShown) throw cause;
    // What a reader stumbles over is for those who write readers.
    console.warn(`${sources.view.scene} is not shown:`, cause);
    throw new Error(
      'The reader for this format cannot make out what is in it, so there is nothing to see here.',
      { cause },
    );
  }
}

async function readModel(sources: Sources, signal: AbortSignal): Promise<Model> {
  const { scene, format } = sources.view;
  if (!format || !seenFormats.has(format))
    throw new NotShown(`Scenes of this format (${format ?? 'unknown'}) cannot be shown in space.`);
  const size =
    sources.view.size +
    sources.view.references.reduce((sum, r) => sum + (r.kind === 'buffer' ? (r.size ?? 0) : 0), 0);
  if (size > mostBytes)
    throw new NotShown(`With ${megabytes(size)} this scene is too large to be shown in a browser.`);
  const inner = await unwrapped(format, await bytesOf(sources.file(scene), signal));
  if (!inner) throw new NotShown('What is packed in this file cannot be unpacked.');
  const pictures = await picturesIn(inner);
  const packed = (url: string) => {
    for (const path of [url, decode(url)]) {
      const inside = joinInside(folderOf(treePath(inner.path)), path.replace(/^\.\//, ''));
      const address = inside === null ? undefined : pictures.get(inside);
      if (address !== undefined) return address;
    }
    return undefined;
  };
  const waits: (() => Promise<void>)[] = [];
  const managed = (file: string) => {
    const { manager, idle } = managerOf(sources, file, pictures.size > 0 ? packed : undefined);
    waits.push(idle);
    return manager;
  };
  const given: Given = {
    sources,
    bytes: inner.bytes as Uint8Array<ArrayBuffer>,
    format,
    manager: managed(scene),
    managerOf: managed,
    fetch: (address) => bytesOf(address, signal),
    notes: [],
  };
  try {
    const shown = await readTwice(given, signal);
    signal.throwIfAborted();
    for (const idle of waits) await idle();
    return modelOf(shown, given);
  } finally {
    for (const address of pictures.values()) URL.revokeObjectURL(address);
  }
}

/** By the format's own reader; where that fails or shows nothing, by the server's second one. */
async function readTwice(given: Given, signal: AbortSignal): Promise<Shown> {
  const { sources, format } = given;
  let shown: Shown | null = null;
  let failed: unknown = null;
  try {
    shown = await (await readers[format]!())(given);
    if (drawnIn(shown.object) > 0) return shown;
  } catch (cause) {
    if (signal.aborted) throw cause;
    failed = cause;
  }
  const again = readAgainFormats.has(format) ? sources.again() : null;
  if (again !== null)
    try {
      const glb = await bytesOf(again, signal);
      const second = await (await import('./readers/gltf')).readMadeGlb(given, glb);
      if (drawnIn(second.object) > 0) return second;
    } catch (cause) {
      if (signal.aborted) throw cause;
    }
  if (shown) return shown;
  throw failed;
}

/** How many things are drawn: faces, points or lines, each with at least one corner. */
function drawnIn(object: THREE.Object3D): number {
  let drawn = 0;
  object.traverse((o) => {
    if (
      (o instanceof THREE.Mesh || o instanceof THREE.Points || o instanceof THREE.Line) &&
      ((o.geometry as THREE.BufferGeometry).getAttribute('position')?.count ?? 0) > 0
    )
      drawn++;
  });
  return drawn;
}

/** What was read, with the references each mesh is drawn with. */
function modelOf(
  { object, keyOfTexture, nodeOf = () => null, keysOf, isUnscaled }: Shown,
  { sources, format, notes }: Given,
): Model {
  const { metres } = sources.view.units;
  if (metres !== null && isUnscaled) object.scale.multiplyScalar(metres);
  const byAddress = (texture: THREE.Texture): string | undefined => {
    const src = (texture.image as { src?: string } | null)?.src;
    const r = src ? sources.ofAddress(src) : undefined;
    return r && keyOfRow(r);
  };
  const references = new Map<THREE.Mesh, string[]>();
  object.updateMatrixWorld(true);
  object.traverse((o) => {
    if (!(o instanceof THREE.Mesh)) return;
    const keys = new Set<string>();
    for (const material of [o.material as THREE.Material | THREE.Material[]].flat()) {
      // Only glTF says of a face whether it has a back; elsewhere one is as good as the other.
      if (format !== 'gltf' && format !== 'glb') material.side = THREE.DoubleSide;
      for (const key of keysOf?.get(material) ?? []) keys.add(key);
      for (const slot of textureSlots) {
        const texture = (material as unknown as Record<string, unknown>)[slot];
        const key = texture instanceof THREE.Texture ? (keyOfTexture ?? byAddress)(texture) : undefined;
        if (key !== undefined) keys.add(key);
      }
    }
    references.set(o, [...keys]);
  });
  const drawn = drawnIn(object);
  if (drawn === 0) notes.push('This file holds nothing that could be drawn by itself.');
  return { object, references, nodeOf, notes, drawn };
}

/** What is missing from a mesh: names of files, the first of which is written on it. */
export function lostOf(sources: Sources, keys: readonly string[]): string[] {
  return keys.flatMap((key) => {
    const r = sources.view.references.find((x) => keyOfRow(x) === key);
    return r && isLost(r) ? [r.written.split(/[\\/]/).pop()!] : [];
  });
}
