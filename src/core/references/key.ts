// The key of a reference among others: its scene's path, and its place in it.

/** The key of the reference at a place of a scene. */
export function keyOf(scene: string, at: string): string {
  return `${scene}\0${at}`;
}

/** The same for anything that tells both. */
export const keyOfRow = (r: { scene: string; at: string }): string => keyOf(r.scene, r.at);

/** What a key says. */
export function fromKey(key: string): { scene: string; at: string } {
  // No path holds a NUL; a place may.
  const end = key.indexOf('\0');
  return { scene: key.slice(0, end), at: key.slice(end + 1) };
}
