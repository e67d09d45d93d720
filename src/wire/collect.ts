// Collecting, as files that people share: presets, and the report that lies in a collected folder. Their schemas are published in docs/.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import type { HandStep } from '@/core/collect/hand';
import type { Report } from '@/core/collect/report';
import type { Rule } from '@/core/collect/placement';
import { fileKinds } from '@/core/layouts/homes';
import { workspaceFileSchema } from './workspace';
import { isTreePath } from '@/core/files/treePath';
import { issueWords } from './words';

const folder = z.string().refine((f) => f === '' || isTreePath(f), 'this is no folder below the new one');

/** How a collected folder is laid out. */
export const collectLayout = z.discriminatedUnion('by', [
  z.object({
    by: z.literal('kind').describe('Each kind of file in a folder of its own.'),
    homes: z.partialRecord(z.enum(fileKinds), folder).describe('The folder of each kind.'),
  }),
  z.object({ by: z.literal('mirror').describe('As the files lie, below the folders they share.') }),
  z.object({
    by: z.literal('tail').describe('The last folders of each path are kept.'),
    folders: z.number().int().min(0).max(20),
  }),
]);

/** How a collected folder is laid out, and what never comes along: a file that a team shares. */
export const collectPreset = z.object({
  format: z.literal(1),
  name: z.string().min(1).max(200).optional(),
  layout: collectLayout.optional(),
  exclude: z
    .array(z.string().min(1).max(4000))
    .optional()
    .describe('Folders of which nothing comes along: installed software, shared libraries.'),
});
export type CollectPreset = z.infer<typeof collectPreset>;

/** A preset of its text. Throws AppError with what is wrong in it. */
export function readPreset(
  text: string,
  from: string,
): { name: string | null; rule: Rule | null; exclude: string[] } {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new AppError('bad-request', `${from} is no JSON.`);
  }
  const read = collectPreset.safeParse(json);
  if (!read.success)
    throw new AppError('bad-request', `${from} is no preset for collecting. ${issueWords(read.error)}`);
  const { name, layout, exclude } = read.data;
  return { name: name ?? null, rule: (layout as Rule | undefined) ?? null, exclude: exclude ?? [] };
}

const need = z.object({ scene: z.string(), at: z.string() });
const why = z.enum(['missing', 'offline', 'remote', 'not-allowed', 'excluded', 'unticked', 'not-used']);

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
      programs: z.array(z.string()).describe('Of pictures: what wrote them, as they say.'),
      fonts: z.array(z.string()).describe('Of pictures: typefaces in their texts.'),
    }),
  ),
  left: z.array(
    z.object({ why, what: z.string(), files: z.number(), size: z.number(), neededBy: z.array(need) }),
  ),
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

/** A step of a hand in the tree of the new folder. */
export const handStep = z.discriminatedUnion('do', [
  z.object({ do: z.literal('put'), from: z.string(), to: z.string().min(1).max(4000) }),
  z.object({ do: z.literal('folder'), path: z.string().min(1), to: z.string().min(1).max(4000) }),
  z.object({ do: z.literal('make'), path: z.string().min(1).max(4000) }),
  z.object({ do: z.literal('rule'), from: z.string() }),
  z.object({ do: z.literal('rule-in'), path: z.string() }),
]) satisfies z.ZodType<HandStep>;

/** Which scenes: the latest version of each, all of them, or these, as paths in the tree. */
export const collectScope = z.union([z.enum(['latest', 'all']), z.array(z.string()).min(1)]);
export type CollectScope = z.infer<typeof collectScope>;

/** What is collected, and how: as the page asks for it. Paths of files are absolute, scenes are paths in the tree. */
export const collectRequest = z.object({
  scenes: collectScope,
  excluded: z.array(z.string().min(1).max(4000)).max(200).default([]),
  unticked: z.array(z.string()).default([]),
  notUsed: z.array(z.string()).default([]),
  layout: collectLayout,
  byHand: z.array(handStep).max(10_000).default([]),
  folder: z.string().min(1),
  name: z.string().min(1).max(255),
  as: z.enum(['files', 'workspace', 'report']),
});
export type CollectRequest = z.infer<typeof collectRequest>;

/** The report of a plan, before anything lies in the folder. */
export const reportDraft = z.object({
  report: collectReport,
  sources: z.array(z.tuple([z.string(), z.string()])),
});
export type ReportDraft = z.infer<typeof reportDraft>;

/** What else is written into a new folder once its files lie there. `marker`: where it is to be a workspace. */
export const newFolder = z.object({
  draft: reportDraft.nullable(),
  marker: workspaceFileSchema.nullable(),
});
export type NewFolder = z.infer<typeof newFolder>;

/** What is needed, as pages show it. `by`, `owner`, members of sets: places in `files`. */
const needed = z.object({
  files: z.array(
    z.object({
      from: z.string(),
      size: z.number(),
      kind: z.enum(fileKinds),
      below: z.string(),
      lies: z.discriminatedUnion('in', [
        z.object({ in: z.literal('root') }),
        z.object({ in: z.literal('library'), name: z.string() }),
        z.object({ in: z.literal('outside') }),
      ]),
      chosen: z.boolean(),
      owner: z.number().nullable(),
      by: z.array(z.number()),
      set: z.string().nullable(),
    }),
  ),
  sets: z.array(z.tuple([z.string(), z.array(z.number())])),
  left: z.array(
    z.object({
      why,
      path: z.string().nullable(),
      written: z.string(),
      files: z.number(),
      size: z.number(),
      via: z.string().nullable(),
      by: z.array(z.number()),
    }),
  ),
  notes: z.array(z.string()),
  /** The root of what it was read in. */
  root: z.string(),
});
export type NeededWire = z.infer<typeof needed>;

/** What scenes need, and what a placement of it has to know. */
export const collectNeeds = needed.extend({
  /** Every scene that is worked on, as paths in the tree, and whether a later version of it is there. */
  scenes: z.array(z.object({ path: z.string(), isLatest: z.boolean() })),
  libraries: z.array(z.object({ name: z.string(), path: z.string() })),
  homes: z.partialRecord(z.enum(fileKinds), z.string()),
});
export type CollectNeeds = z.infer<typeof collectNeeds>;

const frameRange = z.tuple([z.number().int(), z.number().int()]);
/** What is asked to know which frames and tiles are shown. `frames`: what somebody said of sequences, by their path with marks. */
export const usedRequest = collectRequest.pick({ scenes: true, excluded: true }).extend({
  frames: z
    .array(z.tuple([z.string(), frameRange]))
    .max(10_000)
    .default([]),
});

/** Frames and tiles that nothing shows; and sequences of which no scene says what it shows, with the frames there are. */
export const collectUsed = z.object({
  notUsed: z.array(
    z.object({ set: z.string(), files: z.array(z.string()), size: z.number(), why: z.string() }),
  ),
  asks: z.array(z.object({ set: z.string(), first: z.number(), last: z.number() })),
});
export type CollectUsed = z.infer<typeof collectUsed>;

export const clashWay = z.enum(['both', 'replace', 'target']);

/** What is carried over. `from`: a folder, absolute; `assets`: paths below it, '' is all of it. */
export const carryRequest = z.object({
  from: z.string().min(1),
  assets: z.array(folder).min(1).max(10_000),
  flat: z.boolean(),
});

/** What carrying over would meet. `carried`: where each file would lie, in the order of `files`; null: in a library that is known here. */
export const carryLook = needed.extend({
  name: z.string(),
  carried: z.array(
    z.object({ to: z.string(), how: z.enum(['copy', 'there', 'replace', 'target']) }).nullable(),
  ),
  clashes: z.array(
    z.object({ from: z.string(), there: z.string(), both: z.string(), isForced: z.boolean() }),
  ),
});
export type CarryLook = z.infer<typeof carryLook>;

/** Files that could be carried over; `more`: so many are not in the list. */
export const carryAssets = z.object({
  name: z.string(),
  files: z.array(z.object({ path: z.string(), size: z.number() })),
  more: z.number(),
});

/** The schemas as they are published. */
export const collectPresetSchema = () => z.toJSONSchema(collectPreset, { io: 'input' });
export const collectReportSchema = () => z.toJSONSchema(collectReport);
