// What arrives, as it is asked for and answered.

import { z } from 'zod';
import type { AgainFile } from '@/core/plans/planArriveAgain';
import { treePath, type TreePath } from '@/core/files/treePath';

const text = z.string();
const number = z.number();

/** A file that could not be copied, and why. */
export const leftBehind = z.object({ path: text, why: text });
export const headMap = z.object({ from: text.min(1).max(1000), to: text.min(1).max(1000) });

export const recognised = z.object({
  path: text,
  kind: z.enum(['bag', 'zip', 'workspace', 'folder']),
  form: z.enum(['zip', 'folder']),
  isWorkspace: z.boolean(),
  files: number,
  bytes: number,
});

export const arrivedView = z.object({
  root: text,
  files: number,
  bytes: number,
  left: z.array(leftBehind),
  isWorkspace: z.boolean(),
  name: text,
  scenes: z.array(text),
  references: number,
  ready: number,
  missing: z.array(z.object({ scene: text, written: text, state: text })),
  repaired: z.object({ entry: text, title: text, paths: number }).nullable(),
  repairable: number,
  bundles: z.object({
    apart: z.number(),
    files: z.number(),
    whole: z.array(z.object({ path: text, why: text.nullable() })),
  }),
  unknownHeads: z.array(z.object({ name: text, path: text })),
  sentence: text,
});
export type ArrivedView = z.infer<typeof arrivedView>;

const side = z.object({ size: number, modified: number }).nullable();
export const againFile = z.object({
  path: text.transform((p): TreePath => treePath(p)).meta({ type: 'string' }),
  is: z.enum(['new', 'same', 'theirs', 'ours', 'both', 'gone', 'added']),
  here: side,
  there: side,
}) satisfies z.ZodType<AgainFile, unknown>;
