// A scene file as objects in space, by three.js' readers. Every path a reader asks for is answered by the workspace's own resolution.

import * as THREE from 'three';
import { folderOf, nameOf } from '@/core/files/treePath';
import { keyOf, keyOfRow } from '@/core/references/key';
import { bytes as megabytes, count } from '@/core/text/figures';
import { seenFormats } from './formats';
import { withoutBuffers, type GltfJson } from './gltfWithout';
import { isLost, Sources, tidyPath } from './sources';

export interface Model {
  object: THREE.Object3D;
  /** Keys of the references each mesh is drawn with. */
  references: Map<THREE.Mesh, string[]>;
  /** The number of the node that a mesh belongs to; null: its format has none. */
  nodeOf: (mesh: THREE.Object3D) => string | null;
  notes: string[];
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

async function bytesOf(address: string, signal: AbortSignal): Promise<ArrayBuffer> {
  const answer = await fetch(address, { signal });
  if (!answer.ok)
    throw new NotShown(
      ((await answer.json().catch(() => null)) as { error?: { message: string } } | null)?.error?.message ??
        `The server answered ${answer.status}.`,
    );
  return answer.arrayBuffer();
}

/** Answers every path that a reader of `from` asks for; `idle` resolves when nothing is on its way. */
function managerOf(
  sources: Sources,
  from: string,
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

/** Why a scene cannot be shown, as a sentence. */
class NotShown extends Error {}

/** The text of a file, in UTF-16 where it begins with that mark (Unicode Standard §23.8), else UTF-8. */
function textIn(bytes: Uint8Array): string {
  const mark = (bytes[0]! << 8) | bytes[1]!;
  return new TextDecoder(mark === 0xfffe ? 'utf-16le' : mark === 0xfeff ? 'utf-16be' : 'utf-8').decode(bytes);
}

/** What a glTF or GLB says of itself; empty where that cannot be read (its reader says why). */
function gltfJson(format: 'gltf' | 'glb', bytes: ArrayBuffer): GltfJson {
  try {
    const size = format === 'glb' ? new DataView(bytes).getUint32(12, true) : 0;
    return JSON.parse(
      textIn(format === 'glb' ? new Uint8Array(bytes, 20, size) : new Uint8Array(bytes)),
    ) as GltfJson;
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

/** X3D in XML in its classic form. */
async function classicText(bytes: ArrayBuffer): Promise<string> {
  const { classicOf } = await import('@/core/convert/x3d/convert');
  const classic = classicOf(new Uint8Array(bytes));
  if ('refused' in classic) throw new NotShown(classic.refused);
  return textIn(classic.content);
}

/** X3D in its classic form as the VRML it came from: the same nodes under another first line, without the statements VRML has not (ISO/IEC 19776-2). */
const asVrml = (text: string): string =>
  text
    .replace(/^\uFEFF?#X3D [^\n]*/, '#VRML V2.0 utf8')
    .replace(
      /^[ \t]*(?:PROFILE[ \t]+\w+|COMPONENT[ \t]+\w+:\d+|META[ \t]+"(?:[^"\\]|\\.)*"[ \t]+"(?:[^"\\]|\\.)*"|UNIT[ \t]+\w+[ \t]+\S+[ \t]+\S+)[ \t]*$/gm,
      '',
    );

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
      {
        cause,
      },
    );
  }
}

async function readModel(sources: Sources, signal: AbortSignal): Promise<Model> {
  const { scene, format } = sources.view;
  const notes: string[] = [];
  if (!format || !seenFormats.has(format))
    throw new NotShown(`Scenes of this format (${format ?? 'unknown'}) cannot be shown in space.`);
  const size =
    sources.view.size +
    sources.view.references.reduce((sum, r) => sum + (r.kind === 'buffer' ? (r.size ?? 0) : 0), 0);
  if (size > mostBytes)
    throw new NotShown(`With ${megabytes(size)} this scene is too large to be shown in a browser.`);
  const bytes = await bytesOf(sources.file(scene), signal);
  const { manager, idle } = managerOf(sources, scene);
  const others: (() => Promise<void>)[] = [];
  const text = () => textIn(new Uint8Array(bytes));
  let object: THREE.Object3D;
  let keyOfTexture = (texture: THREE.Texture): string | undefined => {
    const src = (texture.image as { src?: string } | null)?.src;
    const r = src ? sources.ofAddress(src) : undefined;
    return r && keyOfRow(r);
  };
  let nodeOf: Model['nodeOf'] = () => null;
  const extra = new Map<THREE.Material, string[]>();
  switch (format) {
    case 'gltf':
    case 'glb': {
      const [{ GLTFLoader }, { MeshoptDecoder }] = await Promise.all([
        import('three/examples/jsm/loaders/GLTFLoader.js'),
        import('three/examples/jsm/libs/meshopt_decoder.module.js'),
      ]);
      const loader = new GLTFLoader(manager).setMeshoptDecoder(MeshoptDecoder);
      // Pictures arrive as ones that any browser shows, whatever they are on disk.
      loader.setKTX2Loader(new THREE.TextureLoader(manager) as never);
      const said = gltfJson(format, bytes);
      if (said.extensionsUsed?.includes('KHR_draco_mesh_compression'))
        loader.setDRACOLoader((await (await import('./draco')).dracoReader()) as never);
      // A buffer that is missing takes along what lies in it, and nothing else.
      const lost = format === 'gltf' ? lostBuffers(sources, said) : [];
      const left = lost.length > 0 ? withoutBuffers(said, new Set(lost.map((b) => b.number))) : null;
      if (left)
        notes.push(
          `${lost.map((b) => b.name).join(', ')} ${lost.length === 1 ? 'is' : 'are'} missing: ${count(left.objects, 'object')} cannot be shown.`,
        );
      const gltf = await loader.parseAsync((left ? left.json : bytes) as ArrayBuffer, '');
      object = gltf.scene;
      nodeOf = (mesh) => {
        for (let at: THREE.Object3D | null = mesh; at; at = at.parent) {
          const said = gltf.parser.associations.get(at) as { nodes?: number } | undefined;
          if (said?.nodes !== undefined) return String(said.nodes);
        }
        return null;
      };
      type Texture = { source?: number; extensions?: Record<string, { source?: number }> };
      const textures = (gltf.parser.json as { textures?: Texture[] }).textures ?? [];
      keyOfTexture = (texture) => {
        const t =
          textures[
            (gltf.parser.associations.get(texture) as { textures?: number } | undefined)?.textures ?? -1
          ];
        const source =
          Object.values(t?.extensions ?? {}).find((e) => e.source !== undefined)?.source ?? t?.source;
        return source === undefined ? undefined : keyOf(scene, `/images/${source}/uri`);
      };
      break;
    }
    case 'obj': {
      const [{ OBJLoader }, { MTLLoader }] = await Promise.all([
        import('three/examples/jsm/loaders/OBJLoader.js'),
        import('three/examples/jsm/loaders/MTLLoader.js'),
      ]);
      const loader = new OBJLoader(manager);
      const lists: string[] = [];
      for (const r of sources.view.references.filter(
        (r) => r.scene === scene && r.kind === 'material' && r.target !== null,
      ))
        lists.push(new TextDecoder().decode(await bytesOf(sources.address(r), signal)).replaceAll('\\', '/'));
      if (lists.length > 0) {
        const file = sources.view.references.find(
          (r) => r.scene === scene && r.kind === 'material' && r.target !== null,
        )!.target!;
        const of = managerOf(sources, file);
        others.push(of.idle);
        const materials = new MTLLoader(of.manager).parse(lists.join('\n'), '');
        materials.preload();
        loader.setMaterials(materials);
        for (const [name, material] of Object.entries(materials.materials))
          extra.set(
            material,
            sources.view.references
              .filter((r) => r.scene === file && r.at.startsWith(`newmtl ${name} /`))
              .map(keyOfRow),
          );
      }
      object = loader.parse(text());
      break;
    }
    case 'dae': {
      const { ColladaLoader } = await import('three/examples/jsm/loaders/ColladaLoader.js');
      const collada = new ColladaLoader(manager).parse(text(), '');
      if (!collada) throw new NotShown('This COLLADA file cannot be read as a scene.');
      object = collada.scene;
      break;
    }
    case 'ply': {
      const { PLYLoader } = await import('three/examples/jsm/loaders/PLYLoader.js');
      const geometry = new PLYLoader(manager).parse(bytes);
      if (geometry.index) geometry.computeVertexNormals();
      const painted = sources.view.references.find((r) => r.kind === 'texture');
      const material = new THREE.MeshStandardMaterial({
        vertexColors: geometry.hasAttribute('color'),
        side: THREE.DoubleSide,
        ...(painted && geometry.hasAttribute('uv')
          ? { map: new THREE.TextureLoader(manager).load(sources.address(painted)) }
          : {}),
      });
      if (painted) extra.set(material, [keyOfRow(painted)]);
      object = geometry.index
        ? new THREE.Mesh(geometry, material)
        : new THREE.Points(
            geometry,
            new THREE.PointsMaterial({
              size: 2,
              sizeAttenuation: false,
              vertexColors: geometry.hasAttribute('color'),
            }),
          );
      break;
    }
    case '3mf': {
      const { ThreeMFLoader } = await import('three/examples/jsm/loaders/3MFLoader.js');
      object = new ThreeMFLoader(manager).parse(bytes);
      object.rotation.x = -Math.PI / 2;
      break;
    }
    case 'x3d':
    case 'x3dv': {
      const { VRMLLoader } = await import('three/examples/jsm/loaders/VRMLLoader.js');
      object = new VRMLLoader(manager).parse(
        asVrml(format === 'x3d' ? await classicText(bytes) : text()),
        '',
      );
      break;
    }
    default: {
      object = await loadUsd(sources, bytes, manager, signal);
      break;
    }
  }
  signal.throwIfAborted();
  for (const done of [idle, ...others]) await done();
  const { metres } = sources.view.units;
  // These readers give the file's own numbers; the others have turned them into metres.
  if (metres !== null && ['3mf', 'x3d', 'x3dv'].includes(format)) object.scale.multiplyScalar(metres);
  const references = new Map<THREE.Mesh, string[]>();
  let isDrawn = false;
  object.updateMatrixWorld(true);
  object.traverse((o) => {
    isDrawn ||= o instanceof THREE.Points || o instanceof THREE.Line || o instanceof THREE.Mesh;
    if (!(o instanceof THREE.Mesh)) return;
    const keys = new Set<string>();
    // VRML without an appearance is drawn black, which would look like a missing texture.
    if (o.material instanceof THREE.MeshBasicMaterial && !o.material.map && o.material.color.getHex() === 0)
      o.material = new THREE.MeshStandardMaterial({ color: '#9a9488' });
    for (const material of [o.material as THREE.Material | THREE.Material[]].flat()) {
      // Only glTF says of a face whether it has a back; elsewhere one is as good as the other.
      if (format !== 'gltf' && format !== 'glb') material.side = THREE.DoubleSide;
      for (const key of extra.get(material) ?? []) keys.add(key);
      for (const slot of textureSlots) {
        const texture = (material as unknown as Record<string, unknown>)[slot];
        const key = texture instanceof THREE.Texture ? keyOfTexture(texture) : undefined;
        if (key !== undefined) keys.add(key);
      }
    }
    references.set(o, [...keys]);
  });
  if (!isDrawn) notes.push('This file holds nothing that could be drawn by itself.');
  return { object, references, nodeOf, notes };
}

/** A USD layer with the layers it references; sublayers are not woven in. */
async function loadUsd(
  sources: Sources,
  bytes: ArrayBuffer,
  manager: THREE.LoadingManager,
  signal: AbortSignal,
): Promise<THREE.Object3D> {
  const [{ USDLoader }, { USDAParser }, { USDCParser }, { USDComposer }] = await Promise.all([
    import('three/examples/jsm/loaders/USDLoader.js'),
    import('three/examples/jsm/loaders/usd/USDAParser.js'),
    import('three/examples/jsm/loaders/usd/USDCParser.js'),
    import('three/examples/jsm/loaders/usd/USDComposer.js'),
  ]);
  if (sources.view.scene.toLowerCase().endsWith('.usdz')) return new USDLoader(manager).parse(bytes, '');
  const parse = (b: ArrayBuffer): object =>
    new TextDecoder().decode(b.slice(0, 8)) === 'PXR-USDC'
      ? new USDCParser().parseData(b)
      : new USDAParser().parseData(new TextDecoder().decode(b));
  const layers = new Map<string, object>();
  for (const file of sources.view.files.slice(1))
    if (/\.usd[ac]?$/i.test(file)) layers.set(file, parse(await bytesOf(sources.file(file), signal)));
  const folder = folderOf(sources.view.scene);
  // Paths are asked for from the scene's folder, as they come: `models/../textures/x.png`.
  const assets = new Proxy({} as Record<string, unknown>, {
    get(_, path) {
      if (typeof path !== 'string') return undefined;
      const at = tidyPath(`${folder}/${path}`);
      const layer = layers.get(at);
      if (layer) return layer;
      const r = sources.find(path);
      return r && r.kind === 'texture' ? sources.address(r) : undefined;
    },
  });
  return new USDComposer(manager).compose(parse(bytes), assets);
}

/** What is missing from a mesh: names of files, the first of which is written on it. */
export function lostOf(sources: Sources, keys: readonly string[]): string[] {
  return keys.flatMap((key) => {
    const r = sources.view.references.find((x) => keyOfRow(x) === key);
    return r && isLost(r) ? [r.written.split(/[\\/]/).pop()!] : [];
  });
}
