// What lies inside a scene file and might lie beside it: pictures and geometry of a glTF, things of a USD text, an OBJ or a COLLADA document, each with its
// bytes and what it is called. Source: glTF 2.0 Specification, §3.6 (buffers and views) and §5 (who refers to views).

import { fromDataUri, readGlb, readJson } from '../documents/gltfFile';
import { isObject, listIn, type Json } from '../documents/gltfText';
import type { FormatId } from '../formats/format';
import type { Span } from '../problem';
import { latin1 } from '../text/bytes';

export interface Part {
  kind: 'picture' | 'geometry' | 'thing';
  name: string;
  /** Its bytes in the file, one after the other. */
  bytes: readonly Uint8Array[];
  size: number;
  /** Of a glTF: the views it is made of, in order; and the picture's number. Absent: it cannot be taken out. */
  views?: readonly number[];
  image?: number;
  /** Of a USD text: where it stands in the file, and its path in the scene. */
  prim?: { span: Span; path: string };
}

/** Whether its format can say that it lies elsewhere. */
export const mayLieApart = (part: Part): boolean =>
  part.image !== undefined || (part.views?.length ?? 0) > 0 || part.prim !== undefined;

/** The parts of a scene file; none for formats that are not looked into. */
export function partsOf(format: FormatId, bytes: Uint8Array): Promise<Part[]> | Part[] {
  switch (format) {
    case 'glb':
    case 'gltf':
      return gltfParts(bytes, format === 'glb');
    case 'usda':
      return usdParts(bytes);
    case 'obj':
      return objParts(bytes);
    case 'dae':
      return colladaParts(bytes);
    default:
      return [];
  }
}

const isIndex = (x: unknown): x is number => typeof x === 'number' && Number.isInteger(x) && x >= 0;

/** Every view of a scene that one thing needs: those of its accessors. */
function viewsOfAccessors(accessors: readonly Json[], wanted: Iterable<unknown>): Set<number> {
  const found = new Set<number>();
  for (const n of wanted) {
    const accessor = isIndex(n) ? accessors[n] : undefined;
    if (isIndex(accessor?.bufferView)) found.add(accessor.bufferView);
    const sparse = isObject(accessor?.sparse) ? accessor.sparse : {};
    for (const key of ['indices', 'values']) {
      const part = sparse[key];
      if (isObject(part) && isIndex(part.bufferView)) found.add(part.bufferView);
    }
  }
  return found;
}

/** Numbers of the accessors a mesh's primitives name, and of the views that an extension names. */
function* usesOfMesh(mesh: Json): Iterable<{ accessor: unknown } | { view: unknown }> {
  for (const primitive of listIn(mesh, 'primitives')) {
    yield { accessor: primitive.indices };
    for (const set of [primitive.attributes, ...listIn(primitive, 'targets')])
      if (isObject(set)) for (const n of Object.values(set)) yield { accessor: n };
    const extensions = isObject(primitive.extensions) ? Object.values(primitive.extensions) : [];
    for (const extension of extensions)
      if (isObject(extension) && 'bufferView' in extension) yield { view: extension.bufferView };
  }
}

async function gltfParts(bytes: Uint8Array, isBinary: boolean): Promise<Part[]> {
  const file = isBinary ? readGlb(bytes) : readJson(bytes);
  if (!file) return [];
  const { json } = file;
  const buffer = await file.buffers(() => Promise.resolve(null));
  const views = listIn(json, 'bufferViews');
  const accessors = listIn(json, 'accessors');
  const bytesOfView = (n: number): Uint8Array | null => {
    const { buffer: of, byteOffset: from = 0, byteLength: length } = views[n] ?? {};
    if (!isIndex(of) || !isIndex(from) || !isIndex(length)) return null;
    const held = buffer(of);
    return held && from + length <= held.length ? held.subarray(from, from + length) : null;
  };
  const parts: Part[] = [];
  for (const [n, image] of listIn(json, 'images').entries()) {
    const name = nameOf(image, `picture ${n + 1}`);
    const held = isIndex(image.bufferView)
      ? bytesOfView(image.bufferView)
      : typeof image.uri === 'string' && image.uri.startsWith('data:')
        ? fromDataUri(image.uri)
        : null;
    if (!held || held.length === 0) continue;
    const views = isIndex(image.bufferView) ? [image.bufferView] : [];
    parts.push({ kind: 'picture', name, bytes: [held], size: held.length, views, image: n });
  }
  parts.push(...geometryOf(json, accessors, bytesOfView));
  return parts;
}

/** Meshes with their skins, and animations: what shares a view goes together. */
function geometryOf(
  json: unknown,
  accessors: readonly Json[],
  bytesOfView: (n: number) => Uint8Array | null,
): Part[] {
  const skins = listIn(json, 'skins');
  const owners: { name: string; views: Set<number> }[] = [];
  for (const [n, mesh] of listIn(json, 'meshes').entries()) {
    const uses = [...usesOfMesh(mesh)];
    const views = viewsOfAccessors(
      accessors,
      uses.flatMap((u) => ('accessor' in u ? [u.accessor] : [])),
    );
    for (const u of uses) if ('view' in u && isIndex(u.view)) views.add(u.view);
    // The skin that a node joins with the mesh belongs to it.
    const worn = listIn(json, 'nodes').flatMap((node) =>
      node.mesh === n && isIndex(node.skin) ? [skins[node.skin]] : [],
    );
    const matrices = worn.map((skin) => skin?.inverseBindMatrices);
    for (const view of viewsOfAccessors(accessors, matrices)) views.add(view);
    owners.push({ name: nameOf(worn[0] ?? {}, nameOf(mesh, `mesh ${n + 1}`)), views });
  }
  for (const [n, animation] of listIn(json, 'animations').entries()) {
    const uses = listIn(animation, 'samplers').flatMap((s) => [s.input, s.output]);
    owners.push({ name: nameOf(animation, `animation ${n + 1}`), views: viewsOfAccessors(accessors, uses) });
  }
  const parts: Part[] = [];
  for (const { names, views } of joined(owners)) {
    const held = views.map(bytesOfView);
    if (held.length === 0 || held.some((b) => b === null)) continue;
    const bytes = held as Uint8Array[];
    const name = names.length === 1 ? names[0]! : `${names[0]} and ${names.length - 1} more`;
    parts.push({ kind: 'geometry', name, bytes, size: bytes.reduce((s, b) => s + b.length, 0), views });
  }
  return parts;
}

/** Owners that share a view become one. */
function joined(owners: readonly { name: string; views: ReadonlySet<number> }[]) {
  const groups: { names: string[]; views: Set<number> }[] = [];
  for (const { name, views } of owners) {
    if (views.size === 0) continue;
    const into = { names: [name], views: new Set(views) };
    for (let i = groups.length - 1; i >= 0; i--) {
      const group = groups[i]!;
      if (![...group.views].some((v) => into.views.has(v))) continue;
      into.names.unshift(...group.names);
      for (const v of group.views) into.views.add(v);
      groups.splice(i, 1);
    }
    groups.push(into);
  }
  return groups.map((g) => ({ names: g.names, views: [...g.views].sort((a, b) => a - b) }));
}

const nameOf = (x: Json, otherwise: string) =>
  typeof x.name === 'string' && x.name !== '' ? x.name : otherwise;

/** Spans of text as parts. */
const spans = (bytes: Uint8Array, found: Iterable<{ name: string; from: number; to: number }>): Part[] =>
  [...found].map(({ name, from, to }) => ({
    kind: 'thing' as const,
    name,
    bytes: [bytes.subarray(from, to)],
    size: to - from,
  }));

const breaks = { newline: 0x0a, space: 0x20 };

/** Groups and objects of an OBJ file: from their `o` or `g` line to the next. */
function objParts(bytes: Uint8Array): Part[] {
  const found: { name: string; from: number; to: number }[] = [];
  for (let at = 0; at < bytes.length;) {
    const end = bytes.indexOf(breaks.newline, at);
    const next = end < 0 ? bytes.length : end + 1;
    if ((bytes[at] === 0x6f || bytes[at] === 0x67) && bytes[at + 1] === breaks.space) {
      if (found.length > 0) found.at(-1)!.to = at;
      found.push({
        name: latin1(bytes.subarray(at + 2, next)).trim() || 'group',
        from: next,
        to: bytes.length,
      });
    }
    at = next;
  }
  return spans(bytes, found);
}

/** Geometry, pictures, controllers and animations of a COLLADA document (COLLADA 1.4.1, §5 and §6). */
function colladaParts(bytes: Uint8Array): Part[] {
  const text = latin1(bytes);
  const found: { name: string; from: number; to: number }[] = [];
  for (const m of text.matchAll(/<(geometry|image|controller|animation)\b([^>]*)>/g)) {
    const end = text.indexOf(`</${m[1]}>`, m.index);
    const said = (key: string) => new RegExp(`\\b${key}\\s*=\\s*["']([^"']*)["']`).exec(m[2]!)?.[1];
    const named = said('name') ?? said('id');
    if (end > 0 && !m[2]!.endsWith('/')) found.push({ name: named || m[1]!, from: m.index, to: end });
  }
  return spans(bytes, found);
}

/** Prims of a USD text: those of the first level, or what is in them where there is more than one. */
function usdParts(bytes: Uint8Array): Part[] {
  const found: { name: string; path: string; from: number; to: number; depth: number }[] = [];
  const open: (typeof found)[number][] = [];
  let depth = 0;
  let waiting: { name: string; from: number } | null = null;
  const text = latin1(bytes);
  const token =
    /#[^\n]*|"""[\s\S]*?"""|'''[\s\S]*?'''|"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*'|@@@[\s\S]*?@@@|@[^@\n]*@|\b(?:def|over|class)\b\s*(?:[A-Za-z_]\w*\s*)?"([^"\n]*)"|[(){}]/g;
  // Dictionaries among a prim's metadata stand in parentheses.
  let inside = 0;
  for (const m of text.matchAll(token)) {
    if (m[0] === '(') inside++;
    else if (m[0] === ')') inside--;
    else if (inside > 0) continue;
    else if (m[1] !== undefined) waiting = { name: m[1], from: m.index };
    else if (m[0] === '{') {
      if (waiting && depth < 2) {
        open.push({ ...waiting, path: `${open.at(-1)?.path ?? ''}/${waiting.name}`, to: -1, depth });
        found.push(open.at(-1)!);
      }
      waiting = null;
      depth++;
    } else if (m[0] === '}') {
      depth--;
      if (open.at(-1)?.depth === depth) open.pop()!.to = m.index + 1;
    }
  }
  const whole = found.filter((f) => f.to > 0);
  const inner = whole.filter((f) => f.depth === 1);
  const parents = whole.filter((f) => f.depth === 0 && !inner.some((i) => i.from > f.from && i.to < f.to));
  return [...parents, ...inner].map(({ name, path, from, to }) => ({
    kind: 'thing' as const,
    name,
    bytes: [bytes.subarray(from, to)],
    size: to - from,
    prim: { span: [from, to] as const, path },
  }));
}
