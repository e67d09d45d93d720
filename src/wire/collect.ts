// Collecting, as files that people share: presets, and the report that lies in a collected folder. Their schemas are published in docs/.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import type { Report } from '@/core/collect/report';
import type { Rule } from '@/core/collect/placement';
import { fileKinds } from '@/core/layouts/homes';
import { isTreePath } from '@/core/files/treePath';

const folder = z.string().refine((f) => f === '' || isTreePath(f), 'this is no folder below the new one');

/** How a collected folder is laid out, and what never comes along: a file that a team shares. */
export const collectPreset = z.object({
  format: z.literal(1),
  name: z.string().min(1).max(200).optional(),
  layout: z
    .discriminatedUnion('by', [
      z.object({
        by: z.literal('kind').describe('Each kind of file in a folder of its own.'),
        homes: z.partialRecord(z.enum(fileKinds), folder).describe('The folder of each kind.'),
      }),
      z.object({ by: z.literal('mirror').describe('As the files lie, below the folders they share.') }),
      z.object({
        by: z.literal('tail').describe('The last folders of each path are kept.'),
        folders: z.number().int().min(0).max(20),
      }),
    ])
    .optional(),
  exclude: z
    .array(z.string().min(1).max(4000))
    .optional()
    .describe('Folders of which nothing comes along: installed software, shared libraries.'),
});
export type CollectPreset = z.infer<typeof collectPreset>;

/** A preset of its text. Throws AppError with what is wrong in it. */
export function readPreset(text: string, from: string): { rule: Rule | null; exclude: string[] } {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new AppError('bad-request', `${from} is no JSON.`);
  }
  const read = collectPreset.safeParse(json);
  if (!read.success) {
    const { path, message } = read.error.issues[0]!;
    throw new AppError(
      'bad-request',
      `${from} is no preset for collecting: ${path.join('.') || 'it'}: ${message}`,
    );
  }
  return { rule: (read.data.layout as Rule | undefined) ?? null, exclude: read.data.exclude ?? [] };
}

const need = z.object({ scene: z.string(), at: z.string() });
const why = z.enum(['missing', 'offline', 'remote', 'not-allowed', 'excluded', 'unticked']);

/** What lies in a collected folder ("what is in here.json"). */
export const collectReport = z.object({
  format: z.literal(1),
  name: z.string(),
  made: z.string().describe('ISO 8601, UTC.'),
  files: z.array(
    z.object({
      path: z.string().describe('Below the folder.'),
      size: z.number().describe('Bytes.'),
      blake3: z.string().nullable(),
      kind: z.string(),
      chosen: z.boolean().describe('It was asked for itself, not only needed.'),
      was: z.string().describe('Where it came from: below the root, in a library, or its name alone.'),
      neededBy: z.array(need),
    }),
  ),
  left: z.array(z.object({ why, what: z.string(), size: z.number(), neededBy: z.array(need) })),
  scenes: z.array(
    z.object({
      path: z.string(),
      format: z.string(),
      version: z.string().nullable(),
      programs: z.array(z.string()),
      required: z.array(z.string()),
      used: z.array(z.string()),
      fonts: z.array(z.string()),
      unit: z.string().nullable(),
    }),
  ),
});

// The report is what the schema says.
type Same<A, B> = [A] extends [B] ? ([B] extends [A] ? true : never) : never;
const sameAsReport: Same<z.infer<typeof collectReport>, Report> = true;
void sameAsReport;

/** The schemas as they are published. */
export const collectPresetSchema = () => z.toJSONSchema(collectPreset, { io: 'input' });
export const collectReportSchema = () => z.toJSONSchema(collectReport);
