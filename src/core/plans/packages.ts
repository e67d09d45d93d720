// A scene with its files as one package, and back: USD text or crate ↔ .usdz, COLLADA ↔ .zae. Sources: USDZ File Format Specification; COLLADA 1.5.0
// Specification, "COLLADA Archive" (.zae: manifest.xml names the root document).

import { foldersFor, putFiles, type FilesPiece, type Note, type Step } from '../changes/plan';
import { made } from '../convert/made';
import { storedZip, type StoredFile } from '../convert/storedZip';
import { AppError } from '../errors';
import type { FileTree } from '../files/fileTree';
import {
  extensionOf,
  folderOf,
  isTreePath,
  isWithin,
  join,
  nameOf,
  relativePath,
  type TreePath,
} from '../files/treePath';
import { zaeRoot } from '../formats/packed';
import { packageTrouble, readDirectory, type ZipEntry } from '../formats/zip';
import { formatOfName } from '../formats/formats';
import { filesOf } from '../references/scan';
import { crc32, crc32Of } from '../text/crc32';
import { utf8 } from '../text/bytes';
import { crcIn } from './packageFiles';
import { inUsdz } from './planEmbed';
import { SceneSet } from './sceneSet';
import { stateOf, type Workspace } from './workspace';

interface Way {
  path: TreePath;
  to: TreePath;
}

/** The steps that write a scene and what it needs from its folder as one package. */
export async function toPackage(workspace: Workspace, { path, to }: Way, notes: Note[]): Promise<Step[]> {
  const isUsd = to.toLowerCase().endsWith('.usdz');
  const { tree } = workspace;
  const inside = await needed(workspace, path, notes);
  const sources = [];
  for (const file of inside) {
    const state = await stateOf(tree, file);
    if (!state) throw new AppError('not-found', `${file} is not there.`);
    const name = relativePath(folderOf(path), file);
    if (isUsd && !inUsdz.test(name))
      notes.push({
        level: 'warning',
        code: 'not-in-usdz',
        message: `${name} is of a kind that a USDZ package should not hold; strict programs refuse it.`,
        path: file,
      });
    sources.push({
      path: file,
      state,
      stored: { name, size: state.size, crc: await crc32Of(tree.stream(file)) },
    });
  }
  const manifest = isUsd
    ? null
    : utf8(`<?xml version="1.0" encoding="utf-8"?>\n<dae_root>./${encodeURI(nameOf(path))}</dae_root>\n`);
  const listed: StoredFile[] = sources.map((s) => s.stored);
  if (manifest) listed.unshift({ name: 'manifest.xml', size: manifest.length, crc: crc32(manifest) });
  const zip = storedZip(listed, isUsd ? 64 : 1);
  if (!zip)
    throw new AppError('unsupported', 'It would be larger than 4 GB: a package of this kind cannot be.');
  const pieces: FilesPiece[] = [];
  for (const [n, head] of zip.before.entries()) {
    pieces.push({ latin1: head });
    const file = manifest ? n - 1 : n;
    if (file < 0) pieces.push({ latin1: String.fromCharCode(...manifest!) });
    else if (sources[file]!.state.size > 0) pieces.push({ file, copy: [0, sources[file]!.state.size] });
  }
  pieces.push({ latin1: zip.end });
  const files = sources.map((s) => ({ path: s.path, state: s.state }));
  return [putFiles(to, files, pieces)];
}

/** The scene first, then all it needs that lies in its folder; what lies elsewhere is told. */
async function needed(workspace: Workspace, path: TreePath, notes: Note[]): Promise<TreePath[]> {
  const set = await SceneSet.of(workspace);
  const folder = folderOf(path);
  const found = new Set<TreePath>([path]);
  for (const at of found) {
    const scene = formatOfName(at) ? await set.read(at) : null;
    for (const r of scene?.references ?? []) {
      const files = filesOf(r);
      const within = files.filter((f) => isWithin(f, folder) && !/^[/\\]|^[a-z]+:/i.test(r.written));
      for (const f of within) found.add(f as TreePath);
      if (files.length === 0 || within.length < files.length)
        notes.push({
          level: 'warning',
          code: 'not-inside',
          message: `${r.written} (in ${nameOf(at)}) ${files.length === 0 ? 'is missing' : 'leads out of the folder of the scene'}: it is not in the package.`,
          path: at,
        });
    }
  }
  return [...found];
}

/** The steps that take a package apart beside it: the root document as `to`, the rest as it lay around it. */
export async function fromPackage(workspace: Workspace, { path, to }: Way, notes: Note[]): Promise<Step[]> {
  const { tree } = workspace;
  const state = await stateOf(tree, path);
  if (!state) throw new AppError('not-found', `${path} is not there.`);
  const read = (range: readonly [number, number]) => tree.read(path, range);
  const entries = await readDirectory(read, state.size);
  const trouble = packageTrouble(entries, state.size);
  if (!entries || trouble) throw new AppError('unsupported', trouble?.message ?? `${path} is no package.`);
  const files = entries.filter((e) => !e.name.endsWith('/'));
  // The first file of a USDZ is its root layer.
  const isUsd = path.toLowerCase().endsWith('.usdz');
  const name = isUsd ? files[0]?.name : await zaeRoot(read, state.size, files);
  const root = files.find((f) => f.name === name);
  if (!root)
    throw new AppError('unsupported', `${nameOf(path)} does not say which of its files is the scene.`);
  if (extensionOf(root.name) !== extensionOf(to))
    throw new AppError(
      'unsupported',
      `The scene in ${nameOf(path)} is ${nameOf(root.name)}: it has to be written as ${extensionOf(root.name)}.`,
    );
  const rootFolder = folderOf(root.name as TreePath);
  const steps: Step[] = [];
  const made = new Set<string>();
  for (const entry of files) {
    if (entry.name === 'manifest.xml' && entry !== root) continue;
    const place = entry === root ? to : placeOf(entry, rootFolder, folderOf(to));
    if (place === null) {
      notes.push({
        level: 'warning',
        code: 'not-taken',
        message: `${entry.name} would lie above the scene; it stays in the package.`,
        path,
      });
      continue;
    }
    const content = await contentOf(tree, path, entry);
    if ((await tree.kind(place)) !== null) {
      if ((await tree.digest(place).catch(() => null)) === content.digest) continue;
      notes.push({
        level: 'blocker',
        code: 'in-the-way',
        message: `${place} is there already, and is another file.`,
        path: place,
      });
      continue;
    }
    for (const step of foldersFor(place, (f) => made.has(f))) {
      made.add(step.path);
      if ((await tree.kind(step.path)) === null) steps.push(step);
    }
    const span = [entry.at, entry.at + entry.packed] as const;
    steps.push({
      do: 'put',
      path: place,
      before: null,
      size: entry.size,
      modified: null,
      from:
        entry.method === 0
          ? { from: 'tree', path, state, pieces: entry.size > 0 ? [{ copy: [...span] }] : [] }
          : { from: 'made', path, state, making: { form: 'inflate', span }, digest: content.digest },
    });
  }
  return steps;
}

/** Where a file of the package goes, as far from the scene as it lay; null: that is out of the scene's folder. */
function placeOf(entry: ZipEntry, rootFolder: string, folder: TreePath): TreePath | null {
  const relative = relativePath(rootFolder, entry.name);
  return relative.startsWith('../') || !isTreePath(relative) || relative === ''
    ? null
    : join(folder, relative);
}

const mostInside = 512 * 1024 * 1024;

async function contentOf(tree: FileTree, path: TreePath, entry: ZipEntry) {
  if (entry.method !== 0 && entry.method !== 8)
    throw new AppError('unsupported', `${entry.name} is packed in a way that is not known.`);
  if (entry.size > mostInside && entry.method !== 0)
    throw new AppError('unsupported', `${entry.name} is too large to be unpacked here.`);
  const bytes = await tree.read(path, [entry.at, entry.at + entry.packed]);
  const content = entry.method === 0 ? bytes : await made({ form: 'inflate' }, bytes);
  if ('refused' in content || content.length !== entry.size || crc32(content) !== crcIn(entry))
    throw new AppError('unsupported', `${entry.name} in ${nameOf(path)} is damaged.`);
  const hash = tree.startHash();
  hash.update(content);
  return { digest: hash.digest() };
}
