// Wavefront OBJ with its material libraries.

import type * as THREE from 'three';
import { keyOfRow } from '@/core/references/key';
import { textIn, type Given, type Shown } from './reader';

/**
 * A material library in which each material says its transparency once: `d` is what the specification has, `Tr` is 1 - d by common practice and no part
 * of it, and where both stand they often say the same in one number. `Tr 1` by itself would be a thing nobody can see: writers of that kind mean opaque
 * (common practice, no source).
 */
export function transparencyOnce(library: string): string {
  return library
    .split(/^(?=[ \t]*newmtl\b)/m)
    .map((material) => {
      const hasD = /^[ \t]*d[ \t]+(?:-halo[ \t]+)?[\d.]/m.test(material);
      return material.replace(/^[ \t]*Tr[ \t]+([\d.eE+-]+)[^\r\n]*/gim, (line, value: string) =>
        hasD || Number(value) >= 1 ? '' : line,
      );
    })
    .join('');
}

export async function readObj({ sources, bytes, manager, managerOf, fetch }: Given): Promise<Shown> {
  const [{ OBJLoader }, { MTLLoader }] = await Promise.all([
    import('three/examples/jsm/loaders/OBJLoader.js'),
    import('three/examples/jsm/loaders/MTLLoader.js'),
  ]);
  const { scene, references } = sources.view;
  const loader = new OBJLoader(manager);
  const keysOf = new Map<THREE.Material, string[]>();
  const libraries = references.filter((r) => r.scene === scene && r.kind === 'material' && r.target !== null);
  const lists: string[] = [];
  for (const r of libraries)
    lists.push(transparencyOnce(textIn(await fetch(sources.address(r))).replaceAll('\\', '/')));
  const file = libraries[0]?.target;
  if (file != null) {
    const materials = new MTLLoader(managerOf(file)).parse(lists.join('\n'), '');
    materials.preload();
    loader.setMaterials(materials);
    for (const [name, material] of Object.entries(materials.materials))
      keysOf.set(
        material,
        references.filter((r) => r.scene === file && r.at.startsWith(`newmtl ${name} /`)).map(keyOfRow),
      );
  }
  return { object: loader.parse(textIn(bytes)), keysOf };
}
