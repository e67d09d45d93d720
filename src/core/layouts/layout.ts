// A layout: a tree of folders, which kinds live in each, and how they sort. Its plain text, one folder a line:
//
//     :name Props                        what it is called; :about says for what
//     :top 00_                           put before folders that are pinned to the top, :bottom before those at the bottom
//     # where the work is
//     scenes = scene
//     textures = texture, reference : keep
//       work                             nesting by indent or slash
//     renders/stills = render : output
//     intake = other : bottom
//
// After ' = ' the kinds that live there; after ' : ' what else is said of it: input, output, keep (stays though empty), top, bottom.
// No name may hold a colon, so none is mistaken for one. Blank lines say nothing, '#' lines belong to the folder below. Tabs count as
// four blanks. Folders come out parents first.

import { ownFolder } from '../files/records';
import { AppError } from '../errors';
import { checkNewName, foldName } from '../names/portable';
import { fileKinds, type FileKind, type Homes } from './homes';

/** What is said of one folder. */
export interface LayoutFolder {
  /** Without the prefix by which a pinned folder sorts. */
  name: string;
  kinds: FileKind[];
  /** Whether what lies there goes into the work or comes out of it; null: as its kinds tell. */
  flow: 'input' | 'output' | null;
  /** True: an empty file keeps it where empty folders get lost. */
  keep: boolean;
  pin: 'top' | 'bottom' | null;
  /** Lines for people, without their '#'. */
  note: string;
  folders: LayoutFolder[];
}

export interface LayoutTree {
  /** What is put before pinned names; '' for nothing. */
  top: string;
  bottom: string;
  folders: LayoutFolder[];
}

export interface Layout {
  id: string;
  name: string;
  /** One sentence for choosing. */
  about: string;
  tree: LayoutTree;
  /** Tree paths with the prefixes of pinned folders, parents first, in the order of the text. */
  folders: readonly string[];
  homes: Homes;
  /** Folders that get a file which keeps them. */
  kept: readonly string[];
}

export interface LineProblem {
  /** From 1. */
  line: number;
  message: string;
}

// Digits sort before letters and letters after them on every system (common practice, no source).
export const usualPrefixes = { top: '00_', bottom: 'zz_' };
/** The file that keeps a folder which holds nothing else. */
export const keeper = '.keep';

const outputs: ReadonlySet<FileKind> = new Set(['render', 'export', 'backup']);

/** Whether a folder's files go into the work or come out of it; null where nothing tells. */
export function flowOf(folder: LayoutFolder): 'input' | 'output' | null {
  if (folder.flow !== null || folder.kinds.length === 0) return folder.flow;
  return folder.kinds.every((k) => outputs.has(k)) ? 'output' : 'input';
}

/** The name a folder has on disk. */
export function nameOnDisk(tree: LayoutTree, folder: Pick<LayoutFolder, 'name' | 'pin'>): string {
  return folder.pin === null ? folder.name : tree[folder.pin] + folder.name;
}

/** An empty folder of that name. */
export function newFolder(name: string): LayoutFolder {
  return { name, kinds: [], flow: null, keep: false, pin: null, note: '', folders: [] };
}

/** Every folder with its path on disk, its path without prefixes, and what is said of it, parents first. */
export function* eachFolder(
  tree: LayoutTree,
): Iterable<{ path: string; bare: string; folder: LayoutFolder }> {
  function* below(
    folders: readonly LayoutFolder[],
    path: string,
    bare: string,
  ): Iterable<{ path: string; bare: string; folder: LayoutFolder }> {
    for (const folder of folders) {
      const at = { path: path + nameOnDisk(tree, folder), bare: bare + folder.name, folder };
      yield at;
      yield* below(folder.folders, `${at.path}/`, `${at.bare}/`);
    }
  }
  yield* below(tree.folders, '', '');
}

/** What is wrong with one folder's name, as sentences. */
export function checkFolderName(name: string, top: boolean): string[] {
  const wrong = checkNewName(name).map((p) => `“${name}”: ${p.message}`);
  if (
    name.trim() !== name ||
    /\s=\s/.test(name) ||
    /\s=$/.test(name) ||
    name.startsWith('#') ||
    name.includes('\t')
  )
    wrong.push(
      `“${name}”: a layout cannot say this name in its text (blanks around it, “ = ” in it, or “#” in front).`,
    );
  if (top && foldName(name) === ownFolder) wrong.push(`“${ownFolder}” is kept for the workspace itself.`);
  return wrong;
}

/** What is wrong with a tree, as sentences. Empty: it can be used. */
export function checkTree(tree: LayoutTree): string[] {
  const wrong: string[] = [];
  for (const where of ['top', 'bottom'] as const)
    if (tree[where] !== '' && /[<>:"/\\|?*\u0000-\u001f\s]/.test(tree[where]))
      wrong.push(`“${tree[where]}” cannot stand before a name.`);
  const seen = new Map<string, string>();
  const bares = new Map<string, string>();
  const homes = new Map<FileKind, string>();
  for (const { path, bare, folder } of eachFolder(tree)) {
    const namesake = bares.get(foldName(bare));
    if (namesake !== undefined && namesake !== path)
      wrong.push(`“${bare}” is there twice, as “${namesake}” and as “${path}”.`);
    bares.set(foldName(bare), path);
    wrong.push(...checkFolderName(folder.name, !path.includes('/')));
    const disk = nameOnDisk(tree, folder);
    if (disk !== folder.name) wrong.push(...checkNewName(disk).map((p) => `“${disk}”: ${p.message}`));
    const twin = seen.get(foldName(path));
    if (twin !== undefined)
      wrong.push(
        twin === path
          ? `“${path}” is there twice.`
          : `“${path}” and “${twin}” differ only in letter case: on Windows and macOS they are one folder.`,
      );
    seen.set(foldName(path), path);
    for (const kind of folder.kinds) {
      const other = homes.get(kind);
      if (other !== undefined) wrong.push(`${kind} files cannot live both in “${other}” and in “${path}”.`);
      homes.set(kind, path);
    }
  }
  if (tree.folders.length === 0) wrong.push('The layout names no folder.');
  return wrong;
}

/** A layout of a tree. Throws AppError('bad-layout') with all that is wrong. */
export function layoutOfTree(tree: LayoutTree, id: string, name: string, about = ''): Layout {
  const wrong = checkTree(tree);
  if (wrong.length > 0) throw new AppError('bad-layout', wrong[0]!, 'Nothing was changed.', wrong);
  const all = [...eachFolder(tree)];
  const homes: Homes = {};
  for (const { path, folder } of all) for (const kind of folder.kinds) homes[kind] = path;
  return {
    id,
    name,
    about,
    tree,
    folders: all.map((f) => f.path),
    homes,
    kept: all.filter((f) => f.folder.keep).map((f) => f.path),
  };
}

export const flags = ['input', 'output', 'keep', 'top', 'bottom'] as const;

/** What a text says, with every line that is wrong. The tree holds what could be read. */
export function readLayoutText(text: string): {
  tree: LayoutTree;
  name: string;
  about: string;
  problems: LineProblem[];
} {
  const tree: LayoutTree = { ...usualPrefixes, folders: [] };
  const said = { name: '', about: '' };
  const problems: LineProblem[] = [];
  const open: { indent: number; folder: LayoutFolder }[] = [];
  let note: string[] = [];
  const homes = new Map<FileKind, string>();
  text
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\r|\n/)
    .forEach((raw, i) => {
      const wrong = (message: string) => problems.push({ line: i + 1, message });
      const line = raw.replaceAll('\t', '    ');
      const content = line.trim();
      if (content === '') return;
      if (content.startsWith('#')) {
        note.push(content.slice(1).trim());
        return;
      }
      const header = /^:(\w+)(?:\s+(.*))?$/.exec(content);
      if (header) {
        const [, key, value = ''] = header;
        if (key === 'name' || key === 'about') said[key] = value;
        else if (key === 'top' || key === 'bottom') tree[key] = value;
        else wrong(`“:${key}” is not known; known are :name, :about, :top, :bottom.`);
        return;
      }
      const indent = line.length - line.trimStart().length;
      while (open.length > 0 && open.at(-1)!.indent >= indent) open.pop();
      const [body, more = ''] = cut(content, /\s:(?:\s|$)/);
      const [named, kinds = ''] = cut(body, /\s=(?:\s|$)/);
      const parts = named
        .replaceAll('\\', '/')
        .replace(/\/+$/, '')
        .split('/')
        .map((p) => p.trim());
      let siblings = open.at(-1)?.folder.folders ?? tree.folders;
      let folder: LayoutFolder | undefined;
      for (const part of parts) {
        for (const message of checkFolderName(part, siblings === tree.folders)) wrong(message);
        const same: LayoutFolder | undefined = siblings.find((f) => foldName(f.name) === foldName(part));
        if (same && same.name !== part)
          wrong(
            `“${part}” and “${same.name}” differ only in letter case: on Windows and macOS they are one folder.`,
          );
        folder = same ?? newFolder(part);
        if (!same) siblings.push(folder);
        siblings = folder.folders;
      }
      if (!folder) return;
      if (note.length > 0) folder.note = [folder.note, ...note].filter(Boolean).join('\n');
      note = [];
      for (const kind of kinds
        .split(',')
        .map((k) => k.trim().toLowerCase())
        .filter(Boolean)) {
        if (!(fileKinds as readonly string[]).includes(kind))
          wrong(`“${kind}” is no kind of file; known are ${fileKinds.join(', ')}.`);
        else if (homes.has(kind as FileKind))
          wrong(`${kind} files live in “${homes.get(kind as FileKind)!}” already.`);
        else {
          homes.set(kind as FileKind, folder.name);
          folder.kinds.push(kind as FileKind);
        }
      }
      for (const flag of more
        .split(',')
        .map((f) => f.trim().toLowerCase())
        .filter(Boolean)) {
        if (flag === 'input' || flag === 'output') folder.flow = flag;
        else if (flag === 'top' || flag === 'bottom') folder.pin = flag;
        else if (flag === 'keep') folder.keep = true;
        else wrong(`“${flag}” cannot be said of a folder; known are ${flags.join(', ')}.`);
      }
      open.push({ indent, folder });
    });
  if (problems.length === 0) for (const message of checkTree(tree)) problems.push({ line: 1, message });
  return { tree, ...said, problems };
}

function cut(text: string, at: RegExp): [string, string | undefined] {
  const m = at.exec(text);
  return m ? [text.slice(0, m.index).trim(), text.slice(m.index + m[0].length)] : [text.trim(), undefined];
}

/** Reads a layout text. Throws AppError('bad-layout') that names every line with what is wrong in it. */
export function readLayout(text: string, id: string, name: string, about = ''): Layout {
  const read = readLayoutText(text);
  const [first] = read.problems;
  if (first)
    throw new AppError(
      'bad-layout',
      `Line ${first.line}: ${first.message}`,
      'Nothing was changed.',
      read.problems.map((p) => `Line ${p.line}: ${p.message}`),
    );
  return layoutOfTree(read.tree, id, read.name || name, read.about || about);
}

/** A layout as text that reads back to the same tree. */
export function writeLayout(layout: { tree: LayoutTree; name?: string; about?: string }): string {
  const lines: string[] = [];
  const { tree } = layout;
  for (const said of ['name', 'about'] as const)
    if (oneLine(layout[said] ?? '') !== '') lines.push(`:${said} ${oneLine(layout[said]!)}`);
  for (const where of ['top', 'bottom'] as const)
    if (tree[where] !== usualPrefixes[where])
      lines.push(`:${where}${tree[where] === '' ? '' : ` ${tree[where]}`}`);
  const write = (folders: readonly LayoutFolder[], indent: string) => {
    for (const f of folders) {
      for (const line of f.note === '' ? [] : f.note.split('\n'))
        lines.push(`${indent}# ${oneLine(line)}`.trimEnd());
      const said = [f.flow, f.keep ? 'keep' : null, f.pin].filter((x) => x !== null);
      lines.push(
        `${indent}${f.name}${f.kinds.length > 0 ? ` = ${f.kinds.join(', ')}` : ''}${said.length > 0 ? ` : ${said.join(', ')}` : ''}`,
      );
      write(f.folders, `${indent}  `);
    }
  };
  write(tree.folders, '');
  return `${lines.join('\n')}\n`;
}

function oneLine(text: string): string {
  return text.replace(/\s+/g, ' ').trim();
}

/** A layout of folders that exist, with the kinds that live in some of them. */
export function layoutOfFolders(folders: readonly string[], homes: Homes): LayoutTree {
  const tree: LayoutTree = { ...usualPrefixes, folders: [] };
  for (const path of [...folders].sort()) {
    let siblings = tree.folders;
    for (const part of path.split('/')) {
      let folder = siblings.find((f) => f.name === part);
      if (!folder) siblings.push((folder = newFolder(part)));
      siblings = folder.folders;
    }
  }
  for (const { path, folder } of eachFolder(tree)) folder.kinds = fileKinds.filter((k) => homes[k] === path);
  return tree;
}

const texts: [id: string, text: string][] = [
  [
    'game-environment',
    ':name Game environment\n:about Props, tiles and levels for a game engine.\nscenes = scene\nmodels = model, material\ntextures = texture\n  work\ncaches = cache\naudio = audio\nreference = reference, video\nintake = other\nexports = export\nrenders = render\nbackups = backup\n',
  ],
  [
    'film-shot',
    ':name Film or animation shot\n:about One shot with layout, animation, caches and passes.\nscenes = scene\nassets\n  models = model, material\n  textures = texture\n  rigs\ncaches = cache\naudio = audio\nreference = reference\n  boards\nintake = other\nrenders = render\n  passes\n  review = video : output\nexports = export\nbackups = backup\n',
  ],
  [
    'painting',
    ':name Painting and 2D\n:about Sketches, references and finals of pictures.\nwork = scene\nsketches\nreference = reference\ntextures = texture\nbrushes\nfonts = font\nintake = other\nfinals = export, render\nbackups = backup\n',
  ],
];

/** The layouts that ship. */
export const shippedLayouts: readonly Layout[] = texts.map(([id, text]) => readLayout(text, id, id));
