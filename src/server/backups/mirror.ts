// A plain copy of a workspace in files one can see, kept up to date. What was changed or removed here is not lost there: it moves to a folder beside,
// with the day and the hour.
//
// Most is copied while others go on working; the last look is taken under the workspace's lock, so that the copy never has half of a rename. What it is
// the copy of is written down beside it: two workspaces of one name, or a stranger's folder, are never mixed up with it.

import { createHash } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import { z } from 'zod';
import { AppError, withUnchanged } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import { once, type CancelSignal, type FileStat } from '@/core/files/fileTree';
import { isPassing, markerPath } from '@/core/files/records';
import { isStillAsRead, seemsUnchanged } from '@/core/files/times';
import { folderOf, isWithin, join, rootPath, treePath, type TreePath } from '@/core/files/treePath';
import { legalName } from '@/core/names/portable';
import { utf8 } from '@/core/text/bytes';
import { count } from '@/core/text/figures';
import { parseWorkspaceFile } from '@/wire/workspace';
import { DiskReading } from '../disk/diskReading';
import { DiskTree } from '../disk/diskTree';
import { takeFolderLock } from '../disk/folderLock';
import { currentLimits } from '../disk/limits';
import { liesIn } from '../disk/realPlace';
import { toSystem } from '../disk/system';
import { withLock } from '../workspaces/changing';
import { hasMarker, type OpenWorkspace } from '../workspaces/open';
import { keyOf } from './series';
import { openForBackup } from './takeSnapshot';

export interface Mirrored {
  folder: string;
  /** Files that were copied, and their bytes. */
  copied: number;
  bytes: number;
  same: number;
  /** Files of before that were moved aside, and where to; null: none. */
  aside: number;
  asideIn: string | null;
  /** What is not in the copy: it could not be read, or is no file. */
  unread: string[];
}

export interface MirrorOptions {
  signal?: CancelSignal | undefined;
  onFile?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
  now?: Date | undefined;
}

/** Whose copy a folder is. Beside it, so that it holds what the workspace holds and nothing else. */
const noteSchema = z.object({
  format: z.literal(1),
  key: z.string(),
  root: z.string(),
  host: z.string(),
  /** When the last run that finished began: ISO 8601, UTC. Absent before the first, and in version 0.1.0. */
  time: z.iso.datetime().optional(),
});
const notes = treePath('.satchel-copies');

/** Brings the copy in `folder`/`<name>` up to date. Every file appears there whole. Throws AppError; its `unchanged` says how far it came. */
export async function mirrorTo(root: string, folder: string, options: MirrorOptions = {}): Promise<Mirrored> {
  const inItself = () =>
    new AppError('bad-request', 'The copy cannot lie inside the workspace that is copied.');
  if (liesIn(root, folder)) throw inItself();
  currentLimits().bounds.checkPath(folder);
  if (!fs.existsSync(toSystem(folder))) throw new AppError('offline', `${folder} is not there just now.`);
  const source = await openForBackup(root);
  const name = treePath(legalName(source.file.name || root.slice(root.lastIndexOf('/') + 1)));
  if (liesIn(root, `${folder}/${name}`)) throw inItself();
  const target = new DiskTree(folder);
  return alone(target, async () => {
    const { note, at } = await claim(target, name, source);
    const begun = new Date();
    const lastRun = note.time === undefined ? -Infinity : Date.parse(note.time);
    const copy = new Copy(source.tree, target, name, lastRun, options);
    try {
      await copy.run();
      await ((await hasMarker(root)) ? withLock(root, () => copy.finish()) : copy.finish());
      await writeNote(target, at, { ...note, time: begun.toISOString() });
    } catch (cause) {
      throw withUnchanged(
        fileError(folder, cause),
        `${count(copy.done.copied, 'file')} were copied before. The copy is not up to date; copy again to go on.`,
      );
    }
    return copy.done;
  });
}

/** Works while nobody else copies into a folder. Throws AppError('busy') where somebody does. */
async function alone<T>(target: DiskTree, work: () => Promise<T>): Promise<T> {
  try {
    await target.makeFolder(notes);
    const taken = takeFolderLock(`${target.root}/${notes}`);
    if ('heldBy' in taken)
      throw new AppError(
        'busy',
        `Another copy to ${target.root} is running (${taken.heldBy.host}, process ${taken.heldBy.pid}).`,
      );
    try {
      return await work();
    } finally {
      taken.lock.release();
    }
  } catch (cause) {
    throw fileError(target.root, cause);
  }
}

type Note = z.infer<typeof noteSchema>;

/** Makes sure that `name` is, or becomes, the copy of this workspace and of nothing else; returns its note. Throws AppError('exists') where it is not. */
async function claim(
  target: DiskTree,
  name: TreePath,
  source: OpenWorkspace,
): Promise<{ note: Note; at: TreePath }> {
  const key = keyOf(source);
  const at = treePath(`${notes}/${createHash('sha256').update(name).digest('hex').slice(0, 16)}.json`);
  const note: Note = { format: 1, key, root: source.root, host: os.hostname() };
  const others = (whose: string) =>
    new AppError(
      'exists',
      `${target.root}/${name} is there already${whose}. Choose another folder for this copy.`,
    );
  if ((await target.kind(at)) === 'file') {
    const before = readNote(await target.read(at));
    if (before === null)
      throw new AppError(
        'exists',
        `${target.root}/${at} is damaged or from a newer version, so it is unknown which workspace ${target.root}/${name} is a copy of.`,
        'Nothing was changed. Choose another folder, or delete that file if the copy belongs to this workspace.',
      );
    if (before.key !== key || (await isOtherCopy(before, source)))
      throw others(`: the copy of ${before.root} on ${before.host}`);
    await checkStillThere(target, name, source);
    return { note: before, at };
  }
  if ((await target.kind(name)) !== null && !(await isCopyOf(target, name, key))) throw others('');
  await writeNote(target, at, note);
  await checkStillThere(target, name, source);
  return { note, at };
}

async function writeNote(target: DiskTree, at: TreePath, note: Note): Promise<void> {
  await target.write(at, once(utf8(`${JSON.stringify(note, null, 2)}\n`)), { replace: true, tag: 't' });
}

/** The note about a copy; null when it cannot be read. */
function readNote(bytes: Uint8Array): Note | null {
  try {
    return noteSchema.parse(JSON.parse(new TextDecoder().decode(bytes)));
  } catch {
    return null;
  }
}

/** Whether the workspace at the place in the note is still there, and another folder than this one: one of the two was copied from the other. */
async function isOtherCopy(before: Note, { root }: OpenWorkspace): Promise<boolean> {
  if (before.host === os.hostname() && before.root === root) return false;
  if (before.host !== os.hostname()) return true;
  return (
    (await hasMarker(before.root)) &&
    fs.realpathSync(toSystem(before.root)) !== fs.realpathSync(toSystem(root))
  );
}

/** Copies of version 0.1.0 have no note: one of a workspace is known by its marker. */
async function isCopyOf(target: DiskTree, name: TreePath, key: string): Promise<boolean> {
  const at = join(name, markerPath);
  if ((await target.kind(at)) !== 'file') return false;
  try {
    const file = parseWorkspaceFile(new TextDecoder().decode(await target.read(at)), at);
    return keyOf({ root: '', file }) === key;
  } catch {
    return false;
  }
}

/** Throws AppError('offline') for a folder that has become empty, where the copy is not: its drive is most likely not mounted. */
async function checkStillThere(target: DiskTree, name: TreePath, source: OpenWorkspace): Promise<void> {
  const isEmpty = source.tree.survey('').paths.length === 0;
  if (isEmpty && target.survey('').names.has(name))
    throw new AppError(
      'offline',
      `There are no files in ${source.root}. If it is on a drive of its own, check that the drive is mounted.`,
    );
}

/** One run of a copy. */
class Copy {
  readonly done: Mirrored;
  private readonly asideIn: TreePath;
  private readonly copied = new Set<TreePath>();
  /** Stats of files whose copy has their content, and when that was found (ms). */
  private readonly checked = new Map<TreePath, { seen: FileStat; readAt: number }>();

  constructor(
    private readonly source: DiskReading,
    private readonly target: DiskTree,
    private readonly name: TreePath,
    /** When the last run began that finished, in ms. */
    private readonly lastRun: number,
    private readonly options: MirrorOptions,
  ) {
    const day = (options.now ?? new Date()).toISOString().slice(0, 19).replace(/[:]/g, '-').replace('T', ' ');
    this.asideIn = treePath(`${name} (before)/${day}`);
    this.done = {
      folder: `${target.root}/${name}`,
      copied: 0,
      bytes: 0,
      same: 0,
      aside: 0,
      asideIn: null,
      unread: [],
    };
  }

  /** Copies what is other; what is gone stays. Returns what the workspace holds. */
  async run(): Promise<Set<TreePath>> {
    const { source, options, done } = this;
    const wanted = new Set<TreePath>();
    [done.same, done.unread] = [0, []];
    const { paths, passedOver, names, sizes, times, modes, changes } = source.survey('');
    for (const folder of names.keys()) {
      if (folder === '') continue;
      wanted.add(join(this.name, folder));
      await this.folder(join(this.name, folder));
    }
    for (const [n, at] of paths.entries()) {
      options.signal?.throwIfAborted();
      if (isPassing(at)) continue;
      wanted.add(join(this.name, at));
      await this.file({
        path: at,
        size: sizes[n]!,
        modified: times[n]!,
        mode: modes[n],
        changed: changes[n],
      });
    }
    for (const { path: at, why } of passedOver)
      if (why !== 'link') done.unread.push(at);
      else {
        wanted.add(join(this.name, at));
        await this.link(at as TreePath);
      }
    return wanted;
  }

  /** The last look: what changed meanwhile, and what is gone. */
  async finish(): Promise<void> {
    const wanted = await this.run();
    const { target, name } = this;
    // A run that was killed may have left one.
    for (const folder of this.source.survey('').names.keys())
      await target.clearTemporary(join(name, folder, 'x'), 't');
    if ((await target.kind(name)) !== 'folder') return;
    const there = new DiskReading(`${target.root}/${name}`).survey('');
    const links = there.passedOver.filter((p) => p.why === 'link').map((p) => p.path);
    // What could not be looked at may be there still.
    const isGone = (at: string) =>
      !wanted.has(join(name, at)) && !this.done.unread.some((u) => u === '' || isWithin(at, u));
    for (const at of [...there.paths, ...links]) if (isGone(at)) await this.setAside(join(name, at));
    const gone = [...there.names.keys()].filter((f) => f !== '' && isGone(f)).map((f) => join(name, f));
    // What is aside lies in folders of the same names; these are empty now.
    for (const folder of gone.sort().reverse()) await target.removeFolder(folder);
  }

  private async setAside(at: TreePath): Promise<void> {
    const below = at.slice(this.name.length + 1);
    let to = join(this.asideIn, below);
    // A file that was saved twice while it was copied lies aside twice.
    for (let n = 2; (await this.target.kind(to)) !== null; n++) to = join(`${this.asideIn} ${n}`, below);
    await this.folder(folderOf(to));
    if ((await this.target.kind(at)) === 'folder') await this.target.moveFolder(at, to);
    else await this.target.move(at, to);
    this.done.aside++;
    this.done.asideIn = `${this.target.root}/${this.asideIn}`;
  }

  /** Makes a folder, with those above it; a file in its place moves aside. */
  private async folder(at: TreePath): Promise<void> {
    if (at === rootPath) return;
    const kind = await this.target.kind(at);
    if (kind === 'folder') return;
    await this.folder(folderOf(at));
    if (kind !== null) await this.setAside(at);
    await this.target.makeFolder(at);
  }

  private async file(f: FileStat): Promise<void> {
    const { target, done } = this;
    const to = join(this.name, f.path);
    const there = await target.stat(to);
    const kind = await target.kind(to);
    const readAt = Date.now();
    if (kind === 'file' && there) {
      const state = await this.compare(f, there);
      if (state === 'same' && !this.copied.has(f.path)) done.same++;
      if (state === 'unread') done.unread.push(f.path);
      if (state !== 'other') return;
    }
    await this.folder(folderOf(to));
    if (kind !== null) await this.setAside(to);
    let digest: string;
    try {
      ({ digest } = await target.write(to, this.source.stream(f.path), {
        replace: false,
        tag: 't',
        modified: f.modified,
        mode: f.mode,
        signal: this.options.signal,
      }));
    } catch (cause) {
      // Gone, or for nobody to read: the next look tells. What fails on the target's side is thrown.
      if ((await this.readable(f.path)) === true) throw cause;
      done.unread.push(f.path);
      return;
    }
    if ((await target.digest(to)) !== digest)
      throw new AppError('disk-error', `${to} reads back different from the drive.`);
    this.copied.add(f.path);
    this.checked.set(f.path, { seen: f, readAt });
    done.copied = this.copied.size;
    done.bytes += f.size;
    this.options.onFile?.({ files: done.copied, bytes: done.bytes, path: f.path });
  }

  /** Compares a file with its copy. Both are read only where the file may have been replaced by another of the same size and time. */
  private async compare(f: FileStat, there: FileStat): Promise<'same' | 'other' | 'unread'> {
    if (!seemsUnchanged({ ...f, changed: undefined }, there)) return 'other';
    const { seen, readAt } = this.checked.get(f.path) ?? {
      seen: { ...f, changed: undefined },
      readAt: this.lastRun,
    };
    if (isStillAsRead(f, seen, readAt)) return 'same';
    if (!(await this.readable(f.path))) return 'unread';
    const now = Date.now();
    const own = await this.source.digest(f.path);
    if (own !== (await this.target.digest(join(this.name, f.path)))) return 'other';
    this.checked.set(f.path, { seen: f, readAt: now });
    return 'same';
  }

  private async readable(at: TreePath): Promise<boolean> {
    try {
      await this.source.read(at, [0, 1]);
      return true;
    } catch {
      return false;
    }
  }

  private async link(at: TreePath): Promise<void> {
    const { target } = this;
    const text = await this.source.readLink(at);
    const to = join(this.name, at);
    if (text === null || (await target.readLink(to)) === text) return;
    await this.folder(folderOf(to));
    if ((await target.kind(to)) !== null) await this.setAside(to);
    try {
      await target.makeLink(to, text);
    } catch {
      // A drive without links (exFAT), or a system that makes none for everybody.
      this.done.unread.push(at);
    }
  }
}
