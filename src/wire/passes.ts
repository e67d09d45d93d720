// The list of passes as a file that a team shares. Its schema is published as docs/passes.schema.json.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import { checkFilePattern, type PassList } from '@/core/outputs/passes';
import { issueWords } from './words';

const frames = z
  .object({
    first: z.number().int(),
    last: z.number().int(),
    step: z.number().int().min(1).default(1),
  })
  .refine((f) => f.last >= f.first, 'the last frame comes before the first');
const word = z.string().min(1).max(200);
const names = z.array(word).min(1);

export const passList = z.object({
  format: z.literal(1),
  file: z
    .string()
    .min(1)
    .describe('Where a file lies, below the root: renders/{scene}/{camera}/{pass}.{frame:4}.exr'),
  frames: frames.optional().describe('Frames of every scene that says nothing else.'),
  passes: names.optional().describe('Passes of every scene that says nothing else.'),
  cameras: names.optional().describe('Cameras of every scene that says nothing else.'),
  width: z.number().int().positive().optional().describe('Pixels; absent: as most of a row are.'),
  height: z.number().int().positive().optional(),
  bits: z.number().int().positive().optional().describe('Bits of a channel.'),
  scenes: z
    .array(
      z.object({
        name: word.describe('What stands for {scene}.'),
        scene: z.string().optional().describe('The scene’s file below the root: no output may be older.'),
        cameras: names.optional(),
        passes: names.optional(),
        frames: frames.optional(),
      }),
    )
    .min(1),
}) satisfies z.ZodType<PassList>;

/** Reads a list. Throws AppError with what is wrong in it. */
export function readPassList(text: string, at: string): PassList {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new AppError('bad-request', `${at} is no JSON.`);
  }
  const read = passList.safeParse(value);
  if (!read.success) throw new AppError('bad-request', `${at}: ${issueWords(read.error)}`);
  const [wrong] = checkFilePattern(read.data.file);
  if (wrong) throw new AppError('bad-request', `${at}: file: ${wrong}`);
  return read.data;
}

/** The schema as JSON Schema. */
export function passListSchema(): object {
  return z.toJSONSchema(passList, { io: 'input' });
}
