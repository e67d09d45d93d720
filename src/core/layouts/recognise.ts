// What a folder that already exists holds: which kinds of files lie where, and which of its folders serve as the home of a kind.

import { extensionOf, folderOf, isWithin, nameOf } from '../files/treePath';
import { foldName } from '../names/portable';
import { fileKinds, kindOfName, type FileKind, type Homes } from './homes';

/** One folder with all below it. Sizes in bytes. */
export interface FolderContent {
  path: string;
  files: number;
  bytes: number;
  kinds: Partial<Record<FileKind, number>>;
}

// Deeper folders are parts of their parents.
const depth = 3;

/** Counts of kinds for each folder down to the third level, the root ('') among them, in path order. `kindOf` tells a file's kind. */
export function contentsOf(
  files: Iterable<{ path: string; size: number }>,
  kindOf: (path: string) => FileKind = kindOfName,
): FolderContent[] {
  const folders = new Map<string, FolderContent>();
  // Files come folder by folder: who counts for one folder is worked out once.
  const above = new Map<string, FolderContent[]>();
  const countersOf = (folder: string): FolderContent[] => {
    const parts = folder === '' ? [] : folder.split('/');
    return Array.from({ length: Math.min(depth, parts.length) + 1 }, (_, n) => {
      const path = parts.slice(0, n).join('/');
      let held = folders.get(path);
      if (!held) folders.set(path, (held = { path, files: 0, bytes: 0, kinds: {} }));
      return held;
    });
  };
  for (const { path, size } of files) {
    const kind = kindOf(path);
    const folder = folderOf(path);
    let counters = above.get(folder);
    if (!counters) above.set(folder, (counters = countersOf(folder)));
    for (const c of counters) {
      c.files++;
      c.bytes += size;
      c.kinds[kind] = (c.kinds[kind] ?? 0) + 1;
    }
  }
  return [...folders.values()].sort((a, b) => (a.path < b.path ? -1 : 1));
}

// A folder is the home of a kind when most of what is in it is of that kind (common practice, no source).
const most = 0.6;
// Kinds that nothing in a file tells from others: only a folder's name speaks for them.
const byNameOnly: ReadonlySet<FileKind> = new Set(['render', 'reference', 'export', 'backup', 'other']);
// Words by which people call the folder of a kind (common practice, no source).
const words: Partial<Record<FileKind, readonly string[]>> = {
  scene: ['scenes', 'scene', 'levels', 'shots', 'work'],
  model: ['models', 'model', 'meshes', 'geo', 'geometry', 'props', 'assets'],
  texture: ['textures', 'texture', 'tex', 'maps', 'images'],
  material: ['materials', 'shaders', 'looks'],
  cache: ['caches', 'cache', 'sims', 'simulation'],
  audio: ['audio', 'sound', 'sounds', 'music'],
  video: ['video', 'videos', 'movies', 'clips'],
  font: ['fonts', 'font'],
  reference: ['reference', 'references', 'ref', 'refs'],
  render: ['renders', 'render', 'output', 'frames'],
  export: ['exports', 'export', 'deliveries', 'finals'],
  backup: ['backups', 'backup', 'old'],
  other: ['intake', 'incoming', 'inbox'],
};

const wordsOf = new Map(
  (Object.entries(words) as [FileKind, readonly string[]][]).flatMap(([kind, all]) =>
    all.map((w) => [w, kind] as const),
  ),
);
const seen: ReadonlySet<FileKind> = new Set(['texture', 'video']);
const told: ReadonlySet<FileKind> = new Set(['texture', 'render', 'reference', 'export', 'backup']);

/** The kind of a picture or film by the nearest folder above it that says what its pictures are for: `renders/quay.png` is no texture. Homes speak before words. */
export function kindInFolders(path: string, kind: FileKind = kindOfName(path), homes: Homes = {}): FileKind {
  if (!seen.has(kind)) return kind;
  const atHome = new Map(
    (Object.entries(homes) as [FileKind, string][])
      .filter(([k]) => told.has(k))
      .map(([k, home]) => [home, k]),
  );
  for (let at: string = folderOf(path); at !== ''; at = folderOf(at)) {
    if (homes[kind] === at) return kind;
    const says = atHome.get(at) ?? wordsOf.get(foldName(nameOf(at)));
    if (says === undefined || !told.has(says)) continue;
    return says === 'texture' ? kind : says;
  }
  return kind;
}

// Folders that programs fill and empty as they please (common practice, no source).
const machinery = new Set(['node_modules', 'bower_components', 'site-packages', '__pycache__', 'venv']);
const delivered = /^(?:licen[cs]e|copying|readme|read ?me|credits|package\.json$|manifest)/i;
const ofKits: ReadonlySet<FileKind> = new Set(['scene', 'model', 'texture', 'material', 'audio', 'cache']);

/** Whether a folder may be a home by what lies about it: not one that programs fill, that lies in a holding area, or that is part of a kit as it was delivered
 * (a folder with its licence or reading matter, and files of several kinds below). */
export function homeSense(files: Iterable<{ path: string }>): (folder: string) => boolean {
  const papers = new Set<string>();
  const kinds = new Map<string, Set<FileKind>>();
  for (const { path } of files) {
    const folder = folderOf(path);
    if (delivered.test(nameOf(path))) papers.add(folder);
    const kind = kindOfName(path);
    if (!ofKits.has(kind)) continue;
    for (let at: string = folder; at !== ''; at = folderOf(at)) {
      const held = kinds.get(at) ?? new Set();
      kinds.set(at, held);
      // Everything above holds it already.
      if (held.has(kind)) break;
      held.add(kind);
    }
  }
  const isKit = (at: string) => papers.has(at) && (kinds.get(at)?.size ?? 0) >= 2;
  return (folder) => {
    if (isKit(folder) && !wordsOf.has(foldName(nameOf(folder)))) return false;
    if (machinery.has(nameOf(folder).toLowerCase())) return false;
    for (let at: string = folderOf(folder); at !== ''; at = folderOf(at))
      if (
        isKit(at) ||
        machinery.has(nameOf(at).toLowerCase()) ||
        wordsOf.get(foldName(nameOf(at))) === 'other'
      )
        return false;
    return true;
  };
}

/** Folders of `contents` that serve as homes already, for the kinds in `wanted`: by name and content together, else by content alone. */
export function homesIn(
  contents: readonly FolderContent[],
  folders: readonly string[],
  wanted: Homes,
): Homes {
  const homes: Homes = {};
  const byPath = new Map(contents.map((c) => [c.path, c]));
  const named = folders
    .filter((p) => p !== '')
    .map((path) => ({ path, name: foldName(nameOf(path)), content: byPath.get(path) }));
  for (const kind of fileKinds) {
    const home = wanted[kind];
    if (home === undefined) continue;
    const names = new Set([foldName(nameOf(home)), ...(words[kind] ?? [])]);
    let best: { path: string; score: number } | null = null;
    for (const { path, name, content } of named) {
      const own = content?.kinds[kind] ?? 0;
      const share = content ? own / content.files : 0;
      const isNamed = names.has(name);
      // A folder that is called a holding area, or the like, is that, whatever is in it now.
      const says = wordsOf.get(name);
      if (!isNamed && says !== undefined && byNameOnly.has(says)) continue;
      const fits = byNameOnly.has(kind)
        ? isNamed
        : (own > 0 && share >= most) || (isNamed && share >= 0.2) || (isNamed && !content);
      if (!fits) continue;
      const score = (isNamed ? 1000 : 0) + share * 100 + Math.min(own, 50) - path.split('/').length * 10;
      if (best === null || score > best.score) best = { path, score };
    }
    if (best) homes[kind] = best.path;
  }
  return homes;
}

// Where a file of a kind may lie beside its own home without being out of place.
const also: Partial<Record<FileKind, readonly FileKind[]>> = {
  scene: ['model', 'cache', 'export'],
  model: ['scene', 'cache', 'export'],
  material: ['model', 'scene'],
  texture: ['reference', 'render', 'export'],
  video: ['reference', 'render', 'export'],
  cache: ['scene', 'model', 'export'],
  audio: ['reference', 'export'],
  font: [],
};
// What lies in these was put there for a purpose of its own, whatever it is: the holding area, results, sources.
const anything: ReadonlySet<FileKind> = new Set(['other', 'backup', 'reference', 'render', 'export']);

/** Whether a file lies where its kind belongs, or where it may be. Files of unknown kind are never out of place, nor are hidden ones. */
export function isInPlace(path: string, kind: FileKind, homes: Homes): boolean {
  if (kind === 'other' || homes[kind] === undefined || path.startsWith('.') || path.includes('/.'))
    return true;
  for (const [of, home] of Object.entries(homes) as [FileKind, string][]) {
    if (home === '' || !isWithin(path, home)) continue;
    if (of === kind || anything.has(of) || also[kind]?.includes(of)) return true;
  }
  return false;
}

/** Names that count up in one folder belong together: the key of such a set; null for a name without a number. */
export function countedSet(path: string): string | null {
  const name = nameOf(path);
  const m = /^(.*?)(\d{2,})(\D*)$/s.exec(name);
  return m ? `${folderOf(path)}/${m[1]}#${m[3]}${extensionOf(name)}` : null;
}
