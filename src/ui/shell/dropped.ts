// What was dropped on the window: every file of it with its path below what was dropped, and how it is sent to the server.

import { post } from '../kit/api';
import { ApiError } from '../kit/api';
import type { ErrorShape } from '@/wire/jobs';

export interface Dropped {
  path: string;
  file: File;
}

const isArchive = (name: string) => /\.(zip|7z|rar|tar|tgz|tbz2?|txz|gz|bz2|xz|zst)$/i.test(name);

/** All files below an entry, folders followed. Reads are asked in turn: browsers give a folder in parts. */
async function filesOf(entry: FileSystemEntry, prefix: string, into: Dropped[]): Promise<void> {
  const path = `${prefix}${entry.name}`;
  if (entry.isFile) {
    into.push({
      path,
      file: await new Promise<File>((resolve, reject) =>
        (entry as FileSystemFileEntry).file(resolve, reject),
      ),
    });
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  for (;;) {
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (part.length === 0) return;
    for (const e of part) await filesOf(e, `${path}/`, into);
  }
}

/** Everything that was dropped. Must be called while the drop is being handled: the entries are gone afterwards. */
export function takeDrop(data: DataTransfer): Promise<Dropped[]> {
  const entries = [...data.items]
    .map((i) => (i.kind === 'file' ? (i.webkitGetAsEntry() ?? i.getAsFile()) : null))
    .filter((e) => e !== null);
  return (async () => {
    const files: Dropped[] = [];
    for (const e of entries) {
      if (e instanceof File) files.push({ path: e.name, file: e });
      else await filesOf(e, '', files);
    }
    return files;
  })();
}

/** What a drop asks for: loose files are brought in, one pack goes to the holding area, a mixture goes there as one pack. */
export function meaningOf(files: readonly Dropped[]): { kind: 'bring' } | { kind: 'intake'; prefix: string } {
  const tops = new Set(files.map((f) => f.path.split('/')[0]!));
  const hasPack = files.some((f) => f.path.includes('/') || isArchive(f.path));
  if (!hasPack) return { kind: 'bring' };
  return {
    kind: 'intake',
    prefix: tops.size === 1 ? '' : `dropped ${new Date().toISOString().slice(0, 10)}/`,
  };
}

/** Sends one file; resolves with where it lies on the server. */
function send(
  batch: string,
  d: Dropped,
  path: string,
  onBytes: (sent: number) => void,
  signal: AbortSignal,
): Promise<string> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    const fail = (error: ErrorShape) => reject(new ApiError(error));
    request.open(
      'POST',
      `/api/upload?${new URLSearchParams({ batch, path, modified: String(d.file.lastModified) })}`,
    );
    request.setRequestHeader('x-satchel', '1');
    request.upload.onprogress = (e) => onBytes(e.loaded);
    request.onerror = () =>
      fail({
        code: 'unreachable',
        message: `${d.path} could not be sent: the server does not answer.`,
        unchanged: 'Nothing was changed.',
        next: 'Drop it again.',
        details: [],
      });
    request.onabort = () =>
      fail({
        code: 'cancelled',
        message: 'The drop was cancelled.',
        unchanged: 'Nothing was changed.',
        next: 'Drop it again when you like.',
        details: [],
      });
    request.onload = () => {
      const answer = JSON.parse(request.responseText || '{}') as { path?: string; error?: ErrorShape };
      if (answer.path !== undefined) resolve(answer.path);
      else
        fail(
          answer.error ?? {
            code: 'internal',
            message: `${d.path} was refused.`,
            unchanged: 'Nothing was changed.',
            next: 'Try again.',
            details: [],
          },
        );
    };
    signal.addEventListener('abort', () => request.abort(), { once: true });
    request.send(d.file);
  });
}

/** Sends a whole drop, one file after another; resolves with the plan to ask for. */
export async function sendDrop(
  files: readonly Dropped[],
  onProgress: (p: { files: number; of: number; bytes: number; total: number; path: string }) => void,
  signal: AbortSignal,
): Promise<{ kind: 'bring'; files: string[] } | { kind: 'intake'; from: string }> {
  const { batch } = await post<{ batch: string }>('/api/drops');
  const meaning = meaningOf(files);
  const prefix = meaning.kind === 'intake' ? meaning.prefix : '';
  const total = files.reduce((s, f) => s + f.file.size, 0);
  let bytes = 0;
  const sent: string[] = [];
  for (const [i, d] of files.entries()) {
    sent.push(
      await send(
        batch,
        d,
        prefix + d.path,
        (n) => onProgress({ files: i, of: files.length, bytes: bytes + n, total, path: d.path }),
        signal,
      ),
    );
    bytes += d.file.size;
    onProgress({ files: i + 1, of: files.length, bytes, total, path: d.path });
  }
  if (meaning.kind === 'bring') return { kind: 'bring', files: sent };
  const first = prefix + files[0]!.path;
  const below = first.split('/').length - 1;
  return {
    kind: 'intake',
    from: sent[0]!
      .split('/')
      .slice(0, sent[0]!.split('/').length - below)
      .join('/'),
  };
}
