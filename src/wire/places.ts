// Places as they are kept with the workspace, and as a file that is handed on: a drive, a share or a machine, and what it is like.

import { z } from 'zod';
import { systems, type KnownPlace, type MachineDescription } from '@/core/places/machine';
import { AppError } from '@/core/errors';
import { fileSystemIds } from '@/core/names/fileSystems';
import { issueWords } from './words';

export const machineDescription = z.object({
  system: z.enum(systems).describe('What the machine runs, or what the drive is plugged into.'),
  fileSystem: z
    .enum(fileSystemIds)
    .optional()
    .describe('What its drive is formatted as; absent: as is usual for the system.'),
  root: z
    .string()
    .max(1000)
    .optional()
    .describe(
      'The folder in which workspaces lie there; with <name> where the workspace’s own folder stands.',
    ),
  ignoresCase: z.boolean().optional().describe('Whether two names that differ only in letter case are one.'),
  longestPath: z
    .number()
    .int()
    .min(60)
    .max(100_000)
    .optional()
    .describe('Longest path, the end mark included: characters on Windows, else bytes.'),
  free: z.number().min(0).optional().describe('Free room in bytes.'),
  speed: z
    .object({ write: z.number().positive(), smallFiles: z.number().positive().nullable() })
    .optional()
    .describe('Bytes written a second, and small files made a second.'),
  mounts: z
    .array(z.string().min(1))
    .max(50)
    .optional()
    .describe('Heads of drives and shares connected there.'),
}) satisfies z.ZodType<MachineDescription>;

/** One place. `heads`: the paths under which it is known on different machines. */
export const placeSchema = z.object({
  name: z.string().min(1).max(100),
  heads: z.array(z.string().min(1)).default([]),
  machine: machineDescription.optional(),
}) satisfies z.ZodType<KnownPlace>;

/** A file of places: one, or several of a studio. */
export const placesFile = z.object({
  format: z.literal(1),
  places: z.array(placeSchema).min(1).max(200),
});

/** Reads such a file. Throws AppError with what is wrong in it. */
export function readPlaces(text: string, at: string): KnownPlace[] {
  let value: unknown;
  try {
    value = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch {
    throw new AppError('bad-request', `${at} is no file of places: it is not JSON.`);
  }
  const one = placeSchema.safeParse(value);
  if (one.success) return [one.data];
  const parsed = placesFile.safeParse(value);
  if (parsed.success) return parsed.data.places;
  throw new AppError('bad-request', `${at} is no file of places. ${issueWords(parsed.error)}`);
}

/** The schema as JSON Schema. */
export function placesSchema(): object {
  return z.toJSONSchema(placesFile, { io: 'input' });
}

/** The text of such a file. */
export const writePlaces = (places: readonly KnownPlace[]): string =>
  `${JSON.stringify({ format: 1, places }, null, 2)}\n`;
