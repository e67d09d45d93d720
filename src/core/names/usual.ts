// Names that programs and makers give to files of any project, so that an equal one says next to nothing: `scene.bin`, `diffuse.png`,
// `model.mtl`, `texture_0.png` (common practice, no source).

import { stemOf } from '../files/treePath';

const usual = new Set(
  'scene model mesh object untitled default new material materials buffer data geometry animation texture textures image map tex diffuse diff color colour col albedo basecolor base normal normals nrm nor roughness rough metallic metalness metal gloss glossiness specular spec ao occlusion height displacement disp bump opacity alpha mask emission emissive orm arm'.split(
    ' ',
  ),
);

/** Whether a file's name tells nothing of whose it is. */
export function isUsualName(path: string): boolean {
  const words = stemOf(path)
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[\s._-]+|\d+k?(?![a-z])/)
    .filter(Boolean);
  return words.length === 0 || words.every((w) => usual.has(w));
}
