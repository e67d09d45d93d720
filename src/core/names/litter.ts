// Files that a system puts beside everybody's own for itself: they belong to no project, and are left out of what is brought in.

// macOS: .DS_Store in every folder that was looked at, __MACOSX beside the files in its ZIP archives; Windows: Thumbs.db and desktop.ini.
// Common practice, no source.
const names = new Set(['.ds_store', 'thumbs.db', 'ehthumbs.db', 'desktop.ini', '__macosx']);

/** True for a name that only a system wrote and only a system reads. */
export function isLitter(name: string): boolean {
  return names.has(name.toLowerCase());
}

/** How what was left out is told: null where nothing was. */
export function litterSaid(count: number): string | null {
  if (count === 0) return null;
  const files = count === 1 ? '1 entry that a system keeps' : `${count} entries that a system keeps`;
  return `${files} for itself (__MACOSX, .DS_Store, Thumbs.db) ${count === 1 ? 'stays' : 'stay'} outside.`;
}
