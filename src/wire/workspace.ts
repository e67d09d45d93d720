// Shape of .satchel/workspace.json. Fields that are not known here (a newer version's) are kept as they are.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import { fileKinds } from '@/core/layouts/homes';
import { gridTrouble, unitIds } from '@/core/units/units';
import { machineDescription } from './places';
import { issueWords } from './words';
import { isTreePath } from '@/core/files/treePath';
import type { WorkspaceFile } from '@/core/layouts/workspace';

/** Units and grid, as stored. */
export const unitsSchema = z.object({
  unit: z.enum(unitIds),
  display: z.union([
    z.object({ form: z.literal('decimal'), digits: z.number().int().min(0).max(6) }),
    z.object({ form: z.literal('fraction'), parts: z.number().int().min(1).max(128) }),
  ]),
  upAxis: z.enum(['Y', 'Z']),
  grid: z.object({
    spacing: z.number().positive(),
    heavyEvery: z.number().int().min(1).max(100),
    extent: z.number().positive(),
  }),
});

/** The same as it may be set from now on: with a grid that can be drawn. What older files say is read as it stands. */
export const drawnUnits = unitsSchema.superRefine(({ grid }, context) => {
  const trouble = gridTrouble(grid);
  if (trouble) context.addIssue({ code: 'custom', message: trouble });
});

/** How the net is set. */
export const netSettings = z.object({
  every: z.number().min(1).max(240),
  keep: z.number().int().min(1).max(500),
  hours: z.number().int().min(0).max(720),
  days: z.number().int().min(0).max(3650),
});

const folder = z.string().refine(isTreePath, 'not a folder inside the root');

export const workspaceFileSchema = z.looseObject({
  format: z.literal(1),
  name: z.string().min(1),
  created: z.string(),
  layout: z.string(),
  folders: z.array(folder),
  layoutText: z.string().optional(),
  kept: z.array(folder).optional(),
  category: z.string().optional(),
  archived: z.string().optional(),
  units: unitsSchema.optional(),
  names: z
    .object({ scene: z.string().optional(), output: z.string().optional(), person: z.string().optional() })
    .optional(),
  versions: z
    .object({ habit: z.enum(['numbered', 'folder']).catch('numbered'), pattern: z.string().optional() })
    .optional(),
  net: netSettings.optional().catch(undefined),
  homes: z.partialRecord(z.enum(fileKinds), folder),
  libraries: z.array(z.object({ name: z.string(), path: z.string() })).default([]),
  places: z
    .array(
      z.looseObject({
        name: z.string(),
        heads: z.array(z.string()),
        // One that is not understood here (a newer version's) is left out of account, not the whole workspace.
        machine: machineDescription.loose().optional().catch(undefined),
      }),
    )
    .default([]),
  remade: z.array(z.string().min(1).max(500)).max(500).optional().catch(undefined),
  search: z.array(z.string()).optional(),
}) satisfies z.ZodType<WorkspaceFile>;

/** Reads the marker file's text. Throws AppError with what is wrong in it. */
export function parseWorkspaceFile(text: string, at: string): WorkspaceFile {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new AppError('not-a-workspace', `${at} is damaged: it is not JSON.`);
  }
  if (
    typeof value === 'object' &&
    value !== null &&
    'format' in value &&
    typeof value.format === 'number' &&
    value.format > 1
  ) {
    throw new AppError('newer-format', `${at} was written by a newer version of Loyal Satchel.`);
  }
  const parsed = workspaceFileSchema.safeParse(value);
  if (!parsed.success) throw new AppError('not-a-workspace', `${at} is damaged. ${issueWords(parsed.error)}`);
  return parsed.data;
}
