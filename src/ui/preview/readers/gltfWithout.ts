// A glTF of which a buffer is missing: what lies in it is taken out of the description, so that the rest can be shown.

interface Primitive {
  attributes?: Record<string, number>;
  indices?: number;
  targets?: Record<string, number>[];
  extensions?: Record<string, { bufferView?: number } | undefined>;
}
interface Extended {
  extensions?: Record<string, { buffer?: number; attributes?: Record<string, number> } | undefined>;
}
/** What of a glTF says where bytes are. Everything else stays as it is. */
export interface GltfJson {
  buffers?: { uri?: string }[];
  bufferViews?: (Extended & { buffer?: number })[];
  accessors?: {
    bufferView?: number;
    sparse?: { indices?: { bufferView?: number }; values?: { bufferView?: number } };
  }[];
  meshes?: { primitives?: Primitive[] }[];
  nodes?: (Extended & { mesh?: number; skin?: number })[];
  skins?: { inverseBindMatrices?: number }[];
  animations?: unknown[];
  images?: { uri?: string; bufferView?: number }[];
  extensionsUsed?: string[];
}

const draco = 'KHR_draco_mesh_compression';
const instances = 'EXT_mesh_gpu_instancing';
const meshopt = ['EXT_meshopt_compression', 'KHR_meshopt_compression'];

/**
 * The same without what lies in the buffers of these numbers; numbers of nodes, meshes and the like stay. `objects`: how many nodes lost what they draw.
 * Movement goes as a whole: half of it would show a scene as it never is.
 */
export function withoutBuffers(
  json: GltfJson,
  lost: ReadonlySet<number>,
): { json: GltfJson; objects: number } {
  const g = structuredClone(json);
  const views = new Set<number>();
  for (const [n, view] of (g.bufferViews ?? []).entries()) {
    const packed = meshopt.map((name) => view.extensions?.[name]?.buffer);
    if ([view.buffer, ...packed].some((b) => b !== undefined && lost.has(b))) views.add(n);
  }
  const inLost = (view: number | undefined) => view !== undefined && views.has(view);
  const accessors = new Set<number>();
  for (const [n, a] of (g.accessors ?? []).entries())
    if ([a.bufferView, a.sparse?.indices?.bufferView, a.sparse?.values?.bufferView].some(inLost))
      accessors.add(n);
  const isLost = (accessor: number | undefined) => accessor !== undefined && accessors.has(accessor);

  const bare = new Set<number>();
  for (const [n, mesh] of (g.meshes ?? []).entries()) {
    const all = mesh.primitives ?? [];
    mesh.primitives = all.filter(
      (p) =>
        !isLost(p.attributes?.POSITION) && !isLost(p.indices) && !inLost(p.extensions?.[draco]?.bufferView),
    );
    for (const p of mesh.primitives) {
      for (const [name, a] of Object.entries(p.attributes ?? {})) if (isLost(a)) delete p.attributes![name];
      if (p.targets?.some((t) => Object.values(t).some(isLost))) delete p.targets;
    }
    if (all.length > 0 && mesh.primitives.length === 0) bare.add(n);
  }
  let objects = 0;
  for (const node of g.nodes ?? []) {
    if (Object.values(node.extensions?.[instances]?.attributes ?? {}).some(isLost))
      delete node.extensions![instances];
    if (node.mesh === undefined || !bare.has(node.mesh)) continue;
    delete node.mesh;
    delete node.skin;
    objects++;
  }
  for (const skin of g.skins ?? []) if (isLost(skin.inverseBindMatrices)) delete skin.inverseBindMatrices;
  if (accessors.size > 0) delete g.animations;
  for (const image of g.images ?? [])
    if (inLost(image.bufferView)) {
      delete image.bufferView;
      image.uri = 'data:,';
    }
  return { json: g, objects };
}
