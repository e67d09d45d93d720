// Shapes of plans and journal lines where they cross a boundary: written to .satchel/journal, sent to workers and the browser.

import { z } from 'zod';
import type { JournalLine } from '@/core/changes/journal';
import { planKinds, type Plan } from '@/core/changes/plan';
import type { Digest } from '@/core/files/digest';
import { isTreePath, type TreePath } from '@/core/files/treePath';

const digest = z
  .string()
  .regex(/^[0-9a-f]{64}$/)
  .transform((s) => s as Digest);
const path = z
  .string()
  .refine(isTreePath, 'not a tree path')
  .transform((s) => s as TreePath);
const state = z.object({ size: z.number(), modified: z.number(), digest: digest.nullable() });
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
  z.object({ from: z.literal('store'), digest }),
  z.object({ from: z.literal('bytes'), latin1: z.string() }),
]);

const step = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('put'),
    path,
    before: state.nullable(),
    size: z.number(),
    modified: z.number().nullable(),
    from: source,
  }),
  z.object({ do: z.literal('move'), path, to: path, content: state }),
  z.object({ do: z.literal('move-folder'), path, to: path }),
  z.object({ do: z.literal('remove'), path, before: state }),
  z.object({ do: z.literal('make-folder'), path }),
  z.object({ do: z.literal('remove-folder'), path }),
]);

const note = z.object({
  level: z.enum(['blocker', 'warning', 'info']),
  code: z.string(),
  message: z.string(),
  path: z.string().optional(),
});
const pathChange = z.object({ scene: z.string(), at: z.string(), before: z.string(), after: z.string() });

/** A plan as it is written down. */
export const planSchema = z.object({
  kind: z.enum(planKinds),
  title: z.string(),
  steps: z.array(step).readonly(),
  notes: z.array(note).readonly(),
  paths: z.array(pathChange).readonly(),
  readiness: z.object({ before: z.number(), after: z.number(), of: z.number() }).nullable(),
  undoes: z.string().optional(),
}) satisfies z.ZodType<Plan>;

const lineSchema = z.discriminatedUnion('line', [
  z.object({ line: z.literal('plan'), id: z.string(), time: z.string(), plan: planSchema }),
  z.object({
    line: z.literal('about'),
    step: z.number(),
    digest: digest.nullable(),
    kept: digest.nullable(),
    skip: z.boolean().optional(),
  }),
  z.object({ line: z.literal('applied'), time: z.string() }),
  z.object({ line: z.literal('put-back'), time: z.string(), because: z.string(), left: z.array(z.string()) }),
]);

/** A journal line from JSON; null for lines of a shape that is not known here. */
export function parseJournalLine(value: unknown): JournalLine | null {
  const parsed = lineSchema.safeParse(value);
  return parsed.success ? parsed.data : null;
}
