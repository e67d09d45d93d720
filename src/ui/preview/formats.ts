// Formats of scenes that can be shown in space.

export const seenFormats: ReadonlySet<string> = new Set([
  'gltf',
  'glb',
  'obj',
  'dae',
  'ply',
  'usda',
  'usdc',
  'usdz',
  '3mf',
  'x3d',
  'x3dv',
  'zae',
  'mtlx',
]);
