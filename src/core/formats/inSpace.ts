// Which scenes can be shown in space: all by a reader in the browser, some by a second one in the server where the first fails.

import type { FormatId } from './format';

/** Those that the second reader (Assimp) makes out as well. */
export const readAgainFormats: ReadonlySet<string> = new Set<FormatId>([
  'gltf',
  'glb',
  'obj',
  'dae',
  'zae',
  'ply',
  '3mf',
]);

export const seenFormats: ReadonlySet<string> = new Set([
  ...readAgainFormats,
  ...(['x3d', 'x3dv', 'mtlx', 'usda', 'usdc', 'usdz'] satisfies FormatId[]),
]);
