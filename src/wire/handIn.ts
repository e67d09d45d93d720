// A hand-in list as a file that a teacher, a client or a lead writes. Its schema is published as docs/hand-in.schema.json.

import { z } from 'zod';
import type { HandInList, Point } from '@/core/handIn/list';
import { AppError } from '@/core/errors';
import { checkFilePattern } from '@/core/outputs/passes';
import { unitIds } from '@/core/units/units';
import { passList } from './passes';
import { issueWords } from './words';

const glob = z
  .string()
  .min(1)
  .max(500)
  .describe('A pattern over paths below the root: scenes/*.gltf, ** across folders.');
const say = z.string().max(300).optional().describe('The point in your own words.');
const algorithms = z.array(z.string()).optional();
const names = z.array(z.string()).optional();

/** After the BagIt Profiles specification; labels that are not known here are kept and not looked at. */
export const bagItProfile = z.looseObject({
  'BagIt-Profile-Info': z.looseObject({
    'BagIt-Profile-Identifier': z.string(),
    'Source-Organization': z.string().optional(),
    'External-Description': z.string().optional(),
    Version: z.string().optional(),
  }),
  'Bag-Info': z
    .record(
      z.string(),
      z.looseObject({
        required: z.boolean().optional(),
        values: z.array(z.string()).optional(),
        repeatable: z.boolean().optional(),
      }),
    )
    .optional(),
  'Manifests-Required': algorithms,
  'Manifests-Allowed': algorithms,
  'Tag-Manifests-Required': algorithms,
  'Tag-Manifests-Allowed': algorithms,
  'Tag-Files-Required': names,
  'Tag-Files-Allowed': names,
  'Payload-Files-Required': names,
  'Payload-Files-Allowed': names,
  'Allow-Fetch.txt': z.boolean().optional(),
  'Fetch.txt-Required': z.boolean().optional(),
  'Data-Empty': z.boolean().optional(),
  Serialization: z.enum(['required', 'optional', 'forbidden']).optional(),
  'Accept-Serialization': z.array(z.string()).optional(),
  'Accept-BagIt-Version': z.array(z.string()).optional(),
});

export const handInList = z.object({
  format: z.literal(1),
  name: z.string().min(1).max(200).describe('What is asked for.'),
  from: z.string().max(200).optional().describe('Who asks.'),
  require: z
    .array(
      z.object({
        path: glob,
        least: z.number().int().min(0).optional().describe('How many at least; absent: one.'),
        most: z.number().int().min(0).optional(),
        say,
      }),
    )
    .optional()
    .describe('Files and folders that have to be there.'),
  forbid: z
    .array(z.object({ path: glob, say }))
    .optional()
    .describe('What must not be there.'),
  names: z
    .array(
      z.object({
        of: glob,
        like: z.string().min(1).max(200).describe('The name without its extension: # one digit, * anything.'),
        say,
      }),
    )
    .optional(),
  formats: z.array(z.object({ of: glob, allow: z.array(z.string().min(1)).min(1), say })).optional(),
  pictures: z
    .array(
      z.object({
        of: glob,
        most: z.number().int().positive().optional().describe('Pixels of the longer side, at most.'),
        least: z.number().int().positive().optional().describe('Pixels of the shorter side, at least.'),
        powersOfTwo: z.boolean().optional(),
        bits: z.number().int().positive().optional().describe('Bits of a channel.'),
        say,
      }),
    )
    .optional(),
  passes: passList.optional().describe('Passes and frames that have to be there and whole.'),
  units: z.object({ unit: z.enum(unitIds).optional(), upAxis: z.enum(['Y', 'Z']).optional() }).optional(),
  references: z
    .object({
      complete: z.boolean().optional().describe('Nothing that scenes need is missing.'),
      relative: z.boolean().optional().describe('No path is absolute.'),
    })
    .optional(),
  size: z
    .object({ file: z.number().positive().optional(), all: z.number().positive().optional() })
    .optional()
    .describe('Bytes: of the largest file, of all.'),
  form: z
    .object({
      as: z.enum(['zip', 'folder']).optional(),
      named: z
        .string()
        .max(200)
        .optional()
        .describe('The delivery’s name without .zip: # one digit, * anything.'),
      profile: bagItProfile.optional().describe('Rules for the bag, after BagIt Profiles.'),
    })
    .optional(),
}) satisfies z.ZodType<HandInList>;

/** A list as it crosses boundaries. */
export type HandInListWire = z.infer<typeof handInList>;

/** Reads a list. Throws AppError with what is wrong in it. */
export function readHandInList(text: string, at: string): HandInListWire {
  let value: unknown;
  try {
    value = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch {
    throw new AppError('bad-request', `${at} is no hand-in list: it is not JSON.`);
  }
  // A BagIt profile by itself is a list that asks for nothing else.
  const profile = bagItProfile.safeParse(value);
  if (profile.success)
    return {
      format: 1,
      name: profile.data['BagIt-Profile-Info']['External-Description'] ?? 'A bag',
      form: { profile: profile.data },
    };
  const read = handInList.safeParse(value);
  if (!read.success) throw new AppError('bad-request', `${at}: ${issueWords(read.error)}`);
  const [wrong] = read.data.passes ? checkFilePattern(read.data.passes.file) : [];
  if (wrong) throw new AppError('bad-request', `${at}: passes.file: ${wrong}`);
  return read.data;
}

/** The schema as JSON Schema. */
export function handInSchema(): object {
  return z.toJSONSchema(handInList, { io: 'input' });
}

export const pointView = z.object({
  id: z.string(),
  asked: z.string(),
  ok: z.boolean(),
  found: z.array(z.object({ path: z.string().nullable(), message: z.string() })),
  repair: z.enum(['relative', 'relink', 'rename', 'pack']).nullable(),
}) satisfies z.ZodType<Point>;

/** One delivery, checked. `error`: it could not be looked into. */
export const handInView = z.object({
  path: z.string(),
  name: z.string(),
  sentence: z.string(),
  ok: z.boolean(),
  points: z.array(pointView),
  error: z.string().nullable(),
});
export type HandInView = z.infer<typeof handInView>;
