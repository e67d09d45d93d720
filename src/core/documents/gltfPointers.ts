// Which numbers of a glTF point to which of its lists. A table, so that what is carried, joined or taken out finds all of them in the same way.
// Sources: glTF 2.0 Specification, §5 (properties reference); the Khronos registry of extensions for KHR_*, EXT_* and MSFT_* (from memory of the registry).

import { isObject, listIn, type Json } from './gltfText';

/** A list things stand in: of the document, or, with a dot, of one of its extensions. */
export type ListName =
  | 'scenes'
  | 'nodes'
  | 'meshes'
  | 'accessors'
  | 'bufferViews'
  | 'buffers'
  | 'materials'
  | 'textures'
  | 'images'
  | 'samplers'
  | 'skins'
  | 'animations'
  | 'cameras'
  | 'KHR_lights_punctual.lights'
  | 'EXT_lights_ies.lights'
  | 'EXT_lights_image_based.lights'
  | 'KHR_materials_variants.variants'
  | 'KHR_audio_emitter.emitters'
  | 'KHR_audio_emitter.sources'
  | 'KHR_audio_emitter.audio'
  | 'MSFT_audio_emitter.emitters'
  | 'MSFT_audio_emitter.clips'
  | 'KHR_xmp_json_ld.packets'
  | 'KHR_implicit_shapes.shapes'
  | 'KHR_physics_rigid_bodies.physicsMaterials'
  | 'KHR_physics_rigid_bodies.collisionFilters'
  | 'KHR_physics_rigid_bodies.physicsJoints';

/** Lists whose things hold a file or the bytes of one. */
export const holdingLists: ReadonlySet<ListName> = new Set<ListName>([
  'images',
  'EXT_lights_ies.lights',
  'KHR_audio_emitter.audio',
  'MSFT_audio_emitter.clips',
]);

/** Where numbers stand: a list's name: the value is a number into it; in brackets: each item; an object: each of these members, '*': every other one. */
type Shape = ListName | readonly [Shape] | { readonly [key: string]: Shape };

const eachAccessor: Shape = { '*': 'accessors' };

const shapes: Partial<Record<ListName, Shape>> = {
  scenes: { nodes: ['nodes'] },
  nodes: { mesh: 'meshes', skin: 'skins', camera: 'cameras', children: ['nodes'] },
  meshes: {
    primitives: [
      { attributes: eachAccessor, indices: 'accessors', material: 'materials', targets: [eachAccessor] },
    ],
  },
  accessors: {
    bufferView: 'bufferViews',
    sparse: { indices: { bufferView: 'bufferViews' }, values: { bufferView: 'bufferViews' } },
  },
  bufferViews: { buffer: 'buffers' },
  textures: { source: 'images', sampler: 'samplers' },
  images: { bufferView: 'bufferViews' },
  skins: { inverseBindMatrices: 'accessors', skeleton: 'nodes', joints: ['nodes'] },
  animations: {
    channels: [{ target: { node: 'nodes' } }],
    samplers: [{ input: 'accessors', output: 'accessors' }],
  },
  'EXT_lights_ies.lights': { bufferView: 'bufferViews' },
  'EXT_lights_image_based.lights': { specularImages: [['images']] },
  'KHR_audio_emitter.emitters': { sources: ['KHR_audio_emitter.sources'] },
  'KHR_audio_emitter.sources': { audio: 'KHR_audio_emitter.audio' },
  'KHR_audio_emitter.audio': { bufferView: 'bufferViews' },
  'MSFT_audio_emitter.emitters': { clips: [{ clip: 'MSFT_audio_emitter.clips' }] },
  'MSFT_audio_emitter.clips': { bufferView: 'bufferViews' },
  'KHR_physics_rigid_bodies.physicsJoints': {},
};

const source: Shape = { source: 'images' };

/** Extensions of things, wherever they stand, whose numbers are known; {}: it has none that point anywhere. */
const extensions: Readonly<Record<string, Shape>> = {
  KHR_lights_punctual: { light: 'KHR_lights_punctual.lights' },
  EXT_lights_ies: { light: 'EXT_lights_ies.lights' },
  EXT_lights_image_based: { light: 'EXT_lights_image_based.lights' },
  KHR_materials_variants: {
    mappings: [{ material: 'materials', variants: ['KHR_materials_variants.variants'] }],
  },
  KHR_texture_basisu: source,
  EXT_texture_webp: source,
  EXT_texture_avif: source,
  MSFT_texture_dds: source,
  KHR_draco_mesh_compression: { bufferView: 'bufferViews' },
  EXT_meshopt_compression: { buffer: 'buffers' },
  KHR_meshopt_compression: { buffer: 'buffers' },
  EXT_mesh_gpu_instancing: { attributes: eachAccessor },
  KHR_audio_emitter: { emitter: 'KHR_audio_emitter.emitters', emitters: ['KHR_audio_emitter.emitters'] },
  MSFT_audio_emitter: { emitters: ['MSFT_audio_emitter.emitters'] },
  KHR_xmp_json_ld: { packet: 'KHR_xmp_json_ld.packets' },
  KHR_physics_rigid_bodies: {
    collider: {
      geometry: { shape: 'KHR_implicit_shapes.shapes', node: 'nodes' },
      physicsMaterial: 'KHR_physics_rigid_bodies.physicsMaterials',
      collisionFilter: 'KHR_physics_rigid_bodies.collisionFilters',
    },
    trigger: {
      geometry: { shape: 'KHR_implicit_shapes.shapes', node: 'nodes' },
      nodes: ['nodes'],
      collisionFilter: 'KHR_physics_rigid_bodies.collisionFilters',
    },
    joint: { connectedNode: 'nodes', joint: 'KHR_physics_rigid_bodies.physicsJoints' },
  },
  KHR_texture_transform: {},
  KHR_node_visibility: {},
  KHR_node_selectability: {},
  KHR_node_hoverability: {},
  KHR_gaussian_splatting: {},
  KHR_animation_pointer: {},
};

/** MSFT_lod names things of the list that it stands in (extension text, "Defining LODs"). */
const lod = (list: ListName): Shape => ({ ids: [list] });

/** Extensions of materials hold numbers only in the places of textures. */
const isOfMaterials = (name: string) => /^(?:KHR|EXT)_materials_|^MSFT_packing_/.test(name);

export type Way = readonly (string | number)[];

/** A number that points to item `index` of a list. */
export interface Pointer {
  to: ListName;
  index: number;
  way: Way;
  /** It stands in a text as a JSON pointer: what comes behind the number there. */
  tail?: string;
}

export interface Pointers {
  pointers: Pointer[];
  /** Extensions that are not known and hold whole numbers, which may point to something. */
  strange: { name: string; way: Way }[];
}

/** The numbers in a thing of a list that point to others. */
export function pointersOf(list: ListName, thing: Json): Pointers {
  const found: Pointers = { pointers: [], strange: [] };
  byShape(shapes[list] ?? {}, thing, [], found);
  everywhere(list, thing, [], found);
  return found;
}

const isIndex = (x: unknown): x is number => typeof x === 'number' && Number.isInteger(x) && x >= 0;

function byShape(shape: Shape, value: unknown, way: Way, found: Pointers): void {
  if (typeof shape === 'string') {
    if (isIndex(value)) found.pointers.push({ to: shape, index: value, way });
  } else if (isListShape(shape)) {
    if (Array.isArray(value))
      for (const [n, item] of value.entries()) byShape(shape[0], item, [...way, n], found);
  } else if (isObject(value)) {
    for (const [key, inner] of Object.entries(value)) {
      const next = shape[key] ?? shape['*'];
      if (next !== undefined) byShape(next, inner, [...way, key], found);
    }
  }
}

const isListShape = (shape: Shape): shape is readonly [Shape] => Array.isArray(shape);

/** What may stand in anything: textures of materials by the ends of their names, and extensions. */
function everywhere(list: ListName, value: unknown, way: Way, found: Pointers): void {
  if (Array.isArray(value))
    for (const [n, item] of value.entries()) everywhere(list, item, [...way, n], found);
  if (!isObject(value)) return;
  for (const [key, inner] of Object.entries(value)) {
    const at = [...way, key];
    // What an artist or a program adds for itself points to nothing the specification knows.
    if (key === 'extras') continue;
    if (/texture$/i.test(key) && isObject(inner) && isIndex(inner.index))
      found.pointers.push({ to: 'textures', index: inner.index, way: [...at, 'index'] });
    if (key === 'extensions' && isObject(inner))
      for (const [name, said] of Object.entries(inner)) ofExtension(list, name, said, [...at, name], found);
    else everywhere(list, inner, at, found);
  }
}

function ofExtension(list: ListName, name: string, said: unknown, way: Way, found: Pointers): void {
  const shape = name === 'MSFT_lod' ? lod(list) : extensions[name];
  if (shape === undefined && !isOfMaterials(name)) {
    if (holdsWhole(said)) found.strange.push({ name, way });
    return;
  }
  if (shape) byShape(shape, said, way, found);
  const written = isObject(said) ? said.pointer : undefined;
  if (name === 'KHR_animation_pointer' && typeof written === 'string') {
    const spelt = readPointer(written);
    if (spelt) found.pointers.push({ ...spelt, way: [...way, 'pointer'] });
    else found.strange.push({ name, way });
  }
  everywhere(list, said, way, found);
}

function holdsWhole(value: unknown): boolean {
  if (Array.isArray(value)) return value.some(holdsWhole);
  return isObject(value) ? Object.values(value).some(holdsWhole) : isIndex(value);
}

/** '/materials/3/emissiveFactor', '/extensions/KHR_lights_punctual/lights/0/intensity' (KHR_animation_pointer, glTF object model). */
function readPointer(text: string): Omit<Pointer, 'way'> | null {
  const of = /^\/extensions\/([^/]+)\/([^/]+)\/(\d+)(\/.*)?$/.exec(text);
  const plain = /^\/([A-Za-z]+)\/(\d+)(\/.*)?$/.exec(text);
  if (of) return { to: `${of[1]}.${of[2]}` as ListName, index: Number(of[3]), tail: of[4] ?? '' };
  return plain && { to: plain[1] as ListName, index: Number(plain[2]), tail: plain[3] ?? '' };
}

/** A JSON pointer to a thing, and what follows. */
export const writtenPointer = (to: ListName, index: number, tail: string): string =>
  `/${wayOfList(to).join('/')}/${index}${tail}`;

/** The way to a list in a document. */
export function wayOfList(list: ListName): string[] {
  const [extension, name] = list.split('.');
  return name === undefined ? [list] : ['extensions', extension!, name];
}

const known = new WeakMap<Json, Map<ListName, Json[]>>();

/** A list of a document; empty where it has none. Documents are not changed. */
export function thingsIn(json: Json, list: ListName): readonly Json[] {
  let lists = known.get(json);
  if (!lists) known.set(json, (lists = new Map()));
  let found = lists.get(list);
  if (!found) lists.set(list, (found = listAt(json, list)));
  return found;
}

function listAt(json: Json, list: ListName): Json[] {
  const [key, ...rest] = wayOfList(list).reverse();
  let at: unknown = json;
  for (const name of rest.reverse()) at = isObject(at) ? at[name] : undefined;
  return listIn(at, key!);
}
