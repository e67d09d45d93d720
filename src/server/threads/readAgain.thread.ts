// A thread that reads a scene by Assimp. Its memory goes with each reading: an instance that stumbled is not used again.

import { createRequire } from 'node:module';
import { AppError } from '@/core/errors';
import { unwrapped } from '@/core/formats/packed';
import { decodeWide, utf8, wideEncoding } from '@/core/text/bytes';
import { Bounds, readWithin } from '../disk/bounds';
import { nodeCalls } from '../disk/calls';
import { readOpen } from '../disk/diskReading';
import type { ReadAgainTask } from '../facts/secondReader';
import type { Refused } from './patient';

export type ReadAgainEnd = { glb: Uint8Array } | Refused;

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

const bytesAt = (path: string, bounds: Bounds): Uint8Array =>
  readWithin(path, bounds, (fd, size) => {
    if (size > mostBytes) throw new AppError('unsupported', `${path} is too large to be read again.`);
    return readOpen(nodeCalls, fd, [0, size]);
  });

/** Text in UTF-16 as UTF-8, with a declaration that says so (XML 1.0 §4.3.3). */
function narrow(bytes: Uint8Array): Uint8Array {
  const wide = wideEncoding(bytes);
  if (!wide) return bytes;
  const text = decodeWide(bytes.subarray(2), wide);
  return utf8(text.replace(/^(\s*<\?xml[^>]*encoding=["'])utf-16[a-z]*/i, '$1utf-8'));
}

export default async function readAgain(task: ReadAgainTask): Promise<ReadAgainEnd> {
  const none: ReadAgainEnd = { code: 'unsupported', why: 'No reader makes out what is in this scene.' };
  try {
    const bounds = new Bounds(task.allowed);
    const inner = await unwrapped(task.format, bytesAt(task.path, bounds));
    if (!inner) return none;
    const load = createRequire(import.meta.url)('assimpjs') as (options: object) => Promise<Assimp>;
    const assimp = await load({ print: () => undefined, printErr: () => undefined });
    const files = new assimp.FileList();
    // Assimp chooses its reader by the ending; out of its package a scene is COLLADA.
    files.AddFile(`scene.${task.format === 'zae' ? 'dae' : task.format}`, narrow(inner.bytes));
    for (const { written, path } of task.beside) files.AddFile(written, bytesAt(path, bounds));
    const done = assimp.ConvertFileList(files, 'glb2');
    if (!done.IsSuccess() || done.FileCount() === 0) return none;
    // What is given lies in the instance's own memory.
    return { glb: done.GetFile(0).GetContent().slice() };
  } catch (cause) {
    return cause instanceof AppError ? { code: cause.code, why: cause.message } : none;
  }
}
