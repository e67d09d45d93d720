// A thread that makes small pictures of files: a large one takes seconds, in which the server goes on answering.

import { AppError } from '@/core/errors';
import { smallPicture, type PictureTask } from '../facts/picture';
import type { Refused } from './patient';

export type PictureEnd = { picture: Uint8Array } | Refused;

export default async function decode(task: PictureTask): Promise<PictureEnd> {
  try {
    return { picture: await smallPicture(task) };
  } catch (cause) {
    if (cause instanceof AppError) return { code: cause.code, why: cause.message };
    return { code: 'unsupported', why: 'There is no picture of this file.' };
  }
}
