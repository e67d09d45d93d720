// Text as a picture on a plane, written by the browser.

import * as THREE from 'three';

const side = 64; // pixels a line
const mostPixels = 2048;

/** The plane of some lines: one unit a line, its first line's letters standing on y = 0. Null where there is nothing to write. */
export function textPlane(lines: readonly string[]): THREE.Mesh | null {
  const canvas = document.createElement('canvas');
  const context = canvas.getContext('2d');
  const shown = lines.slice(0, Math.floor(mostPixels / side));
  if (!context || shown.every((l) => l.trim() === '')) return null;
  const font = `${side * 0.8}px sans-serif`;
  context.font = font;
  canvas.width = Math.max(
    1,
    Math.min(mostPixels, Math.ceil(Math.max(...shown.map((l) => context.measureText(l).width)))),
  );
  canvas.height = shown.length * side;
  context.font = font;
  context.fillStyle = '#ffffff';
  shown.forEach((line, n) => context.fillText(line, 0, (n + 0.8) * side));
  const [width, height] = [canvas.width / side, canvas.height / side];
  const geometry = new THREE.PlaneGeometry(width, height).translate(width / 2, 0.8 - height / 2, 0);
  const map = new THREE.CanvasTexture(canvas);
  map.colorSpace = THREE.SRGBColorSpace;
  return new THREE.Mesh(geometry, new THREE.MeshBasicMaterial({ map, transparent: true, alphaTest: 0.05 }));
}
