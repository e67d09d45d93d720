// MaterialX: each material on a ball, by what its surface says of colour, metal, roughness, normal and glow; what is computed from a picture shows the picture.
// Sources: MaterialX 1.39 Specification (documents, nodes, graphs); its libraries' definitions of the surfaces for the values where nothing is said.

import * as THREE from 'three';
import { isElement, markupTree, type Element } from '@/core/formats/markupTree';
import { localName } from '@/core/formats/markup';
import { NotShown, type Given, type Shown } from './reader';

/** What a surface calls each thing, and what holds where nothing is said. */
interface Surface {
  colour: [string, readonly number[]];
  metal: [string, number];
  rough: [string, number];
  glow: string;
  opacity: string;
  normal: string;
}
const surfaces: Record<string, Surface> = {
  standard_surface: {
    colour: ['base_color', [0.8, 0.8, 0.8]],
    metal: ['metalness', 0],
    rough: ['specular_roughness', 0.2],
    glow: 'emission_color',
    opacity: 'opacity',
    normal: 'normal',
  },
  open_pbr_surface: {
    colour: ['base_color', [0.8, 0.8, 0.8]],
    metal: ['base_metalness', 0],
    rough: ['specular_roughness', 0.3],
    glow: 'emission_color',
    opacity: 'geometry_opacity',
    normal: 'geometry_normal',
  },
  gltf_pbr: {
    colour: ['base_color', [1, 1, 1]],
    metal: ['metallic', 1],
    rough: ['roughness', 1],
    glow: 'emissive',
    opacity: 'alpha',
    normal: 'normal',
  },
  UsdPreviewSurface: {
    colour: ['diffuseColor', [0.18, 0.18, 0.18]],
    metal: ['metallic', 0],
    rough: ['roughness', 0.5],
    glow: 'emissiveColor',
    opacity: 'opacity',
    normal: 'normal',
  },
};
// A surface of another kind is shown by what it calls as the first of these does.
const unknown = surfaces.standard_surface!;

const images = new Set([
  'image',
  'tiledimage',
  'gltf_colorimage',
  'gltf_image',
  'gltf_normalmap',
  'UsdUVTexture',
  'hextiledimage',
  'triplanarprojection',
]);
const mostBalls = 60;
const steps = 96;

export async function readMaterialX({
  sources,
  bytes,
  manager,
  managerOf,
  fetch,
  notes,
}: Given): Promise<Shown> {
  const own = new Document(bytes, new THREE.TextureLoader(manager));
  if (!own.isMaterialX) throw new NotShown('This file is no MaterialX document.');
  const documents = [own];
  for (const file of sources.view.files.slice(1))
    if (/\.mtlx$/i.test(file))
      documents.push(new Document(await fetch(sources.file(file)), new THREE.TextureLoader(managerOf(file))));
  const balls = own.balls(documents);
  if (balls.length > mostBalls) notes.push(`The first ${mostBalls} of ${balls.length} are shown.`);
  const object = new THREE.Group();
  const across = Math.ceil(Math.sqrt(Math.min(balls.length, mostBalls) * 1.6));
  const ball = new THREE.SphereGeometry(0.5, steps, steps / 2);
  balls.slice(0, mostBalls).forEach(({ name, material }, n) => {
    const mesh = new THREE.Mesh(ball, material);
    mesh.name = name;
    mesh.position.set((n % across) * 1.25, 0.5, Math.floor(n / across) * 1.25);
    object.add(mesh);
  });
  return { object };
}

const elements = (e: Element) => e.children.filter(isElement);
const named = (e: Element) => e.attributes.get('name') ?? '';
const inputOf = (node: Element, name: string) =>
  elements(node).find((i) => named(i) === name && ['input', 'parameter'].includes(localName(i.name)));

class Document {
  private readonly root: Element | undefined;

  constructor(
    bytes: Uint8Array,
    private readonly loader: THREE.TextureLoader,
  ) {
    this.root = elements(markupTree(bytes).top).find((e) => localName(e.name) === 'materialx');
  }

  get isMaterialX(): boolean {
    return this.root !== undefined;
  }

  private get top(): Element[] {
    return this.root ? elements(this.root) : [];
  }

  /** The materials of this document; where it has none, its pictures. */
  balls(all: readonly Document[]): { name: string; material: THREE.Material }[] {
    const materials = this.top.filter((e) => localName(e.name) === 'surfacematerial');
    if (materials.length > 0)
      return materials.map((m) => ({ name: named(m), material: this.material(m, all) }));
    const pictures = [this.root!, ...this.top.filter((e) => localName(e.name) === 'nodegraph')]
      .filter(Boolean)
      .flatMap((scope) =>
        elements(scope)
          .filter((e) => images.has(localName(e.name)))
          .map((e) => ({ image: e, scope })),
      );
    return pictures.map(({ image }) => ({
      name: named(image),
      material: new THREE.MeshStandardMaterial({
        map: this.texture(image, true),
        roughness: 0.6,
      }),
    }));
  }

  private find(
    name: string,
    scope: Element | null,
    all: readonly Document[],
  ): { at: Element; in: Document; scope: Element | null } | null {
    const inner = scope && elements(scope).find((e) => named(e) === name);
    if (inner) return { at: inner, in: this, scope };
    for (const document of [this, ...all.filter((d) => d !== this)]) {
      const found = document.top.find((e) => named(e) === name);
      if (found) return { at: found, in: document, scope: null };
    }
    return null;
  }

  private material(material: Element, all: readonly Document[]): THREE.Material {
    const shader = inputOf(material, 'surfaceshader')?.attributes.get('nodename');
    const found = shader === undefined ? null : this.find(shader, null, all);
    if (!found) return new THREE.MeshStandardMaterial({ color: '#9a9488', roughness: 0.6 });
    const says = surfaces[localName(found.at.name)] ?? unknown;
    const value = (name: string) => found.in.value(found.at, name, all);
    const [colour, metal, rough, glow, opacity, normal] = [
      value(says.colour[0]),
      value(says.metal[0]),
      value(says.rough[0]),
      value(says.glow),
      value(says.opacity),
      value(says.normal),
    ];
    const rgb = ([r = 0, g = r, b = r]: readonly number[]) => new THREE.Color(r, g, b);
    const seen = opacity?.numbers?.[0] ?? 1;
    return new THREE.MeshStandardMaterial({
      name: named(material),
      color: colour?.image ? '#ffffff' : rgb(colour?.numbers ?? says.colour[1]),
      map: colour?.image?.(true) ?? null,
      metalness: metal?.image ? 1 : (metal?.numbers?.[0] ?? says.metal[1]),
      metalnessMap: metal?.image?.(false) ?? null,
      roughness: rough?.image ? 1 : (rough?.numbers?.[0] ?? says.rough[1]),
      roughnessMap: rough?.image?.(false) ?? null,
      normalMap: normal?.image?.(false) ?? null,
      emissiveMap: glow?.image?.(true) ?? null,
      emissive: glow?.image
        ? '#ffffff'
        : found.in.glows(found.at, all)
          ? rgb(glow?.numbers ?? [0])
          : '#000000',
      opacity: seen,
      transparent: seen < 1,
    });
  }

  /** Whether a surface that says how much it glows does so. */
  private glows(surface: Element, all: readonly Document[]): boolean {
    for (const name of ['emission', 'emission_luminance']) {
      const said = this.value(surface, name, all)?.numbers?.[0];
      if (said !== undefined) return said > 0;
    }
    return !['standard_surface', 'open_pbr_surface'].includes(localName(surface.name));
  }

  /** What an input of a node comes to: numbers, or the first picture behind it. */
  private value(
    node: Element,
    name: string,
    all: readonly Document[],
  ): { numbers?: number[]; image?: (isColour: boolean) => THREE.Texture } | null {
    const input = inputOf(node, name);
    return input ? this.come(input, null, all, new Set()) : null;
  }

  private come(
    input: Element,
    scope: Element | null,
    all: readonly Document[],
    seen: Set<Element>,
  ): { numbers?: number[]; image?: (isColour: boolean) => THREE.Texture } | null {
    const said = (name: string) => input.attributes.get(name);
    const graph = said('nodegraph');
    const target = graph ?? said('nodename') ?? said('interfacename');
    if (said('interfacename') !== undefined && scope) {
      const outer = inputOf(scope, said('interfacename')!);
      return outer && !seen.has(outer) ? this.come(outer, null, all, seen.add(outer)) : null;
    }
    if (target === undefined) {
      const value = said('value');
      return value === undefined
        ? null
        : {
            numbers: value
              .split(/[\s,]+/)
              .map(Number)
              .filter(Number.isFinite),
          };
    }
    const found = this.find(target, scope, all);
    if (!found || seen.has(found.at)) return null;
    seen.add(found.at);
    if (localName(found.at.name) === 'nodegraph') {
      const outputs = elements(found.at).filter((e) => localName(e.name) === 'output');
      const output = outputs.find((o) => named(o) === said('output')) ?? outputs[0];
      return output ? found.in.come(output, found.at, all, seen) : null;
    }
    if (images.has(localName(found.at.name)))
      return { image: (isColour) => found.in.texture(found.at, isColour) };
    const inputs = elements(found.at).filter((e) => localName(e.name) === 'input');
    const values = inputs.map((i) => found.in.come(i, found.scope, all, seen)).filter((v) => v !== null);
    return (
      values.find((v) => v.image) ?? (localName(found.at.name) === 'constant' ? (values[0] ?? null) : null)
    );
  }

  private texture(image: Element, isColour: boolean): THREE.Texture {
    const file = elements(image).find((i) => i.attributes.get('type') === 'filename') ?? image;
    const written = file.attributes.get('value') ?? file.attributes.get('default') ?? '';
    const texture = this.loader.load(this.prefixed(written, [file, image]));
    texture.wrapS = texture.wrapT = THREE.RepeatWrapping;
    if (isColour) texture.colorSpace = THREE.SRGBColorSpace;
    return texture;
  }

  /** With the nearest fileprefix before it (MaterialX Specification, "File Prefixes"). */
  private prefixed(written: string, from: readonly Element[]): string {
    const above = [...from, ...(this.root ? [...pathTo(this.root, from.at(-1)!)] : [])];
    return (above.map((e) => e.attributes.get('fileprefix')).find((p) => p !== undefined) ?? '') + written;
  }
}

/** The elements around another one, nearest first. */
function pathTo(root: Element, wanted: Element): Element[] {
  if (elements(root).includes(wanted)) return [root];
  for (const child of elements(root)) {
    const path = pathTo(child, wanted);
    if (path.length > 0) return [...path, root];
  }
  return [];
}
