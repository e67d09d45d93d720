// Shapes of plans and journal lines where they cross a boundary: written to .satchel/journal, sent to workers and the browser.

import { z } from 'zod';
import { makingForms } from '@/core/convert/made';
import type { JournalLine } from '@/core/changes/journal';
import type { Summary } from '@/core/changes/summary';
import { planKinds, type Plan } from '@/core/changes/plan';
import type { Digest } from '@/core/files/digest';
import { isTreePath, type TreePath } from '@/core/files/treePath';

const digest = z
  .string()
  .regex(/^[0-9a-f]{64}$/)
  .transform((s) => s as Digest);
/** A path inside a root. */
export const treePathSchema = z
  .string()
  .refine(isTreePath, 'not a tree path')
  .transform((s) => s as TreePath);
const path = treePathSchema;
const state = z.object({
  size: z.number(),
  modified: z.number(),
  digest: digest.nullable(),
  link: z.string().optional(),
});
const pieces = z
  .array(
    z.union([
      z.object({ copy: z.tuple([z.number(), z.number()]).readonly() }),
      z.object({ latin1: z.string() }),
    ]),
  )
  .nullable();

const source = z.discriminatedUnion('from', [
  z.object({ from: z.literal('outside'), path: z.string(), state, pieces }),
  z.object({ from: z.literal('tree'), path, state, pieces }),
  z.object({ from: z.literal('store'), digest, pieces: pieces.optional() }),
  z.object({ from: z.literal('bytes'), latin1: z.string() }),
  z.object({
    from: z.literal('made'),
    path: z.string(),
    outside: z.boolean().optional(),
    state,
    making: z.object({
      form: z.enum(makingForms),
      span: z.tuple([z.number(), z.number()]).readonly().optional(),
    }),
    digest,
  }),
  z.object({
    from: z.literal('files'),
    files: z.array(z.object({ path: z.string(), state, outside: z.boolean().optional() })),
    pieces: z.array(
      z.union([
        z.object({ file: z.number(), copy: z.tuple([z.number(), z.number()]).readonly() }),
        z.object({ latin1: z.string() }),
      ]),
    ),
  }),
]);

const step = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('put'),
    path,
    before: state.nullable(),
    size: z.number(),
    modified: z.number().nullable(),
    mode: z.number().optional(),
    from: source,
  }),
  z.object({ do: z.literal('move'), path, to: path, content: state }),
  z.object({ do: z.literal('move-folder'), path, to: path }),
  z.object({ do: z.literal('remove'), path, before: state }),
  z.object({ do: z.literal('link'), path, before: z.string().nullable(), after: z.string().nullable() }),
  z.object({
    do: z.literal('make-folder'),
    path,
    mode: z.number().optional(),
    fresh: z.boolean().optional(),
  }),
  z.object({ do: z.literal('remove-folder'), path }),
]);

export const noteSchema = z.object({
  level: z.enum(['blocker', 'warning', 'info']),
  code: z.string(),
  message: z.string(),
  path: z.string().optional(),
});
export const pathChange = z.object({
  scene: z.string(),
  at: z.string(),
  before: z.string(),
  after: z.string(),
});

/** A plan as it is written down. */
export const planSchema = z.object({
  kind: z.enum(planKinds),
  title: z.string(),
  steps: z.array(step).readonly(),
  notes: z.array(noteSchema).readonly(),
  paths: z.array(pathChange).readonly(),
  readiness: z.object({ before: z.number(), after: z.number(), of: z.number() }).nullable(),
  undoes: z.string().optional(),
  basis: z
    .object({
      scenes: z
        .array(z.tuple([z.string(), z.number(), z.number()]).readonly())
        .readonly()
        .optional(),
      files: z
        .array(z.object({ path: z.string(), outside: z.boolean(), state }))
        .readonly()
        .optional(),
    })
    .optional(),
}) satisfies z.ZodType<Plan>;

const lineSchema = z.discriminatedUnion('line', [
  z.object({
    line: z.literal('plan'),
    id: z.string(),
    time: z.string(),
    plan: planSchema,
    format: z.number().optional(),
    seq: z.number().optional(),
    by: z.object({ installation: z.string(), seal: z.string(), name: z.string().optional() }).optional(),
  }),
  z.object({
    line: z.literal('about'),
    step: z.number(),
    digest: digest.nullable(),
    kept: digest.nullable(),
    skip: z.boolean().optional(),
    modified: z.number().optional(),
    was: z.object({ modified: z.number(), mode: z.number().optional() }).optional(),
  }),
  z.object({ line: z.literal('applied'), time: z.string() }),
  z.object({ line: z.literal('putting-back') }),
  z.object({ line: z.literal('put-back'), time: z.string(), because: z.string(), left: z.array(z.string()) }),
]);

/** A journal line from JSON; null for lines of a shape that is not known here. */
export function parseJournalLine(value: unknown): JournalLine | null {
  const parsed = lineSchema.safeParse(value);
  return parsed.success ? parsed.data : null;
}

const ending = z.discriminatedUnion('how', [
  z.object({ how: z.literal('applied'), time: z.string() }),
  z.object({ how: z.literal('put-back'), time: z.string(), because: z.string(), left: z.array(z.string()) }),
]);

const summarySchema = z.object({
  format: z.literal(2),
  id: z.string(),
  seq: z.number(),
  time: z.string(),
  kind: z.enum(planKinds),
  title: z.string(),
  undoes: z.string().nullable(),
  end: ending,
  files: z.number(),
  paths: z.number(),
  touched: z.array(z.string()),
  folders: z.array(z.string()),
  changes: z.array(pathChange),
  by: z.string().optional(),
}) satisfies z.ZodType<Summary>;

/** A ledger entry in short from JSON; null where it is none that is known here. */
export function parseSummary(value: unknown): Summary | null {
  const parsed = summarySchema.safeParse(value);
  return parsed.success ? parsed.data : null;
}
