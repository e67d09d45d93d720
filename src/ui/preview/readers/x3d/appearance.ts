// How X3D and VRML97 say that a shape looks (ISO/IEC 19775-1, clauses 12 and 18), as materials of three.js.

import * as THREE from 'three';
import type { Plain3d } from '@/core/convert/x3d/expand';
import type { Drawn } from './geometry';
import { flag, nodeIn, number, numbers, strings } from './fields';

export interface Textures {
  /** The picture that one of these addresses leads to. */
  load(urls: readonly string[]): THREE.Texture | null;
}

const colourIn = (node: Plain3d, field: string, otherwise: readonly number[]): THREE.Color => {
  const [r = 0, g = 0, b = 0] = numbers(node, field, otherwise);
  return new THREE.Color().setRGB(r, g, b, THREE.SRGBColorSpace);
};

export function materialOf(
  appearance: Plain3d | undefined,
  as: Drawn,
  hasColours: boolean,
  textures: Textures,
): THREE.Material {
  const said = appearance && nodeIn(appearance, 'material');
  const isUnlit = as !== 'faces' || said?.type === 'UnlitMaterial';
  const opacity = 1 - (said ? number(said, 'transparency', 0) : 0);
  const shared = { vertexColors: hasColours, opacity, transparent: opacity < 1 };
  // Lines and points have no light on them: what shines by itself is their colour, and where nothing does, what they would be.
  const shine = said ? colourIn(said, 'emissiveColor', [0, 0, 0]) : new THREE.Color(0);
  const diffuse = said
    ? said.type === 'PhysicalMaterial'
      ? colourIn(said, 'baseColor', [1, 1, 1])
      : colourIn(said, 'diffuseColor', [0.8, 0.8, 0.8])
    : new THREE.Color().setRGB(0.8, 0.8, 0.8, THREE.SRGBColorSpace);
  const flat = shine.getHex() === 0 ? diffuse : shine;
  const white = new THREE.Color('#ffffff');
  if (as === 'lines') return new THREE.LineBasicMaterial({ ...shared, color: hasColours ? white : flat });
  if (as === 'points')
    return new THREE.PointsMaterial({
      ...shared,
      color: hasColours ? white : flat,
      size: 3,
      sizeAttenuation: false,
    });
  const map = appearance ? textureOf(appearance, said, textures) : null;
  if (isUnlit)
    return new THREE.MeshBasicMaterial({ ...shared, ...(map ? { map } : {}), color: map ? white : flat });
  return new THREE.MeshStandardMaterial({
    ...shared,
    ...(map ? { map } : {}),
    // A texture with colours takes the place of the diffuse colour (ISO/IEC 19775-1, table 17.2), as colours of corners do.
    color: map || hasColours ? white : diffuse,
    emissive: shine,
    metalness: said?.type === 'PhysicalMaterial' ? number(said, 'metallic', 1) : 0,
    roughness:
      said?.type === 'PhysicalMaterial'
        ? number(said, 'roughness', 1)
        : 1 - 0.7 * (said ? number(said, 'shininess', 0.2) : 0.2),
  });
}

function textureOf(
  appearance: Plain3d,
  material: Plain3d | undefined,
  textures: Textures,
): THREE.Texture | null {
  const told =
    nodeIn(appearance, 'texture') ??
    (material && (nodeIn(material, 'baseTexture') ?? nodeIn(material, 'diffuseTexture')));
  const node = told?.type === 'MultiTexture' ? nodeIn(told, 'texture') : told;
  if (!node) return null;
  const texture =
    node.type === 'PixelTexture' ? pixels(numbers(node, 'image')) : textures.load(strings(node, 'url'));
  if (!texture) return null;
  texture.colorSpace = THREE.SRGBColorSpace;
  texture.wrapS = flag(node, 'repeatS', true) ? THREE.RepeatWrapping : THREE.ClampToEdgeWrapping;
  texture.wrapT = flag(node, 'repeatT', true) ? THREE.RepeatWrapping : THREE.ClampToEdgeWrapping;
  const moved = nodeIn(appearance, 'textureTransform');
  if (moved) {
    const [cx = 0, cy = 0] = numbers(moved, 'center', [0, 0]);
    const [sx = 1, sy = 1] = numbers(moved, 'scale', [1, 1]);
    const [tx = 0, ty = 0] = numbers(moved, 'translation', [0, 0]);
    // Tc' = -C × S × R × C × T × Tc (18.4.10).
    texture.matrixAutoUpdate = false;
    texture.matrix
      .makeTranslation(-cx, -cy)
      .multiply(new THREE.Matrix3().makeScale(sx, sy))
      .multiply(new THREE.Matrix3().makeRotation(number(moved, 'rotation', 0)))
      .multiply(new THREE.Matrix3().makeTranslation(cx + tx, cy + ty));
  }
  return texture;
}

/** A picture written in the file: width, height, bytes of a pixel, pixels from below (SFImage, 5.3.5). */
function pixels([width = 0, height = 0, bytes = 0, ...values]: readonly number[]): THREE.Texture | null {
  if (width < 1 || height < 1 || values.length < width * height) return null;
  const rgba = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const v = values[i]! >>> 0;
    const byte = (n: number) => (v >>> (8 * n)) & 255;
    const [r, g, b, a] =
      bytes === 1
        ? [byte(0), byte(0), byte(0), 255]
        : bytes === 2
          ? [byte(1), byte(1), byte(1), byte(0)]
          : bytes === 3
            ? [byte(2), byte(1), byte(0), 255]
            : [byte(3), byte(2), byte(1), byte(0)];
    rgba.set([r, g, b, a], i * 4);
  }
  const texture = new THREE.DataTexture(rgba, width, height);
  texture.magFilter = THREE.LinearFilter;
  texture.needsUpdate = true;
  return texture;
}
