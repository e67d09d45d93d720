// Two states of a scene side by side: versions, kept states, what is present. Each is looked at where it lies, on the disk or in the store.

import { AppError } from '@/core/errors';
import { isOwnAnywhere } from '@/core/files/records';
import { differences, type Thing } from '@/core/compare/things';
import { comparedFormats, sceneThings } from '@/core/compare/sceneThings';
import { sharedBytes } from '@/core/compare/sharedBytes';
import type { FileTree } from '@/core/files/fileTree';
import { bytesOfText } from '@/core/text/bytes';
import { folderOf, join, joinInside, nameOf, treePath, type TreePath } from '@/core/files/treePath';
import { fullPath, type FormatId } from '@/core/formats/format';
import { habitOf, ownFiles, readNote } from '@/core/plans/versionFiles';
import { SceneSet, type Scene } from '@/core/plans/sceneSet';
import { withBytes, withStored } from '@/core/plans/storedTree';
import { isReady } from '@/core/references/resolve';
import { sceneUnits, sceneUnitText } from '@/core/units/sceneUnits';
import { applyPieces } from '@/core/text/edits';
import { sceneNets } from '@/core/versions/net';
import type { VersionNote } from '@/core/versions/note';
import { sceneOfVersion } from '@/core/versions/series';
import type { CompareView } from '@/wire/views';
import { netLines } from './net';
import type { OpenWorkspace } from './open';

/** A state of a scene: a file (also one that is kept compact), or what the net kept at a time. */
export type Side = { path: TreePath } | { scene: TreePath; at: number };

/** The largest file that is looked into. */
const most = 512 * 1024 * 1024;

interface Looked {
  /** Where it is seen, and where it lies. */
  path: TreePath;
  lies: TreePath;
  tree: FileTree;
  size: number;
  modified: number;
  scene: Scene | null;
  bytes: Uint8Array;
  things: Thing[] | null;
}

/** Lays two states side by side. */
export async function compareSides(workspace: OpenWorkspace, a: Side, b: Side): Promise<CompareView> {
  const [before, after] = [await lookAt(workspace, a), await lookAt(workspace, b)];
  const isSameFolder = folderOf(before.path) === folderOf(after.path);
  const all = (l: Looked) => [...(l.things ?? []), ...unitThings(l), ...referenceThings(l, isSameFolder)];
  const start = () => workspace.tree.startHash();
  return {
    sides: [sideView(before), sideView(after)],
    looked: before.things !== null && after.things !== null,
    differences: differences(all(before), all(after)),
    shared: sharedBytes(before.bytes, after.bytes, start),
  };
}

const sideView = ({ lies, size, modified, scene }: Looked) => ({
  path: lies,
  size,
  modified,
  references: scene?.references.length ?? 0,
  ready: scene?.references.filter(isReady).length ?? 0,
});

async function lookAt(workspace: OpenWorkspace, side: Side): Promise<Looked> {
  const { path, tree } = await whereItLies(workspace, side);
  const stat = await tree.stat(path);
  if (!stat) throw new AppError('not-found', `${path} is not there any more.`);
  if (stat.size > most) throw new AppError('bad-request', `${nameOf(path)} is too large to be looked into.`);
  const set = await SceneSet.of({ ...workspace, tree }, {}, [path]);
  const scene = await set.read(path);
  const bytes = await tree.read(path);
  const format = scene?.reading.format.id;
  const beside = async (uri: string) => {
    const at = joinInside(folderOf(path), decoded(uri));
    return at !== null && (await tree.kind(at)) === 'file' ? tree.read(at) : null;
  };
  const things =
    format && comparedFormats.has(format)
      ? await sceneThings({ format, bytes, beside }, () => tree.startHash())
      : null;
  const lies = 'path' in side ? side.path : path;
  return { path, lies, tree, size: stat.size, modified: stat.modified, scene, bytes, things };
}

/** The bytes of a state, or of a file that it names beside it, as that was then. Nothing outside the root is read. */
export async function contentOfState(
  workspace: OpenWorkspace,
  side: Side,
  uri: string | undefined,
): Promise<Uint8Array> {
  const { path, tree } = await whereItLies(workspace, side);
  const at = uri === undefined ? path : joinInside(folderOf(path), decoded(uri.replaceAll('\\', '/')));
  const stat = at === null ? null : await tree.stat(at).catch(() => null);
  if (at === null || !stat || isOwnAnywhere(at))
    throw new AppError('not-found', `${uri ?? path} is not there in this state.`);
  if (stat.size > most) throw new AppError('bad-request', `${nameOf(at)} is too large to be looked into.`);
  return tree.read(at);
}

function decoded(uri: string): string {
  try {
    return decodeURIComponent(uri);
  } catch {
    return uri;
  }
}

/** The tree in which a state is seen, and its path there. */
async function whereItLies(
  workspace: OpenWorkspace,
  side: Side,
): Promise<{ path: TreePath; tree: FileTree }> {
  const { tree } = workspace;
  if ('at' in side) {
    const states = sceneNets(await netLines(tree)).get(side.scene)?.states ?? [];
    const state = states.find((s) => s.at === side.at);
    if (!state) throw new AppError('not-found', 'The net has no such state any more.');
    return { path: state.files.at(-1)!.path, tree: withStored(tree, state.files) };
  }
  const note = await readNote(workspace, side.path);
  const isThere = (await tree.kind(side.path)) === 'file';
  if (!isThere && !note?.compact) throw new AppError('not-found', `${side.path} is not there any more.`);
  const seen = isThere ? tree : withStored(tree, note!.compact!);
  return (await atOwnPlace(workspace, seen, side.path, note)) ?? { path: side.path, tree: seen };
}

/** A version that was written for its folder, as the scene was at its own place; null: it was not, or was changed since. */
async function atOwnPlace(
  workspace: OpenWorkspace,
  tree: FileTree,
  version: TreePath,
  note: VersionNote | null,
): Promise<{ path: TreePath; tree: FileTree } | null> {
  const scene = sceneOfVersion(habitOf(workspace), version);
  if (scene === version || !note?.parts) return null;
  const files = new Map<TreePath, { bytes: Uint8Array; modified: number }>();
  for (const part of note.parts) {
    const at = join(folderOf(version), part.to);
    const stat = await tree.stat(at);
    if (!stat || stat.size > most || (await tree.digest(at)) !== part.made) return null;
    const bytes = await tree.read(at);
    const pieces = (part.back ?? []).map((p) => ('copy' in p ? p : { bytes: bytesOfText(p.latin1) }));
    const own = part.back ? applyPieces(bytes, pieces) : bytes;
    files.set(join(folderOf(scene), part.from), { bytes: own, modified: stat.modified });
  }
  return files.has(scene) ? { path: scene, tree: withBytes(tree, files) } : null;
}

function unitThings({ scene, bytes }: Looked): Thing[] {
  const format: FormatId | undefined = scene?.reading.format.id;
  const units = format ? sceneUnits(format, bytes.subarray(0, 64 * 1024)) : null;
  if (!units || units.by === 'nobody') return [];
  const facts = new Map([
    ['unit', sceneUnitText(units.metres)],
    ['up axis', units.upAxis ?? 'none'],
  ]);
  return [{ kind: 'scene', key: 'units', name: 'units', facts }];
}

/** References by what they mean: where the two lie in different folders, how they are written has to differ. */
function referenceThings({ scene }: Looked, isSameFolder: boolean): Thing[] {
  if (!scene) return [];
  const found = new Map<string, Thing>();
  const own = new Set<string>(ownFiles(scene));
  for (const r of scene.references) {
    // What belongs to the scene alone is called after it: that is no difference.
    if (r.target !== null && own.has(r.target)) continue;
    const key = r.target ?? nameOf(fullPath(r).replaceAll('\\', '/'));
    const facts = new Map<string, string>([['state', r.state]]);
    if (isSameFolder) facts.set('path', fullPath(r));
    found.set(key, { kind: 'reference', key, name: key, facts });
  }
  return [...found.values()];
}

/** A side as an address has it: `kept 1763629800000` or a path. */
export function sideOf(scene: string, said: string): Side {
  const kept = /^kept (\d+(?:\.\d+)?)$/.exec(said);
  return kept ? { scene: treePath(scene), at: Number(kept[1]) } : { path: treePath(said) };
}
