// glTF and GLB.

import * as THREE from 'three';
import { nameOf } from '@/core/files/treePath';
import { keyOf, keyOfRow } from '@/core/references/key';
import { count } from '@/core/text/figures';
import { isLost, type Sources } from '../sources';
import { withoutBuffers, type GltfJson } from './gltfWithout';
import { bufferOf, textIn, type Given, type Shown } from './reader';

/** What a glTF or GLB says of itself; empty where that cannot be read (its reader says why). */
function gltfJson(format: string, bytes: Uint8Array): GltfJson {
  try {
    if (format !== 'glb') return JSON.parse(textIn(bytes)) as GltfJson;
    const size = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
    return JSON.parse(textIn(bytes.subarray(20, 20 + size))) as GltfJson;
  } catch {
    return {};
  }
}

/** Buffers that lead to no file. */
function lostBuffers(sources: Sources, { buffers = [] }: GltfJson): { number: number; name: string }[] {
  return buffers.flatMap(({ uri }, number) => {
    if (uri === undefined || uri.startsWith('data:')) return [];
    const r = sources.find(uri);
    return r && !isLost(r) && r.state !== 'remote' ? [] : [{ number, name: nameOf(uri) }];
  });
}

async function loaded(manager: THREE.LoadingManager, said: GltfJson, content: ArrayBuffer | object) {
  const [{ GLTFLoader }, { MeshoptDecoder }] = await Promise.all([
    import('three/examples/jsm/loaders/GLTFLoader.js'),
    import('three/examples/jsm/libs/meshopt_decoder.module.js'),
  ]);
  const loader = new GLTFLoader(manager).setMeshoptDecoder(MeshoptDecoder);
  // Pictures arrive as ones that any browser shows, whatever they are on disk.
  loader.setKTX2Loader(new THREE.TextureLoader(manager) as never);
  if (said.extensionsUsed?.includes('KHR_draco_mesh_compression'))
    loader.setDRACOLoader((await (await import('./draco')).dracoReader()) as never);
  return loader.parseAsync(content as ArrayBuffer, '');
}
type Loaded = Awaited<ReturnType<typeof loaded>>;

/** The number of the image that a texture shows. */
function imageOf(gltf: Loaded, texture: THREE.Texture): number | undefined {
  type Texture = { source?: number; extensions?: Record<string, { source?: number }> };
  const textures = (gltf.parser.json as { textures?: Texture[] }).textures ?? [];
  const said = gltf.parser.associations.get(texture) as { textures?: number } | undefined;
  const t = textures[said?.textures ?? -1];
  return Object.values(t?.extensions ?? {}).find((e) => e.source !== undefined)?.source ?? t?.source;
}

export async function readGltf({ sources, bytes, format, manager, notes }: Given): Promise<Shown> {
  const said = gltfJson(format, bytes);
  // A buffer that is missing takes along what lies in it, and nothing else.
  const lost = format === 'gltf' ? lostBuffers(sources, said) : [];
  const left = lost.length > 0 ? withoutBuffers(said, new Set(lost.map((b) => b.number))) : null;
  if (left)
    notes.push(
      `${lost.map((b) => b.name).join(', ')} ${lost.length === 1 ? 'is' : 'are'} missing: ${count(left.objects, 'object')} cannot be shown.`,
    );
  const gltf = await loaded(manager, said, left ? left.json : bufferOf(bytes));
  return {
    object: gltf.scene,
    nodeOf(mesh) {
      for (let at: THREE.Object3D | null = mesh; at; at = at.parent) {
        const node = gltf.parser.associations.get(at) as { nodes?: number } | undefined;
        if (node?.nodes !== undefined) return String(node.nodes);
      }
      return null;
    },
    keyOfTexture(texture) {
      const source = imageOf(gltf, texture);
      return source === undefined ? undefined : keyOf(sources.view.scene, `/images/${source}/uri`);
    },
  };
}

/** A GLB that another reader made of the scene: its images have the scene's own words for them. */
export async function readMadeGlb({ sources, manager }: Given, glb: Uint8Array<ArrayBuffer>): Promise<Shown> {
  const said = gltfJson('glb', glb);
  const gltf = await loaded(manager, said, bufferOf(glb));
  const { images = [] } = gltf.parser.json as { images?: { uri?: string }[] };
  return {
    object: gltf.scene,
    keyOfTexture(texture) {
      const uri = images[imageOf(gltf, texture) ?? -1]?.uri;
      const r = uri === undefined ? undefined : sources.find(uri);
      return r && keyOfRow(r);
    },
  };
}
