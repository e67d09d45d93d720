// Where a glTF uses its images and buffers: node and material names, for people. Reads the whole JSON; asked for on demand.

import { decodeText } from '../text/bytes';

type Json = { [key: string]: unknown };
const isJson = (v: unknown): v is Json => typeof v === 'object' && v !== null;
// What is no object stands for an empty one: places count.
const list = (v: unknown): Json[] => (Array.isArray(v) ? v.map((e): Json => (isJson(e) ? e : {})) : []);
const num = (v: unknown): number | null => (typeof v === 'number' ? v : null);
const name = (v: Json | undefined, fallback: string) =>
  typeof v?.name === 'string' && v.name !== '' ? v.name : fallback;

const slots: Record<string, string> = {
  baseColorTexture: 'base colour',
  metallicRoughnessTexture: 'metal and roughness',
  normalTexture: 'normal',
  occlusionTexture: 'occlusion',
  emissiveTexture: 'emission',
  diffuseTexture: 'diffuse',
  specularGlossinessTexture: 'specular',
  transmissionTexture: 'transmission',
  clearcoatTexture: 'clear coat',
  clearcoatNormalTexture: 'clear coat normal',
  sheenColorTexture: 'sheen',
  specularColorTexture: 'specular colour',
};

// Textures stand three or four objects deep in a material; one that goes on without end is no material.
const mostDeep = 30;

/** JSON pointer of a reference → places like 'hull › planks · base colour', at most `most` each. Empty when the JSON cannot be parsed; what is of another kind than the format says counts for nothing. */
export function gltfUses(json: Uint8Array, most = 12): Map<string, string[]> {
  const uses = new Map<string, string[]>();
  let doc: Json;
  try {
    const parsed: unknown = JSON.parse(decodeText(json).text);
    if (!isJson(parsed)) return uses;
    doc = parsed;
  } catch {
    return uses;
  }
  const add = (at: string, text: string) => {
    const held = uses.get(at);
    if (!held) uses.set(at, [text]);
    else if (held.length < most && !held.includes(text)) held.push(text);
  };
  const meshNodes = new Map<number, string>();
  list(doc.nodes).forEach((n, i) => {
    const mesh = num(n.mesh);
    if (mesh !== null && !meshNodes.has(mesh)) meshNodes.set(mesh, name(n, `node ${i}`));
  });
  const materialNodes = new Map<number, string>();
  list(doc.meshes).forEach((m, i) => {
    for (const p of list(m.primitives)) {
      const material = num(p.material);
      if (material !== null && !materialNodes.has(material))
        materialNodes.set(material, meshNodes.get(i) ?? name(m, `mesh ${i}`));
    }
    const owner = meshNodes.get(i) ?? name(m, `mesh ${i}`);
    for (const p of list(m.primitives))
      for (const accessor of [p.indices, ...Object.values((p.attributes as Json | undefined) ?? {})]) {
        const view = list(doc.accessors)[num(accessor) ?? -1]?.bufferView;
        const buffer = num(list(doc.bufferViews)[num(view) ?? -1]?.buffer);
        if (buffer !== null) add(`/buffers/${buffer}/uri`, owner);
      }
  });
  const textures = list(doc.textures).map((t) => {
    const images = [num(t.source)];
    for (const e of Object.values((t.extensions as Json | undefined) ?? {}))
      images.push(num((e as Json)?.source));
    return images.filter((x) => x !== null);
  });
  list(doc.materials).forEach((material, i) => {
    const owner = materialNodes.get(i);
    const walk = (value: unknown, key: string, depth: number) => {
      if (depth > mostDeep || typeof value !== 'object' || value === null) return;
      const index = num((value as Json).index);
      if (/Texture$/.test(key) && index !== null) {
        for (const image of textures[index] ?? [])
          add(
            `/images/${image}/uri`,
            `${owner ? `${owner} › ` : ''}${name(material, `material ${i}`)} · ${slots[key] ?? key.replace(/Texture$/, '')}`,
          );
      }
      for (const [k, v] of Object.entries(value)) if (k !== 'extras') walk(v, k, depth + 1);
    };
    walk(material, '', 0);
  });
  return uses;
}
