// Many small files put into one beside them, and taken apart again. What went into the bundle goes to the bin, and so does a bundle that was taken apart:
// nothing is gone before somebody clears the bin, and undo puts everything back where it lay.

import { foldersFor, putFiles, type FilesPiece, type Note, type Plan, type Step } from '../changes/plan';
import {
  bundleList,
  bundlePath,
  isOfBundle,
  readBundleList,
  writeBundleList,
  type BundledFile,
} from '../bags/bundles';
import { mostInZip, storedZip, type StoredFile } from '../convert/storedZip';
import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import type { ByteRange, CancelSignal, FileStat, FileTree } from '../files/fileTree';
import { binAt } from '../files/records';
import {
  comparePaths,
  folderOf,
  join,
  nameOf,
  relativePath,
  rootPath,
  type TreePath,
} from '../files/treePath';
import { packageTrouble, readDirectory, type ZipEntry } from '../formats/zip';
import { filesOf } from '../references/scan';
import { crc32, Crc } from '../text/crc32';
import { decodeText, latin1, utf8 } from '../text/bytes';
import { bytes as bytesText, count } from '../text/figures';
import { crcIn } from './packageFiles';
import { plainMoves } from './moveSteps';
import { SceneSet } from './sceneSet';
import type { Workspace } from './workspace';

/** Bytes of the longest list that is read: of two million files. */
const longestList = 256 * 1024 * 1024;

export interface BundleOptions {
  /** ISO time, which names the folder in the bin. */
  now: string;
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, of: number, path: string) => void) | undefined;
}

// Each part stays below 4 GiB with all its headers (FAT32's largest file, and ZIP without the 64-bit form), and below ZIP's number of files.
const mostBytes = mostInZip - 64 * 1024 * 1024;
const mostFiles = 60_000;

/** Puts series ('caches/fog_#.vdb') or folders into one file each. */
export async function planBundle(
  workspace: Workspace,
  groups: readonly string[],
  options: BundleOptions,
): Promise<Plan> {
  const { tree } = workspace;
  const notes: Note[] = [];
  const chosen = groups.map((of) => ({ of, files: [] as FileStat[] }));
  const taken = new Set<string>();
  const passedOver = (path: string, why: string) => {
    if (groups.some((of) => isOfBundle(path, of)))
      notes.push({
        level: 'warning',
        code: 'stays',
        message: `${path} stays as it is: ${why === 'link' ? 'a link cannot go into a bundle' : 'it cannot be read'}.`,
        path,
      });
  };
  for await (const f of tree.list(rootPath, passedOver)) {
    options.signal?.throwIfAborted();
    const group = chosen.find(({ of }) => isOfBundle(f.path, of));
    if (!group) continue;
    if (f.size > mostBytes)
      notes.push({
        level: 'warning',
        code: 'too-large',
        message: `${f.path} has ${bytesText(f.size)}: too much for a bundle. It stays as it is.`,
        path: f.path,
      });
    else {
      group.files.push(f);
      taken.add(f.path);
    }
  }
  const of = taken.size;
  let done = 0;
  const steps: Step[] = [];
  const names: string[] = [];
  for (const group of chosen) {
    const parts = inParts(group.files);
    for (const [n, files] of parts.entries()) {
      const to = await freePath(tree, bundlePath(group.of, parts.length > 1 ? n + 1 : null), names);
      names.push(to);
      steps.push(
        await bundled(tree, to, files, (path) => {
          options.signal?.throwIfAborted();
          options.onScene?.(++done, of, path);
        }),
      );
    }
    if (parts.length === 0)
      notes.push({
        level: 'info',
        code: 'nothing',
        message: `${group.of}: there is nothing of it any more.`,
      });
  }
  const bin = binAt(options.now);
  const moved = await plainMoves(
    workspace,
    new Map([...taken].map((p) => [p, `${bin}/${p}`])),
    Object.values(workspace.file.homes),
  );
  const basis = taken.size > 0 ? await usersOf(workspace, taken, notes) : undefined;
  return {
    kind: 'bundle',
    title: `Put ${count(taken.size, 'file')} into ${names.length === 1 ? nameOf(names[0]!) : `${names.length} bundles`}`,
    steps: [...steps, ...moved.steps],
    notes: [...notes, ...moved.notes],
    paths: [],
    readiness: null,
    basis,
  };
}

/** What scenes use of it is missing as long as it is in the bundle: said, a line for each scene. */
async function usersOf(workspace: Workspace, taken: ReadonlySet<string>, notes: Note[]) {
  const scenes = await SceneSet.of(workspace);
  for await (const { path, references } of scenes.each()) {
    const used = new Set(references.flatMap(filesOf).filter((f) => taken.has(f)));
    if (used.size > 0 && !taken.has(path))
      notes.push({
        level: 'warning',
        code: 'in-use',
        message: `${path} uses ${count(used.size, 'file')} of it: missing until the bundle is taken apart.`,
        path,
      });
  }
  return scenes.basis();
}

function inParts(files: readonly FileStat[]): FileStat[][] {
  const parts: FileStat[][] = [];
  let size = Infinity;
  for (const f of [...files].sort((a, b) => comparePaths(a.path, b.path))) {
    // Its headers and its line in the list, roughly from above.
    const needs = f.size + 512 + 4 * f.path.length;
    if (size + needs > mostBytes || parts.at(-1)!.length >= mostFiles) {
      parts.push([]);
      size = 0;
    }
    parts.at(-1)!.push(f);
    size += needs;
  }
  return parts;
}

async function freePath(tree: FileTree, wanted: string, taken: readonly string[]): Promise<TreePath> {
  for (let n = 2, at = wanted; ; n++) {
    if (!taken.includes(at) && (await tree.kind(at as TreePath)) === null) return at as TreePath;
    at = wanted.replace(/(\.bundle\.zip)$/, ` (${n})$1`);
  }
}

async function bundled(
  tree: FileTree,
  to: TreePath,
  files: readonly FileStat[],
  onFile: (path: string) => void,
): Promise<Step> {
  const listed: BundledFile[] = [];
  const stored: StoredFile[] = [];
  const sources: { path: TreePath; state: { size: number; modified: number; digest: Digest } }[] = [];
  for (const f of files) {
    onFile(f.path);
    const { crc, digest } = await readThrough(tree, f.path);
    const name = relativePath(folderOf(to), f.path);
    stored.push({ name, size: f.size, crc, modified: f.modified });
    const mode = (await tree.stat(f.path))?.mode;
    listed.push(mode === undefined ? [name, f.modified, digest] : [name, f.modified, digest, mode & 0o777]);
    sources.push({ path: f.path, state: { size: f.size, modified: f.modified, digest } });
  }
  const list = utf8(writeBundleList(listed));
  const zip = storedZip([{ name: bundleList, size: list.length, crc: crc32(list) }, ...stored]);
  if (!zip) throw new AppError('unsupported', `${to} would be larger than 4 GB.`);
  const pieces: FilesPiece[] = [{ latin1: zip.before[0]! + latin1(list) }];
  for (const [n, { state }] of sources.entries()) {
    pieces.push({ latin1: zip.before[n + 1]! });
    if (state.size > 0) pieces.push({ file: n, copy: [0, state.size] });
  }
  pieces.push({ latin1: zip.end });
  return putFiles(to, sources, pieces);
}

async function readThrough(tree: FileTree, path: TreePath, range?: ByteRange) {
  const crc = new Crc();
  const hash = tree.startHash();
  let size = 0;
  for await (const part of tree.stream(path, range)) {
    crc.update(part);
    hash.update(part);
    size += part.length;
  }
  return { crc: crc.value(), digest: hash.digest(), size };
}

/** A bundle's directory and list; null: it is no bundle. Throws AppError('unsupported') where it is one, and cannot be read. */
export async function readBundle(
  tree: Pick<FileTree, 'read' | 'stat'>,
  path: TreePath,
): Promise<{ entries: Map<string, ZipEntry>; files: BundledFile[] } | null> {
  const stat = await tree.stat(path);
  if (!stat) return null;
  const entries = await readDirectory((range) => tree.read(path, range), stat.size);
  const first = entries?.[0];
  if (!entries || first?.name !== bundleList || first.method !== 0) return null;
  const trouble = packageTrouble(entries, stat.size);
  if (trouble) throw new AppError('unsupported', `${nameOf(path)}: ${trouble.message}`);
  if (first.packed > longestList)
    throw new AppError('unsupported', `The list in ${nameOf(path)} is longer than any that was written.`);
  const { text } = decodeText(await tree.read(path, [first.at, first.at + first.packed]));
  const files = readBundleList(text);
  if (!files) throw new AppError('unsupported', `The list in ${nameOf(path)} is damaged.`);
  return { entries: new Map(entries.map((e) => [e.name, e])), files };
}

/** Takes bundles apart where they lie. */
export async function planApart(
  workspace: Workspace,
  bundles: readonly TreePath[],
  options: BundleOptions,
): Promise<Plan> {
  const { tree } = workspace;
  const notes: Note[] = [];
  const steps: Step[] = [];
  const made = new Set<string>();
  const coming = new Map<string, TreePath>();
  let files = 0;
  for (const [n, path] of bundles.entries()) {
    options.onScene?.(n + 1, bundles.length, path);
    const bundle = await readBundle(tree, path);
    if (!bundle) throw new AppError('unsupported', `${path} is no bundle.`);
    const stat = (await tree.stat(path))!;
    const state = { size: stat.size, modified: stat.modified, digest: null };
    for (const [name, modified, digest, mode] of bundle.files) {
      options.signal?.throwIfAborted();
      const place = join(folderOf(path), name);
      const entry = bundle.entries.get(name);
      const trouble = await troubleOf(tree, path, entry, digest);
      if (trouble || !entry) {
        notes.push({
          level: 'blocker',
          code: 'damaged',
          message: `${name} in ${nameOf(path)} ${trouble!}.`,
          path,
        });
        continue;
      }
      const isThere = (await tree.kind(place)) !== null;
      if (isThere && (await tree.digest(place).catch(() => null)) === digest) continue;
      if (isThere || coming.has(place)) {
        notes.push({
          level: 'blocker',
          code: 'in-the-way',
          message: isThere
            ? `${place} is there already, and is another file than that in ${nameOf(path)}.`
            : `${place} stands in ${nameOf(coming.get(place)!)} and in ${nameOf(path)}.`,
          path: place,
        });
        continue;
      }
      coming.set(place, path);
      for (const step of foldersFor(place, (f) => made.has(f))) {
        made.add(step.path);
        if ((await tree.kind(step.path)) === null) steps.push(step);
      }
      files++;
      steps.push({
        do: 'put',
        path: place,
        before: null,
        size: entry.size,
        modified,
        mode,
        from: {
          from: 'tree',
          path,
          state,
          pieces: entry.size > 0 ? [{ copy: [entry.at, entry.at + entry.packed] }] : [],
        },
      });
    }
  }
  const bin = binAt(options.now);
  const moved = await plainMoves(workspace, new Map(bundles.map((p) => [p, `${bin}/${p}`])), [
    ...Object.values(workspace.file.homes),
    ...made,
  ]);
  return {
    kind: 'apart',
    title: `Take ${bundles.length === 1 ? nameOf(bundles[0]!) : `${bundles.length} bundles`} apart: ${count(files, 'file')}`,
    steps: [...steps, ...moved.steps],
    notes: [...notes, ...moved.notes],
    paths: [],
    readiness: null,
  };
}

async function troubleOf(
  tree: FileTree,
  path: TreePath,
  entry: ZipEntry | undefined,
  digest: Digest,
): Promise<string | null> {
  if (!entry) return 'is not in it, though its list says so';
  if (entry.method !== 0) return 'was packed by another program: unpack that file by hand';
  const read = await readThrough(tree, path, [entry.at, entry.at + entry.packed]);
  const isRight = read.size === entry.size && read.crc === crcIn(entry) && read.digest === digest;
  return isRight ? null : 'is damaged';
}
