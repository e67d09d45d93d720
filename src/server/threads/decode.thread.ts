// A thread that makes small pictures of files: a large one takes seconds, in which the server goes on answering.

import { AppError, type ErrorCode } from '@/core/errors';
import { smallPicture, type PictureTask } from '../facts/picture';

/** Errors of our own do not cross threads whole, their words do. */
export type PictureEnd = { picture: Uint8Array } | { code: ErrorCode; why: string };

export default async function decode(task: PictureTask): Promise<PictureEnd> {
  try {
    return { picture: await smallPicture(task) };
  } catch (cause) {
    if (cause instanceof AppError) return { code: cause.code, why: cause.message };
    return { code: 'unsupported', why: 'There is no picture of this file.' };
  }
}
