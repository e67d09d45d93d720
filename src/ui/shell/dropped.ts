// What was dropped on the window: every file of it with its path below what was dropped, and how it is sent to the server: in pieces, so that
// a file of any size needs little memory here, with the digest of the whole at its end, so that the server knows that nothing is lost.

import { beginDrop, endDrop } from '@/wire/routes/intake';
import { createBLAKE3, type IHasher } from 'hash-wasm';
import { isArchive } from '@/core/names/archives';
import { piecesView, pieceView, type DropRequest, type PiecesTable } from '@/wire/drops';
import { call, ApiError, query, send } from '../kit/api';

export interface Dropped {
  path: string;
  file: File;
}

/** All of a drop: its files, and the folders that hold none. */
export interface Drop {
  files: Dropped[];
  folders: string[];
}

/** All files below an entry, folders followed. Reads are asked in turn: browsers give a folder in parts. */
async function filesOf(entry: FileSystemEntry, prefix: string, into: Drop): Promise<void> {
  const path = `${prefix}${entry.name}`;
  if (entry.isFile) {
    into.files.push({
      path,
      file: await new Promise<File>((resolve, reject) =>
        (entry as FileSystemFileEntry).file(resolve, reject),
      ),
    });
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  for (let isEmpty = true; ; isEmpty = false) {
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (part.length === 0) {
      if (isEmpty) into.folders.push(path);
      return;
    }
    for (const e of part) await filesOf(e, `${path}/`, into);
  }
}

/** Everything that was dropped. Must be called while the drop is being handled: the entries are gone afterwards. */
export function takeDrop(data: DataTransfer): Promise<Drop> {
  const entries = [...data.items]
    .map((i) => (i.kind === 'file' ? (i.webkitGetAsEntry() ?? i.getAsFile()) : null))
    .filter((e) => e !== null);
  return (async () => {
    const drop: Drop = { files: [], folders: [] };
    for (const e of entries) {
      if (e instanceof File) drop.files.push({ path: e.name, file: e });
      else await filesOf(e, '', drop);
    }
    return drop;
  })();
}

/** What a drop asks for: loose files are brought in, one pack goes to the holding area, a mixture goes there as one pack. */
export function meaningOf(drop: Drop): { kind: 'bring' } | { kind: 'intake'; prefix: string } {
  const paths = [...drop.files.map((f) => f.path), ...drop.folders];
  const tops = new Set(paths.map((p) => p.split('/')[0]!));
  const hasPack = drop.folders.length > 0 || paths.some((p) => p.includes('/') || isArchive(p));
  if (!hasPack) return { kind: 'bring' };
  return {
    kind: 'intake',
    prefix: tops.size === 1 ? '' : `dropped ${new Date().toISOString().slice(0, 10)}/`,
  };
}

const pieceSize = 8 * 1024 * 1024;
// Each request costs some milliseconds: small files go together.
const together = { bytes: pieceSize, files: 500 };
// Some requests at a time hide the way there and back.
const lanes = 3;

/** How far a drop is. Sizes in bytes. */
export interface Sending {
  files: number;
  of: number;
  bytes: number;
  total: number;
  path: string;
}

/** Sends one large file, piece by piece. */
async function sendFile(
  drop: string,
  index: number,
  { file, path }: Dropped,
  hasher: IHasher,
  onBytes: (more: number) => void,
  signal: AbortSignal,
): Promise<void> {
  hasher.init();
  for (let offset = 0; offset < file.size; offset += pieceSize) {
    const piece = new Uint8Array(await readPiece(file, path, offset));
    hasher.update(piece);
    const isLast = offset + piece.length >= file.size;
    const digest = isLast ? hasher.digest() : undefined;
    pieceView.parse(await send(`/api/upload${query({ drop, file: index, offset, digest })}`, piece, signal));
    onBytes(piece.length);
  }
}

/** Sends several small files in one request. */
async function sendTogether(
  drop: string,
  indices: readonly number[],
  files: readonly Dropped[],
  hasher: IHasher,
  signal: AbortSignal,
): Promise<void> {
  const pieces: Uint8Array[] = [];
  const table: PiecesTable = [];
  for (const index of indices) {
    const { file, path } = files[index]!;
    const piece = new Uint8Array(await readPiece(file, path, 0));
    pieces.push(piece);
    table.push({ file: index, offset: 0, size: piece.length, digest: hasher.init().update(piece).digest() });
  }
  const head = new TextEncoder().encode(JSON.stringify(table));
  const body = new Uint8Array(await new Blob([head, ...(pieces as Uint8Array<ArrayBuffer>[])]).arrayBuffer());
  piecesView.parse(await send(`/api/upload-many${query({ drop, table: head.length })}`, body, signal));
}

/** Which files go in one request each: a large one alone, small ones together, in their order. */
export function loadsOf(sizes: readonly (number | null)[]): number[][] {
  const loads: number[][] = [];
  let open: number[] = [];
  let bytes = 0;
  const close = () => {
    if (open.length > 0) loads.push(open);
    [open, bytes] = [[], 0];
  };
  for (const [i, size] of sizes.entries()) {
    if (size === null) continue;
    if (size > pieceSize) loads.push([i]);
    else {
      if (bytes + size > together.bytes || open.length >= together.files) close();
      open.push(i);
      bytes += size;
    }
  }
  close();
  return loads;
}

async function readPiece(file: File, path: string, offset: number): Promise<ArrayBuffer> {
  try {
    return await file.slice(offset, offset + pieceSize).arrayBuffer();
  } catch {
    throw new ApiError({
      code: 'not-found',
      message: `${path} can no longer be read; it was changed or moved since it was dropped.`,
      unchanged: 'Nothing was changed.',
      next: 'Drop it again.',
      details: [],
    });
  }
}

const cancelled = () =>
  new ApiError({
    code: 'cancelled',
    message: 'The drop was cancelled.',
    unchanged: 'Nothing was changed.',
    next: 'Drop it again when you like.',
    details: [],
  });

/** Sends a whole drop; resolves with the plan to ask for. What was sent of one that fails or is cancelled is taken away. */
export async function sendDrop(
  given: Drop,
  onProgress: (p: Sending) => void,
  signal: AbortSignal,
): Promise<{ kind: 'bring'; files: string[] } | { kind: 'intake'; from: string }> {
  const meaning = meaningOf(given);
  const prefix = meaning.kind === 'intake' ? meaning.prefix : '';
  const { files } = given;
  const request: DropRequest = {
    files: files.map((f) => ({ path: prefix + f.path, size: f.file.size, modified: f.file.lastModified })),
    folders: given.folders.map((f) => prefix + f),
  };
  const view = await call(beginDrop, {}, request);
  const total = files.reduce((s, f, i) => s + (view.files[i] === null ? 0 : f.file.size), 0);
  const of = view.files.filter((f) => f !== null).length;
  const loads = loadsOf(files.map((f, i) => (view.files[i] === null ? null : f.file.size)));
  let [bytes, done, next] = [0, 0, 0];
  const told = (index: number) => onProgress({ files: done, of, bytes, total, path: files[index]!.path });
  const lane = async () => {
    const hasher = await createBLAKE3();
    while (next < loads.length) {
      const load = loads[next++]!;
      const [first] = load as [number];
      if (load.length === 1 && files[first]!.file.size > pieceSize) {
        const onBytes = (more: number) => {
          bytes += more;
          told(first);
        };
        await sendFile(view.drop, first, files[first]!, hasher, onBytes, signal);
      } else {
        await sendTogether(view.drop, load, files, hasher, signal);
        bytes += load.reduce((sum, i) => sum + files[i]!.file.size, 0);
      }
      done += load.length;
      told(load.at(-1)!);
    }
  };
  try {
    await Promise.all(Array.from({ length: Math.min(lanes, loads.length) }, lane));
  } catch (cause) {
    next = loads.length;
    await call(endDrop, {}, { drop: view.drop }).catch(() => undefined);
    throw signal.aborted ? cancelled() : cause;
  }
  const here = view.files.filter((f) => f !== null);
  if (meaning.kind === 'bring') return { kind: 'bring', files: here };
  const first = here[0] ?? view.folders[0]!;
  return { kind: 'intake', from: `${view.folder}/${first.slice(view.folder.length + 1).split('/')[0]!}` };
}
