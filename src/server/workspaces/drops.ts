// Drops: what a page sends to the server, file by file and piece by piece, until a plan takes it from there.
//
// A drop is told before its first byte: every path with its size. So names are settled once, room is asked for once, and a file counts as here
// only when as many bytes arrived as were told and their digest is the sender's. A piece that is cut off leaves nothing of itself behind;
// a drop that nobody goes on with is taken away whole.
//
// A drop belongs to who sent it. Pages name what is in it by the drop's id; where the server keeps it they are not told, and a path there is taken from
// nobody.

import fs from 'node:fs';
import path from 'node:path';
import type { Note } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import { isTreePath, isWithin } from '@/core/files/treePath';
import { layDrop } from '@/core/plans/drop';
import { bytes as sizeText } from '@/core/text/figures';
import type { Hashing } from '@/core/files/digest';
import { startHash } from '../disk/blake';
import { asTime } from '../disk/calls';
import { toSystem } from '../disk/system';
import { freeBytes } from '../disk/use';
import type { Who } from '../who';
import { batchFolder, newBatch, stagingFolder } from './stage';

/** A file as the page tells it before it sends it: size in bytes, time in ms since 1970 UTC. */
export interface DropFile {
  path: string;
  size: number;
  modified: number;
}

interface Arriving {
  /** Where it lies once it is whole, '/'-separated, absolute. */
  to: string;
  /** Where it grows until then: apart from the drop's own names. The system's form. */
  part: string;
  size: number;
  modified: number;
  /** Bytes here, and their hash so far. */
  here: number;
  hash: Hashing | null;
  isWhole: boolean;
  isBusy: boolean;
}

export interface Drop {
  id: string;
  folder: string;
  /** Below it lie the files that are whole. */
  root: string;
  files: (Arriving | null)[];
  /** Folders without a file, absolute. */
  folders: readonly string[];
  notes: readonly Note[];
  /** ms since 1970 UTC: when something of it came last. */
  touched: number;
}

const filesFolder = 'in';
const partsFolder = 'parts';
// Nobody waits this long between two pieces: the page is gone.
const forgottenAfter = 15 * 60_000;

/** How a page names what is in a drop: this, the drop's id, a path in it. */
const named = 'drop:';

/** Whether a page means something in a drop, and no path of the disk. */
export const isDropped = (name: string): boolean => name.startsWith(named);

const gone = () => new AppError('not-found', 'This drop is not waiting any more. Drop the files again.');

/** The drops that are on their way or wait for their plan. */
export class Drops {
  private readonly drops = new Map<string, Drop>();
  /** Folders of drops, by id, and whose they are; null: of the only one who works here. */
  private readonly owners = new Map<string, string | null>();

  constructor(private readonly dataFolder: string) {}

  /** A new folder for what somebody sent: its path. */
  newFolder(who: Who | null): string {
    const id = newBatch(this.dataFolder);
    this.owners.set(id, who?.id ?? null);
    return batchFolder(this.dataFolder, id);
  }

  /** What a page calls a path in a drop. */
  nameOf(path: string): string {
    return `${named}${path.slice(stagingFolder(this.dataFolder).length + 1)}`;
  }

  /** The path of what a page names. Throws AppError('not-found') where it is nothing of a drop of theirs. */
  pathOf(name: string, who: Who | null): string {
    const below = isDropped(name) ? name.slice(named.length) : '';
    const slash = below.indexOf('/');
    const id = below.slice(0, slash);
    if (slash < 0 || !isTreePath(below) || this.owners.get(id) !== (who?.id ?? null)) throw gone();
    return `${batchFolder(this.dataFolder, id)}/${below.slice(slash + 1)}`;
  }

  /** Begins a drop. Throws AppError for paths that leave it, and where the drive has less room than it needs. */
  begin(files: readonly DropFile[], folders: readonly string[], who: Who | null = null): Drop {
    this.sweep();
    const laid = layDrop(
      files.map((f) => f.path),
      folders,
    );
    if (laid.files.every((f) => f === null) && laid.folders.length === 0)
      throw new AppError('bad-request', 'There is no file in what was dropped.', 'Nothing was changed.', [
        ...laid.notes.map((n) => n.message),
      ]);
    const folder = this.newFolder(who);
    const id = folder.slice(folder.lastIndexOf('/') + 1);
    try {
      const total = files.reduce((sum, f, i) => sum + (laid.files[i] === null ? 0 : f.size), 0);
      const free = freeBytes(folder);
      if (total > free)
        throw new AppError(
          'disk-full',
          `What was dropped has ${sizeText(total)}; the drive with ${folder} has ${sizeText(free)} free.`,
        );
      for (const f of ['', ...laid.folders])
        fs.mkdirSync(toSystem(`${folder}/${filesFolder}/${f}`), { recursive: true });
      fs.mkdirSync(toSystem(`${folder}/${partsFolder}`));
    } catch (cause) {
      fs.rmSync(toSystem(folder), { recursive: true, force: true });
      throw cause;
    }
    const drop: Drop = {
      id,
      folder,
      root: `${folder}/${filesFolder}`,
      folders: laid.folders.map((f) => `${folder}/${filesFolder}/${f}`),
      notes: laid.notes,
      touched: Date.now(),
      files: files.map((f, i): Arriving | null => {
        const at = laid.files[i]!;
        if (at === null) return null;
        return {
          to: `${folder}/${filesFolder}/${at}`,
          part: toSystem(`${folder}/${partsFolder}/${i}`),
          size: f.size,
          modified: f.modified,
          here: 0,
          hash: null,
          isWhole: false,
          isBusy: false,
        };
      }),
    };
    this.drops.set(id, drop);
    return drop;
  }

  /** The drop with this id. Throws AppError('not-found') for one that is not waiting any more, or is somebody else's. */
  find(id: string, who: Who | null = null): Drop {
    const drop = this.drops.get(id);
    if (!drop || this.owners.get(id) !== (who?.id ?? null)) throw gone();
    drop.touched = Date.now();
    return drop;
  }

  /**
   * Takes a piece of a file that begins at byte `offset`. The piece that ends the file comes with the digest (BLAKE3, hex) of the whole.
   * Resolves with how many bytes of the file are here. Throws AppError('bad-upload') for a piece that is not the next one, that is longer than the
   * file, or whose file turns out another than was sent; what was written of that piece is taken back.
   */
  async take(
    drop: Drop,
    index: number,
    offset: number,
    digest: string | null,
    body: AsyncIterable<Uint8Array> | null,
  ): Promise<{ here: number; isWhole: boolean }> {
    this.checkWaits(drop);
    const file = drop.files[index];
    if (!file) throw new AppError('bad-upload', 'That file is not part of the drop.');
    if (file.isWhole) return { here: file.here, isWhole: true };
    if (file.isBusy || offset !== file.here)
      throw new AppError(
        'bad-upload',
        `${file.to} is here up to byte ${file.here}; a piece from byte ${offset} on does not follow.`,
      );
    file.isBusy = true;
    try {
      await this.write(drop, file, body);
      this.checkWaits(drop);
      if (file.here === file.size) await this.finish(file, digest);
      return { here: file.here, isWhole: file.isWhole };
    } finally {
      file.isBusy = false;
    }
  }

  private checkWaits(drop: Drop): void {
    if (this.drops.get(drop.id) !== drop) throw gone();
    drop.touched = Date.now();
  }

  private async write(drop: Drop, file: Arriving, body: AsyncIterable<Uint8Array> | null): Promise<void> {
    const start = file.here;
    const hash = (file.hash ??= startHash());
    const handle = await fs.promises.open(file.part, start === 0 ? 'w' : 'r+');
    const put = async (bytes: Uint8Array, at: number) => {
      try {
        for (let n = 0; n < bytes.length;)
          n += (await handle.write(bytes, n, bytes.length - n, at + n)).bytesWritten;
      } catch (cause) {
        throw fileError(file.to, cause);
      }
    };
    try {
      let at = start;
      for await (const bytes of body ?? []) {
        if (at + bytes.length > file.size)
          throw new AppError(
            'bad-upload',
            `More bytes came of ${file.to} than the ${file.size} that were told.`,
          );
        await put(bytes, at);
        hash.update(bytes);
        at += bytes.length;
        drop.touched = Date.now();
      }
      file.here = at;
    } catch (cause) {
      await handle.close().catch(() => {});
      this.restart(file);
      // What is no fault of the drive's is one of the connection.
      if (cause instanceof AppError) throw cause;
      throw new AppError('bad-upload', `${file.to} was cut off on its way.`, 'Nothing of it was kept.');
    }
    await handle.close();
  }

  /** Takes away what is here of a file: it begins anew, since the state of a hash cannot be set back. */
  private restart(file: Arriving): void {
    fs.rmSync(file.part, { force: true });
    file.here = 0;
    file.hash = null;
  }

  private async finish(file: Arriving, digest: string | null): Promise<void> {
    const found = (file.hash ?? startHash()).digest();
    file.hash = null;
    if (digest !== found) {
      this.restart(file);
      throw new AppError(
        'bad-upload',
        digest === null
          ? `${file.to} came without its digest, so nobody can say that it is whole.`
          : `${file.to} did not arrive as it was sent.`,
      );
    }
    const time = asTime(file.modified);
    if (file.modified !== 0) await fs.promises.utimes(file.part, time, time);
    await fs.promises.mkdir(path.dirname(toSystem(file.to)), { recursive: true });
    await fs.promises.rename(file.part, toSystem(file.to));
    file.isWhole = true;
  }

  /** What was said of the drops in which these paths lie. Throws AppError('bad-upload') where a file of them has not arrived. */
  notesFor(paths: readonly string[]): Note[] {
    const notes: Note[] = [];
    for (const drop of this.drops.values()) {
      if (!paths.some((p) => isWithin(p, drop.folder))) continue;
      drop.touched = Date.now();
      const missing = drop.files.filter((f) => f !== null && !f.isWhole).length;
      if (missing > 0)
        throw new AppError(
          'bad-upload',
          `${missing} of ${drop.files.length} dropped files have not arrived.`,
        );
      notes.push(...drop.notes);
    }
    return notes;
  }

  /** Ends a drop and takes away what is here of it. */
  remove(id: string): void {
    const drop = this.drops.get(id);
    if (!drop) return;
    this.drops.delete(id);
    this.owners.delete(id);
    fs.rmSync(toSystem(drop.folder), { recursive: true, force: true });
  }

  /** Takes away drops that stopped half way. */
  sweep(now = Date.now()): void {
    for (const drop of this.drops.values())
      if (now - drop.touched > forgottenAfter && drop.files.some((f) => f !== null && !f.isWhole))
        this.remove(drop.id);
  }
}
