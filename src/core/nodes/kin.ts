// Formats whose scenes are put together, by their extensions: between kins nothing is carried.

export const kinFormats: readonly (readonly string[])[] = [
  ['.gltf', '.glb'],
  ['.usda', '.usd'],
  ['.obj'],
  ['.mtlx'],
];
