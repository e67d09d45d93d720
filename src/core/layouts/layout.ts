// A layout as plain text: one folder a line, nesting by indent or slash, and after ' = ' the kinds that live there.
//
//     scenes = scene
//     textures = texture, reference
//       work
//     renders/stills = render
//
// Blank lines and lines that begin with '#' say nothing. Tabs count as four blanks. Folders come out parents first.

import { AppError } from '../errors';
import { checkName } from '../names/portable';
import { fileKinds, type FileKind, type Homes } from './homes';

export interface Layout {
  id: string;
  name: string;
  /** One sentence for choosing. */
  about: string;
  /** Tree paths, parents first, in the order of the text. */
  folders: readonly string[];
  homes: Homes;
}

interface LineProblem {
  line: number;
  message: string;
}

/** Reads a layout text. Throws AppError('bad-layout') that names every line with what is wrong in it. */
export function readLayout(text: string, id: string, name: string, about = ''): Layout {
  const folders: string[] = [];
  const homes: Homes = {};
  const problems: LineProblem[] = [];
  const open: { indent: number; path: string }[] = [];
  text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/).forEach((raw, i) => {
    const line = raw.replaceAll('\t', '    ');
    const content = line.trim();
    if (content === '' || content.startsWith('#')) return;
    const indent = line.length - line.trimStart().length;
    while (open.length > 0 && open[open.length - 1]!.indent >= indent) open.pop();
    const [folder, kinds] = content.split(/\s+=\s+/, 2) as [string, string | undefined];
    const parts = folder.replaceAll('\\', '/').replace(/\/+$/, '').split('/').map((p) => p.trim());
    for (const part of parts) for (const p of checkName(part)) problems.push({ line: i + 1, message: `“${part}”: ${p.message}` });
    if (parts[0]?.toLowerCase() === '.satchel' && open.length === 0) problems.push({ line: i + 1, message: '“.satchel” is kept for the workspace itself.' });
    let path = open.at(-1)?.path ?? '';
    for (const part of parts) {
      path = path === '' ? part : `${path}/${part}`;
      const twin = folders.find((f) => f !== path && f.toLowerCase() === path.toLowerCase());
      if (twin) problems.push({ line: i + 1, message: `“${path}” and “${twin}” differ only in letter case: on Windows and macOS they are one folder.` });
      if (!folders.includes(path)) folders.push(path);
    }
    open.push({ indent, path });
    for (const kind of (kinds ?? '').split(',').map((k) => k.trim().toLowerCase()).filter(Boolean)) {
      if ((fileKinds as readonly string[]).includes(kind)) homes[kind as FileKind] = path;
      else problems.push({ line: i + 1, message: `“${kind}” is no kind of file; known are ${fileKinds.join(', ')}.` });
    }
  });
  if (folders.length === 0 && problems.length === 0) problems.push({ line: 1, message: 'The layout names no folder.' });
  if (problems.length > 0) throw new AppError('bad-layout', `Line ${problems[0]!.line}: ${problems[0]!.message}`, 'Nothing was changed.', problems.map((p) => `Line ${p.line}: ${p.message}`));
  return { id, name, about, folders, homes };
}

/** A layout as text that `readLayout` reads back to the same folders and homes. */
export function writeLayout(layout: Pick<Layout, 'folders' | 'homes'>): string {
  return layout.folders
    .map((path) => {
      const kinds = fileKinds.filter((k) => layout.homes[k] === path);
      return kinds.length > 0 ? `${path} = ${kinds.join(', ')}` : path;
    })
    .join('\n') + '\n';
}

const texts: [id: string, name: string, about: string, text: string][] = [
  ['game-environment', 'Game environment', 'Props, tiles and levels for a game engine.',
    'scenes = scene\nmodels = model, material\ntextures = texture\n  work\ncaches = cache\naudio = audio\nreference = reference, video\nintake = other\nexports = export\nrenders = render\nbackups = backup\n'],
  ['film-shot', 'Film or animation shot', 'One shot with layout, animation, caches and passes.',
    'scenes = scene\nassets\n  models = model, material\n  textures = texture\n  rigs\ncaches = cache\naudio = audio\nreference = reference\n  boards\nintake = other\nrenders = render\n  passes\n  review = video\nexports = export\nbackups = backup\n'],
  ['painting', 'Painting and 2D', 'Sketches, references and finals of pictures.',
    'work = scene\nsketches\nreference = reference\ntextures = texture\nbrushes\nfonts = font\nintake = other\nfinals = export, render\nbackups = backup\n'],
];

/** The layouts that ship. */
export const shippedLayouts: readonly Layout[] = texts.map(([id, name, about, text]) => readLayout(text, id, name, about));
