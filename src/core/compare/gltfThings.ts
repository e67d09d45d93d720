// What is in a glTF scene. Geometry and pictures inside are told by their content, so that a moved vertex shows though no number of the JSON changed.
// Source of what is where: glTF 2.0 Specification, §3 and §5.

import { isObject, type Json } from '../documents/gltfText';
import { hashBytes, hashText, type Hasher } from './hasher';
import { utf8 } from '../text/bytes';
import { lazily, shown, type Thing, type ThingKind } from './things';

/** A glTF document, and what its buffers hold; null: one that is not there. */
export interface GltfDocument {
  json: unknown;
  buffer: (index: number) => Uint8Array | null;
}

const lists = new WeakMap<Json, Map<string, Json[]>>();

/** A list of a document, made once: each node asks for the names of others. */
function list(json: Json, key: string): Json[] {
  let known = lists.get(json);
  if (!known) lists.set(json, (known = new Map()));
  let found = known.get(key);
  if (!found) {
    const value = json[key];
    found = Array.isArray(value) ? value.map((v) => (isObject(v) ? v : {})) : [];
    known.set(key, found);
  }
  return found;
}
const at = (all: readonly Json[], index: unknown) => (typeof index === 'number' ? all[index] : undefined);
const nameOf = (thing: Json | undefined, index: unknown, kind: string) =>
  thing === undefined
    ? 'none'
    : typeof thing.name === 'string' && thing.name !== ''
      ? thing.name
      : `${kind} ${String(index)}`;

/** The things of a glTF document. */
export function gltfThings({ json, buffer }: GltfDocument, start: Hasher): Thing[] {
  if (!isObject(json)) return [];
  const mark = (text: string) => hashText(start, text);
  const reading = new Reading(json, buffer, start);
  const things: Thing[] = [reading.asset(mark)];
  const add = (kind: ThingKind, key: string, of: (thing: Json, index: number) => Map<string, string>) => {
    for (const [i, thing] of list(json, key).entries()) {
      const name = nameOf(thing, i, kind);
      const known = { kind, key: typeof thing.name === 'string' ? thing.name : `#${i}`, name };
      if (kind === 'node')
        things.push(lazily({ ...known, raw: reading.rawNode(thing, i) }, () => of(thing, i)));
      else things.push({ ...known, facts: of(thing, i) });
    }
  };
  add('node', 'nodes', (n, i) => reading.node(n, i, mark));
  add('mesh', 'meshes', (m) => reading.mesh(m));
  add('material', 'materials', (m) => reading.flat(m, mark));
  add('texture', 'images', (m) => reading.image(m));
  add('animation', 'animations', (a) => reading.animation(a));
  add('camera', 'cameras', (c) => reading.flat(c, mark));
  const lights = (json.extensions as Json | undefined)?.KHR_lights_punctual;
  if (isObject(lights))
    for (const [i, light] of list(lights, 'lights').entries())
      things.push({
        kind: 'light',
        key: String(light.name ?? `#${i}`),
        name: nameOf(light, i, 'light'),
        facts: reading.flat(light, mark),
      });
  return things;
}

class Reading {
  private readonly parents = new Map<number, number>();

  constructor(
    private readonly json: Json,
    private readonly buffer: GltfDocument['buffer'],
    private readonly start: Hasher,
  ) {
    for (const [i, node] of list(json, 'nodes').entries())
      for (const child of Array.isArray(node.children) ? node.children : [])
        if (typeof child === 'number') this.parents.set(child, i);
  }

  asset(mark: (text: string) => string): Thing {
    const facts = new Map<string, string>();
    const asset = isObject(this.json.asset) ? this.json.asset : {};
    for (const key of ['version', 'generator', 'copyright'])
      if (asset[key] !== undefined) facts.set(key, shown(asset[key], mark));
    for (const [key, called] of [
      ['extensionsUsed', 'extensions'],
      ['extensionsRequired', 'required extensions'],
    ] as const)
      if (Array.isArray(this.json[key])) facts.set(called, [...this.json[key]].map(String).sort().join(', '));
    facts.set('unit', 'metre, Y up');
    return { kind: 'scene', key: 'asset', name: 'scene', facts };
  }

  /** What is said of a node: its own words, and the names of what it points to by number. */
  rawNode(node: Json, index: number): string {
    const { children: _, name: __, ...rest } = node;
    const parent = this.parents.get(index);
    const names = [
      node.mesh === undefined ? '' : nameOf(at(list(this.json, 'meshes'), node.mesh), node.mesh, 'mesh'),
      node.camera === undefined
        ? ''
        : nameOf(at(list(this.json, 'cameras'), node.camera), node.camera, 'camera'),
      node.skin === undefined ? '' : nameOf(at(list(this.json, 'skins'), node.skin), node.skin, 'skin'),
      parent === undefined ? '' : nameOf(at(list(this.json, 'nodes'), parent), parent, 'node'),
    ];
    return `${JSON.stringify(rest)}${names.join('\n')}`;
  }

  node(node: Json, index: number, mark: (text: string) => string): Map<string, string> {
    const facts = new Map<string, string>();
    for (const [key, called] of [
      ['translation', 'place'],
      ['rotation', 'rotation'],
      ['scale', 'scale'],
      ['matrix', 'matrix'],
      ['weights', 'weights'],
      ['extras', 'extras'],
      ['extensions', 'extensions'],
    ] as const)
      if (node[key] !== undefined) facts.set(called, shown(node[key], mark));
    for (const [key, all] of [
      ['mesh', 'meshes'],
      ['camera', 'cameras'],
      ['skin', 'skins'],
    ] as const)
      if (node[key] !== undefined)
        facts.set(key, nameOf(at(list(this.json, all), node[key]), node[key], key));
    const parent = this.parents.get(index);
    if (parent !== undefined)
      facts.set('under', nameOf(at(list(this.json, 'nodes'), parent), parent, 'node'));
    return facts;
  }

  mesh(mesh: Json): Map<string, string> {
    const facts = new Map<string, string>();
    const accessors = list(this.json, 'accessors');
    let [vertices, indices] = [0, 0];
    const shape = this.start();
    const materials: string[] = [];
    const attributes = new Set<string>();
    const primitives = list(mesh, 'primitives');
    for (const primitive of primitives) {
      const streams = isObject(primitive.attributes) ? primitive.attributes : {};
      for (const [name, accessor] of Object.entries(streams).sort()) {
        attributes.add(name);
        if (name === 'POSITION') vertices += Number(at(accessors, accessor)?.count ?? 0);
        this.feed(shape, accessor);
      }
      for (const target of Array.isArray(primitive.targets) ? primitive.targets : [])
        for (const accessor of Object.values(isObject(target) ? target : {})) this.feed(shape, accessor);
      indices += Number(
        at(accessors, primitive.indices)?.count ?? at(accessors, streams.POSITION)?.count ?? 0,
      );
      this.feed(shape, primitive.indices);
      if (primitive.material !== undefined)
        materials.push(
          nameOf(at(list(this.json, 'materials'), primitive.material), primitive.material, 'material'),
        );
    }
    facts.set('vertices', String(vertices));
    facts.set('triangles', String(Math.floor(indices / 3)));
    if (primitives.length > 1) facts.set('parts', String(primitives.length));
    if (materials.length > 0) facts.set('material', materials.join(', '));
    facts.set('attributes', [...attributes].sort().join(', '));
    facts.set('shape', shape.digest().slice(0, 8));
    return facts;
  }

  /** Feeds what an accessor stands for: its type, and its bytes. */
  private feed(hash: ReturnType<Hasher>, index: unknown): void {
    const accessor = at(list(this.json, 'accessors'), index);
    if (!accessor) return;
    const { componentType, type, count, normalized, sparse } = accessor;
    hash.update(utf8(JSON.stringify([componentType, type, count, normalized ?? false, sparse ?? null])));
    const bytes = this.view(accessor.bufferView);
    if (bytes) hash.update(bytes.subarray(Number(accessor.byteOffset ?? 0)));
  }

  private view(index: unknown): Uint8Array | null {
    const view = at(list(this.json, 'bufferViews'), index);
    const bytes = view && typeof view.buffer === 'number' ? this.buffer(view.buffer) : null;
    if (!view || !bytes) return null;
    const start = Number(view.byteOffset ?? 0);
    return bytes.subarray(start, start + Number(view.byteLength ?? 0));
  }

  image(image: Json): Map<string, string> {
    const facts = new Map<string, string>();
    if (typeof image.mimeType === 'string') facts.set('type', image.mimeType);
    if (typeof image.uri === 'string' && !image.uri.startsWith('data:')) facts.set('file', image.uri);
    else {
      const bytes = typeof image.uri === 'string' ? utf8(image.uri) : this.view(image.bufferView);
      facts.set('inside', bytes ? `${bytes.length} bytes, ${hashBytes(this.start, bytes)}` : 'not there');
    }
    return facts;
  }

  animation(animation: Json): Map<string, string> {
    const facts = new Map<string, string>();
    const accessors = list(this.json, 'accessors');
    const samplers = list(animation, 'samplers');
    const hash = this.start();
    let end = 0;
    let keys = 0;
    for (const s of samplers) {
      const input = at(accessors, s.input);
      keys += Number(input?.count ?? 0);
      end = Math.max(end, ...(Array.isArray(input?.max) ? input.max.map(Number) : [0]));
      this.feed(hash, s.input);
      this.feed(hash, s.output);
      hash.update(utf8(String(s.interpolation ?? '')));
    }
    const moved = list(animation, 'channels').map((c) => {
      const target = isObject(c.target) ? c.target : {};
      return `${nameOf(at(list(this.json, 'nodes'), target.node), target.node, 'node')} ${String(target.path ?? '')}`;
    });
    facts.set('moves', [...new Set(moved)].sort().slice(0, 20).join(', '));
    facts.set('keys', String(keys));
    facts.set('length', `${Number(end.toPrecision(6))} s`);
    facts.set('curves', hash.digest().slice(0, 8));
    return facts;
  }

  /** All that is said of a thing, by the way to it: 'pbrMetallicRoughness.roughnessFactor'. Textures by the name of their picture. */
  flat(thing: Json, mark: (text: string) => string): Map<string, string> {
    const facts = new Map<string, string>();
    const walk = (value: unknown, way: string[]) => {
      if (!isObject(value)) {
        facts.set(calledAfter(way), shown(value, mark));
        return;
      }
      for (const [key, inner] of Object.entries(value)) {
        if (way.length === 0 && key === 'name') continue;
        if (key === 'index' && /Texture$/.test(way.at(-1) ?? ''))
          facts.set(calledAfter(way), this.picture(inner));
        else walk(inner, [...way, key]);
      }
    };
    walk(thing, []);
    return facts;
  }

  private picture(index: unknown): string {
    const texture = at(list(this.json, 'textures'), index);
    const source =
      texture?.source ??
      Object.values(isObject(texture?.extensions) ? texture.extensions : {}).find(isObject)?.source;
    const image = at(list(this.json, 'images'), source);
    return typeof image?.uri === 'string' && !image.uri.startsWith('data:')
      ? image.uri
      : nameOf(image, source, 'picture');
  }
}

/** 'pbrMetallicRoughness.roughnessFactor' → 'roughness'. */
function calledAfter(way: readonly string[]): string {
  const words = way.filter((w) => w !== 'pbrMetallicRoughness' && w !== 'extensions');
  return words
    .map((w) =>
      w
        .replace(/(?:Factor|Texture)$/, '')
        .replace(/([a-z])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`),
    )
    .join(' ');
}
