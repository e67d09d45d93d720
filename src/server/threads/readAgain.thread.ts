// A thread that reads a scene by Assimp. Its memory goes with each reading: an instance that stumbled is not used again.

import { createRequire } from 'node:module';
import fs from 'node:fs';
import { AppError, type ErrorCode } from '@/core/errors';
import { unwrapped } from '@/core/formats/packed';
import { decodeWide, utf8 } from '@/core/text/bytes';
import { Bounds } from '../disk/bounds';
import { nodeCalls } from '../disk/calls';
import { readOpen } from '../disk/diskReading';
import { toSystem } from '../disk/system';
import type { ReadAgainTask } from '../facts/secondReader';

/** Errors of our own do not cross threads whole, their words do. */
export type ReadAgainEnd = { glb: Uint8Array } | { code: ErrorCode; why: string };

interface Assimp {
  FileList: new () => { AddFile(name: string, bytes: Uint8Array): void };
  ConvertFileList(
    files: object,
    format: 'glb2',
  ): {
    IsSuccess(): boolean;
    FileCount(): number;
    GetFile(n: number): { GetContent(): Uint8Array };
  };
}

// Several times as much is held while it is read.
const mostBytes = 200 * 1024 * 1024;

async function bytesAt(path: string, bounds: Bounds): Promise<Uint8Array> {
  const { O_RDONLY, O_NONBLOCK } = fs.constants;
  const fd = nodeCalls.open(toSystem(path), O_RDONLY | (O_NONBLOCK ?? 0));
  try {
    const stat = nodeCalls.fstat(fd);
    if (!stat.isFile()) throw new AppError('unsupported', `${path} is no file.`);
    bounds.checkOpen(fd, path);
    if (stat.size > mostBytes) throw new AppError('unsupported', `${path} is too large to be read again.`);
    return await readOpen(nodeCalls, fd, [0, stat.size]);
  } finally {
    nodeCalls.close(fd);
  }
}

/** Text in UTF-16 as UTF-8, with a declaration that says so (XML 1.0 §4.3.3). */
function narrow(bytes: Uint8Array): Uint8Array {
  const mark = (bytes[0]! << 8) | bytes[1]!;
  if (mark !== 0xfffe && mark !== 0xfeff) return bytes;
  const text = decodeWide(bytes.subarray(2), mark === 0xfffe ? 'utf-16le' : 'utf-16be');
  return utf8(text.replace(/^(\s*<\?xml[^>]*encoding=["'])utf-16[a-z]*/i, '$1utf-8'));
}

export default async function readAgain(task: ReadAgainTask): Promise<ReadAgainEnd> {
  const none: ReadAgainEnd = { code: 'unsupported', why: 'No reader makes out what is in this scene.' };
  try {
    const bounds = new Bounds(task.allowed);
    const inner = await unwrapped(task.format, await bytesAt(task.path, bounds));
    if (!inner) return none;
    const load = createRequire(import.meta.url)('assimpjs') as (options: object) => Promise<Assimp>;
    const assimp = await load({ print: () => undefined, printErr: () => undefined });
    const files = new assimp.FileList();
    // Assimp chooses its reader by the ending; out of its package a scene is COLLADA.
    files.AddFile(`scene.${task.format === 'zae' ? 'dae' : task.format}`, narrow(inner.bytes));
    for (const { written, path } of task.beside) files.AddFile(written, await bytesAt(path, bounds));
    const done = assimp.ConvertFileList(files, 'glb2');
    if (!done.IsSuccess() || done.FileCount() === 0) return none;
    // What is given lies in the instance's own memory.
    return { glb: done.GetFile(0).GetContent().slice() };
  } catch (cause) {
    return cause instanceof AppError ? { code: cause.code, why: cause.message } : none;
  }
}
