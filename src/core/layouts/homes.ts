// Kinds of files and their homes: where each kind belongs in a workspace.

import { extensionOf } from '../files/treePath';
import { kindOfExtension } from '../formats/kinds';

export const fileKinds = [
  'scene',
  'model',
  'texture',
  'material',
  'cache',
  'audio',
  'video',
  'font',
  'reference',
  'render',
  'export',
  'backup',
  'other',
] as const;
export type FileKind = (typeof fileKinds)[number];

/** Folder of each kind, as a tree path; a kind without one falls back as `homeOf` says. */
export type Homes = Partial<Record<FileKind, string>>;

// Geometry without a scene around it: what people file as models.
const models = new Set(['.obj', '.ply', '.stl', '.3mf', '.off']);

/** The kind a name's extension tells (common practice, no source). */
export function kindOfName(path: string): FileKind {
  const extension = extensionOf(path);
  if (models.has(extension)) return 'model';
  const kind = kindOfExtension(extension) ?? 'other';
  return kind === 'buffer' ? 'cache' : kind;
}

const documents = new Set([
  '.txt',
  '.md',
  '.pdf',
  '.doc',
  '.docx',
  '.odt',
  '.rtf',
  '.html',
  '.htm',
  '.csv',
  '.xls',
  '.xlsx',
  '.json',
  '.xml',
  '.log',
  '.ini',
  '.url',
  '.zip',
  '.7z',
  '.rar',
  '.py',
  '.js',
  '.lua',
  '.mel',
  '.db',
  '.blob',
  '.lnk',
]);

/** Whether only its content can tell what a file is: its extension says nothing, nor that it is a text or an archive. */
export function needsLook(path: string): boolean {
  return kindOfName(path) === 'other' && !documents.has(extensionOf(path));
}

// Where a kind goes when the layout gives it no home of its own.
const fallback: Partial<Record<FileKind, FileKind>> = {
  model: 'scene',
  material: 'model',
  cache: 'model',
  video: 'reference',
  reference: 'texture',
  export: 'render',
};

/** The home of a kind; the nearest related one where it has none; '' (the root) when there is none at all. */
export function homeOf(kind: FileKind, homes: Homes): string {
  let at: FileKind | undefined = kind;
  for (let i = 0; at !== undefined && i < fileKinds.length; i++) {
    const home = homes[at];
    if (home !== undefined) return home;
    at = fallback[at];
  }
  return homes.other ?? '';
}

/** The kind whose home a folder is; null for folders that are nobody's. The longest home wins. */
export function kindAtHome(path: string, homes: Homes): FileKind | null {
  let best: [FileKind, string] | null = null;
  for (const [kind, home] of Object.entries(homes) as [FileKind, string][]) {
    if (home !== '' && path.startsWith(`${home}/`) && (best === null || home.length > best[1].length))
      best = [kind, home];
  }
  return best?.[0] ?? null;
}
