// Messages between the server and its work threads, and what the browser hears about running work.

import { z } from 'zod';
import { isTreePath } from '@/core/files/treePath';
import { fileKinds } from '@/core/layouts/homes';
import { checkVersionPattern } from '@/core/versions/habit';
import { yardstickFormats } from '@/core/units/yardstickScene';
import { headMap } from './arrive';
import { carryRequest, clashWay, collectRequest, newFolder, usedRequest } from './collect';
import { handInList } from './handIn';
import { besideRequest, carryNodes, takeOver } from './nodes';
import { noteSchema, planSchema } from './plan';
import { placeSchema } from './places';
import { roleSchema } from './routes/roles';
import { travelChoice } from './travel';
import { drawnUnits, netSettings } from './workspace';

const layoutChoice = z.object({ id: z.string().optional(), text: z.string().optional() });

const treePathText = z.string().refine((p) => p !== '' && isTreePath(p), 'not a path inside the root');

/** What may be changed in a workspace's own settings; null takes a value away. */
const settingsChange = z
  .object({
    name: z.string().min(1).max(200),
    category: z.string().max(100).nullable(),
    archived: z.boolean(),
    units: drawnUnits,
    names: z.object({
      scene: z.string().max(200).optional(),
      output: z.string().max(200).optional(),
      person: z.string().max(100).optional(),
    }),
    libraries: z.array(z.object({ name: z.string().min(1), path: z.string().min(1) })),
    places: z.array(placeSchema),
    /** Caches that can be made again, as patterns; null: all caches. */
    remade: z.array(z.string().min(1).max(500)).max(500).nullable(),
    /** Null: the net is off. */
    net: netSettings.nullable(),
  })
  .partial();

/** How written paths change: heads by others, text or a pattern by text, to relative, to absolute. */
export const repathChange = z.discriminatedUnion('how', [
  z.object({
    how: z.literal('heads'),
    heads: z.array(z.object({ from: z.string(), to: z.string() })).min(1),
  }),
  z.object({
    how: z.literal('text'),
    find: z.string().min(1).max(500),
    replace: z.string().max(500),
    pattern: z.boolean(),
  }),
  z.object({
    how: z.literal('exact'),
    paths: z
      .array(z.object({ scene: z.string(), at: z.string(), written: z.string().min(1).max(4000) }))
      .min(1),
  }),
  z.object({ how: z.literal('relative'), base: z.enum(['scene', 'root']).default('scene') }),
  z.object({ how: z.literal('absolute') }),
  z.object({ how: z.literal('library') }),
]);

export type RepathChange = z.input<typeof repathChange>;

/** What a plan is asked for. Paths of files outside are absolute; scenes are paths in the tree. */
export const planRequest = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('bring'), files: z.array(z.string()).min(1) }),
  z.object({
    kind: z.literal('travel'),
    only: z.array(z.object({ scene: z.string(), at: z.string() })).nullable(),
  }),
  /** `scenes` null: all that changed since their last version. */
  z.object({
    kind: z.literal('save'),
    scenes: z.array(treePathText).min(1).nullable(),
    note: z.string().max(2000),
  }),
  z.object({
    kind: z.literal('habit'),
    habit: z.enum(['numbered', 'folder']),
    pattern: z.string().refine((p) => checkVersionPattern(p).length === 0, {
      error: (issue) => checkVersionPattern(String(issue.input)).join(' '),
    }),
  }),
  /** Versions kept compact, or made files again. */
  z.object({ kind: z.literal('compact'), versions: z.array(treePathText).min(1) }),
  z.object({ kind: z.literal('spread'), versions: z.array(treePathText).min(1) }),
  z.object({
    kind: z.literal('restore'),
    scene: z.string(),
    number: z.number().int(),
    /** Which of those that read as this number. */
    version: treePathText.optional(),
    note: z.string().max(2000).default(''),
  }),
  /** A state that the net kept at a time (ms). */
  z.object({ kind: z.literal('net-back'), scene: treePathText, at: z.number(), when: z.string().max(60) }),
  /** An automatic save of another program. */
  z.object({ kind: z.literal('other-back'), scene: treePathText, path: treePathText }),
  /** A scene in the other form of its format, beside it. */
  z.object({
    kind: z.literal('convert'),
    path: treePathText,
    to: treePathText,
    follow: z.boolean().default(false),
    as: z.enum(['ascii', 'little', 'big']).optional(),
  }),
  /** What scenes carry inside them, into a file of its own. */
  z.object({
    kind: z.literal('take-out'),
    scenes: z.array(treePathText).min(1).max(1000),
    digest: z.string().regex(/^[0-9a-f]{64}$/),
  }),
  /** The list of passes, from what lies there now. */
  z.object({ kind: z.literal('passes'), file: z.string().min(1).max(500) }),
  z.object({ kind: z.literal('back'), id: z.string() }),
  z.object({ kind: z.literal('drop'), id: z.string() }),
  /** Files of another folder, with what they need. `unticked`: absolute, or sets by their path with marks. */
  carryRequest.extend({
    kind: z.literal('carry'),
    unticked: z.array(z.string()).default([]),
    clash: clashWay.default('both'),
    clashes: z.array(z.tuple([z.string(), clashWay])).default([]),
  }),
  /** Part of a scene into another, with all it stands on. */
  carryNodes.extend({ kind: z.literal('carry-nodes') }),
  /** A scene with all it needs as one file. */
  z.object({ kind: z.literal('embed'), path: treePathText, to: treePathText }),
  /** One file taken apart into the homes. */
  z.object({ kind: z.literal('extract'), path: treePathText }),
  takeOver.extend({ kind: z.literal('take-over') }),
  z.object({ kind: z.literal('undo'), id: z.string() }),
  z.object({
    kind: z.literal('relink'),
    search: z.array(z.string()).default([]),
    choices: z.array(z.object({ scene: z.string(), at: z.string(), to: z.string().min(1) })).default([]),
    sameWay: z.boolean().default(false),
    sure: z.boolean().optional(),
    only: z.array(z.object({ scene: z.string(), at: z.string() })).optional(),
  }),
  z.object({
    kind: z.literal('repath'),
    change: repathChange,
    only: z.array(z.object({ scene: z.string(), at: z.string() })).nullable(),
    nested: z.boolean().default(false),
  }),
  z.object({ kind: z.literal('tidy'), only: z.array(treePathText).nullable() }),
  z.object({
    kind: z.literal('move'),
    moves: z.array(z.object({ path: treePathText, to: treePathText })).min(1),
  }),
  z.object({
    kind: z.literal('homes'),
    changes: z.partialRecord(z.enum(fileKinds), treePathText.nullable()),
  }),
  z.object({ kind: z.literal('settings'), change: settingsChange }),
  z.object({ kind: z.literal('layout'), layout: layoutChoice }),
  /** What arrived a second time, from where it lies ready. */
  z.object({
    kind: z.literal('arrive'),
    from: z.string(),
    choices: z
      .array(z.tuple([treePathText, z.enum(['take', 'beside'])]))
      .min(1)
      .max(200_000),
    /** The user confirmed that the delivery is the same work as the workspace (server/arrive/lineage.ts). */
    sameWork: z.boolean().default(false),
  }),
  /** Files of a snapshot, back into the workspace. */
  z.object({
    kind: z.literal('give-back'),
    folder: z.string(),
    snapshot: z.string(),
    paths: z.array(treePathText).min(1).max(200_000),
  }),
  /** Names and paths made such that a machine takes them. */
  z.object({
    kind: z.literal('fit'),
    place: z.string(),
    what: z.enum(['names', 'lengths', 'both']),
    at: z.string().optional(),
  }),
  /** Many small files put into one: series ('caches/fog_#.vdb') or folders. */
  z.object({ kind: z.literal('bundle'), of: z.array(treePathText).min(1).max(1000) }),
  z.object({ kind: z.literal('apart'), bundles: z.array(treePathText).min(1).max(1000) }),
  z.object({ kind: z.literal('nested'), inner: treePathText, how: z.enum(['unmark', 'merge']) }),
  z.object({ kind: z.literal('bin'), paths: z.array(treePathText).min(1) }),
  z.object({ kind: z.literal('merge'), groups: z.array(z.array(treePathText).min(2)).min(1) }),
  z.object({ kind: z.literal('intake'), from: z.string(), name: z.string().optional() }),
  z.object({ kind: z.literal('take'), paths: z.array(treePathText).min(1) }),
  z.object({ kind: z.literal('yardstick'), formats: z.array(z.enum(yardstickFormats)).min(1) }),
]);
export type PlanRequest = z.infer<typeof planRequest>;

export const createRequest = z.object({
  parent: z.string().min(1),
  name: z.string(),
  layout: layoutChoice,
  without: z.array(z.string()).default([]),
});
export type CreateRequestWire = z.infer<typeof createRequest>;

/** Several workspaces at once, all alike. */
export const createManyRequest = z.object({
  parent: z.string().min(1),
  names: z.array(z.string()).min(1).max(500),
  layout: layoutChoice,
  without: z.array(z.string()).default([]),
  category: z.string().max(100).optional(),
});

/** Taking over a folder. `homes`: chosen by hand, before what is recognised. */
export const adoptRequest = z.object({
  path: z.string().min(1),
  name: z.string().min(1).max(200),
  layout: layoutChoice,
  without: z.array(z.string()).default([]),
  homes: z.partialRecord(z.enum(fileKinds), treePathText).default({}),
  tidy: z.boolean(),
});

/** Workspaces that move or are renamed: absolute paths. */
export const relocateRequest = z.object({
  moves: z.array(z.object({ from: z.string().min(1), to: z.string().min(1) })).min(1),
});

const layoutSource = z.object({ id: z.string(), text: z.string() });

/** Another workspace, and where the index has its scenes lead out of it. */
const knownNeighbour = z.object({
  root: z.string(),
  name: z.string(),
  /** Whether the index was asked for all of its scenes; it is not where there are too many. */
  whole: z.boolean(),
  leads: z.array(
    z.object({
      scene: z.string(),
      size: z.number(),
      modified: z.number(),
      target: z.string().nullable(),
    }),
  ),
});
export type KnownNeighbour = z.infer<typeof knownNeighbour>;

/** Work for a thread. */
/** A calendar day where the user is; names begin with it. */
export const calendarDay = z.object({
  year: z.number().int().min(1).max(9999),
  month: z.number().int().min(1).max(12),
  day: z.number().int().min(1).max(31),
});

export const workOrder = z.discriminatedUnion('work', [
  z.object({ work: z.literal('scan'), root: z.string(), base: z.string().nullable(), next: z.string() }),
  z.object({
    work: z.literal('plan'),
    root: z.string(),
    request: planRequest,
    seen: z.array(z.tuple([z.string(), z.number()])),
    layout: layoutSource.nullable(),
    staging: z.string().nullable(),
    neighbours: z.array(knownNeighbour),
    /** What was said before of what the plan is to take. */
    notes: z.array(noteSchema),
  }),
  z.object({
    work: z.literal('adopt'),
    root: z.string(),
    request: adoptRequest,
    layout: layoutSource,
    neighbours: z.array(knownNeighbour),
  }),
  z.object({
    work: z.literal('create-many'),
    root: z.string(),
    records: z.string(),
    request: createManyRequest,
    layout: layoutSource,
  }),
  z.object({
    work: z.literal('relocate'),
    root: z.string(),
    records: z.string(),
    known: z.array(z.string()),
    neighbours: z.array(knownNeighbour),
    moves: z.array(z.object({ path: z.string(), to: z.string() })),
  }),
  z.object({ work: z.literal('recognise'), root: z.string(), layout: layoutSource }),
  z.object({
    work: z.literal('suggest'),
    root: z.string(),
    scene: z.string(),
    at: z.string(),
    search: z.array(z.string()),
    seen: z.array(z.tuple([z.string(), z.number()])),
  }),
  z.object({ work: z.literal('find'), root: z.string() }),
  z.object({ work: z.literal('measure'), root: z.string() }),
  z.object({ work: z.literal('loose'), root: z.string() }),
  z.object({ work: z.literal('alike'), root: z.string(), pack: treePathText }),
  z.object({ work: z.literal('duplicates'), root: z.string() }),
  z.object({ work: z.literal('probe'), folder: z.string() }),
  z.object({
    work: z.literal('needs'),
    root: z.string(),
    request: collectRequest.pick({ scenes: true, excluded: true }),
  }),
  z.object({ work: z.literal('used'), root: z.string(), request: usedRequest }),
  z.object({ work: z.literal('carry-assets'), root: z.string() }),
  z.object({ work: z.literal('carry-look'), root: z.string(), request: carryRequest }),
  z.object({ work: z.literal('nodes'), root: z.string(), scene: z.string() }),
  z.object({ work: z.literal('nodes-look'), root: z.string(), request: carryNodes }),
  z.object({ work: z.literal('beside'), root: z.string(), request: besideRequest }),
  z.object({
    work: z.literal('collect'),
    root: z.string(),
    request: collectRequest,
    to: z.string(),
    records: z.string(),
  }),
  /** `records`: where they lie when not in the root's own hidden folder. `makes`: the root is a new folder; a report is written after it where there is a draft of it. */
  z.object({
    work: z.literal('apply'),
    root: z.string(),
    plan: planSchema,
    records: z.string().nullable(),
    makes: newFolder.optional(),
    /** Set when the plan copies files of a second delivery, unpacked at `from`: their references are repaired afterwards. */
    arrived: z.object({ from: z.string(), heads: z.array(headMap) }).optional(),
  }),
  /** One round of the net. `run`: which run of the application looks, and since when; `away`: since when the workspace could not be looked at, or nothing could be kept. */
  z.object({
    work: z.literal('net'),
    root: z.string(),
    run: z.object({ id: z.string(), from: z.number() }),
    away: z.object({ from: z.number(), why: z.enum(['away', 'failed']) }).nullable(),
  }),
  z.object({
    work: z.literal('checkpoint'),
    root: z.string(),
    name: z.string(),
    scope: z.array(treePathText),
  }),
  z.object({ work: z.literal('complete'), root: z.string() }),
  z.object({ work: z.literal('cost'), root: z.string() }),
  z.object({ work: z.literal('outputs'), root: z.string(), today: calendarDay }),
  z.object({
    work: z.literal('pack'),
    root: z.string(),
    to: z.string(),
    choice: travelChoice.optional(),
    volume: z.number().optional(),
    /** It is checked against this first, and the result goes into the bag. */
    handIn: handInList.optional(),
    temporary: z.string().optional(),
  }),
  z.object({ work: z.literal('travel-look'), root: z.string() }),
  z.object({ work: z.literal('arrive-look'), path: z.string(), to: z.string().nullable() }),
  z.object({ work: z.literal('arrive'), path: z.string(), to: z.string(), heads: z.array(headMap) }),
  z.object({ work: z.literal('settle-in'), root: z.string(), heads: z.array(headMap) }),
  z.object({ work: z.literal('arrive-again'), path: z.string(), root: z.string(), staging: z.string() }),
  z.object({ work: z.literal('hand-in'), path: z.string(), list: handInList, temporary: z.string() }),
  z.object({ work: z.literal('hand-ins'), folder: z.string(), list: handInList, temporary: z.string() }),
  z.object({
    work: z.literal('backup'),
    root: z.string(),
    folder: z.string(),
    as: z.enum(['snapshots', 'mirror']),
  }),
  z.object({ work: z.literal('backups-look'), folder: z.string() }),
  z.object({ work: z.literal('snapshot-judge'), folder: z.string(), snapshot: z.string() }),
  z.object({
    work: z.literal('snapshot-look'),
    folder: z.string(),
    snapshot: z.string(),
    root: z.string().nullable(),
  }),
  z.object({
    work: z.literal('give-back'),
    folder: z.string(),
    snapshot: z.string(),
    paths: z.array(z.string()),
    to: z.string(),
  }),
  z.object({
    work: z.literal('prove'),
    folder: z.string(),
    anew: z.boolean(),
    budget: z.number().optional(),
  }),
  z.object({ work: z.literal('heal'), folder: z.string(), from: z.array(z.string()) }),
  z.object({
    work: z.literal('clearing-look'),
    folder: z.string(),
    which: z.union([z.object({ keep: z.string() }), z.object({ ids: z.array(z.string()) })]),
  }),
  z.object({
    work: z.literal('clear-snapshots'),
    folder: z.string(),
    ids: z.array(z.string()),
    givenUp: z.array(z.string()).default([]),
  }),
  z.object({ work: z.literal('archive'), root: z.string(), folder: z.string() }),
  z.object({ work: z.literal('bring-back'), root: z.string(), from: z.string().optional() }),
  /** A verb of the command line. `root`: the allowed folder that it begins in. */
  z.object({
    work: z.literal('verb'),
    verb: z.string(),
    args: z.array(z.string()),
    root: z.string(),
    role: roleSchema,
    /** The server's own data folder, where what is done is written down there: then only its own worker does it. */
    records: z.string().nullable(),
  }),
  z.object({ work: z.literal('verify'), bag: z.string() }),
  z.object({ work: z.literal('unpack'), bag: z.string(), to: z.string() }),
  /** What a lost thread left half way is put back. */
  z.object({
    work: z.literal('settle'),
    root: z.string(),
    records: z.string().nullable(),
    /** Takes the lock also if nothing is unfinished, so that the error 'busy' tells of a program that has not yet written anything. */
    takesLock: z.boolean().optional(),
  }),
  /** Whether the ledger has a plan that was begun at `since` (ms) or later, and done. */
  z.object({
    work: z.literal('find-entry'),
    root: z.string(),
    records: z.string().nullable(),
    plan: planSchema,
    since: z.number(),
  }),
  z.object({
    work: z.literal('rehearse'),
    path: z.string(),
    places: z.array(placeSchema),
    place: z.string().optional(),
    at: z.string().optional(),
  }),
]);
export type WorkOrder = z.infer<typeof workOrder>;

/** How far work is. `total` null: not known. */
export const jobProgress = z.object({
  files: z.number(),
  filesTotal: z.number().nullable(),
  bytes: z.number(),
  bytesTotal: z.number().nullable(),
  path: z.string(),
});
export type JobProgress = z.infer<typeof jobProgress>;

export const errorShape = z.object({
  code: z.string(),
  message: z.string(),
  unchanged: z.string(),
  next: z.string(),
  details: z.array(z.string()),
});
export type ErrorShape = z.infer<typeof errorShape>;

/** One reference as the index keeps it. `size` in bytes of all it stands for, null when unknown; `gaps`: missing frame or tile numbers. */
export const indexRow = z.object({
  scene: z.string(),
  format: z.string(),
  ord: z.number(),
  at: z.string(),
  kind: z.string(),
  written: z.string(),
  state: z.string(),
  target: z.string().nullable(),
  inside: z.boolean(),
  ready: z.boolean(),
  oddities: z.array(z.string()),
  uses: z.array(z.string()),
  size: z.number().nullable(),
  targets: z.number(),
  gaps: z.array(z.number()),
});
export type IndexRow = z.infer<typeof indexRow>;

export const indexProblem = z.object({ scene: z.string(), code: z.string(), message: z.string() });
export type IndexProblem = z.infer<typeof indexProblem>;

/** One file as the index keeps it. Size in bytes, time in ms since 1970 UTC; `uses`: references that lead to it. */
export const indexFile = z.object({
  path: z.string(),
  kind: z.string(),
  size: z.number(),
  modified: z.number(),
  uses: z.number(),
  unused: z.boolean(),
});
export type IndexFile = z.infer<typeof indexFile>;

/** What a scan found, beside its rows. Sizes in bytes, times in ms since 1970 UTC. */
export const scanFound = z.object({
  references: z.number(),
  ready: z.number(),
  files: z.number(),
  bytes: z.number(),
  largest: z.array(z.object({ folder: z.string(), bytes: z.number() })),
  lastVersion: z
    .object({ path: z.string(), size: z.number(), modified: z.number(), note: z.string() })
    .nullable(),
  unused: z.object({ files: z.number(), bytes: z.number() }),
});
export type ScanFound = z.infer<typeof scanFound>;
/** How the job of a scan ends. `news`: what pages show may be old; false: nobody asked for the scan, and it found all as it was. */
export const scanSaid = scanFound.extend({ news: z.boolean() });

/** What a scan says at its end. `delta`: scenes and files that differ from the index, changed or gone; null: all was sent. */
export const scanResult = z.object({
  found: scanFound,
  delta: z.object({ scenes: z.array(z.string()), files: z.array(z.string()) }).nullable(),
});
export type ScanResult = z.infer<typeof scanResult>;

/** What a thread says. */
export const workMessage = z.discriminatedUnion('say', [
  z.object({ say: z.literal('progress'), progress: jobProgress }),
  /** Asks whether the work is still this machine's. The answer comes through the same port (server/threads/work.thread.ts). */
  z.object({ say: z.literal('confirm') }),
  z.object({
    say: z.literal('rows'),
    rows: z.array(indexRow),
    problems: z.array(indexProblem),
    files: z.array(indexFile),
  }),
]);
export type WorkMessage = z.infer<typeof workMessage>;

export const jobView = z.object({
  id: z.string(),
  work: z.string(),
  title: z.string(),
  workspace: z.string().nullable(),
  /** The name of who asked for it, where several work here. */
  who: z.string().nullable(),
  state: z.enum(['waiting', 'running', 'done', 'failed', 'cancelled']),
  /** True once its end was asked for, while what it had done is put back. */
  ending: z.boolean(),
  started: z.number(),
  ended: z.number().nullable(),
  progress: jobProgress.nullable(),
  error: errorShape.nullable(),
  result: z.unknown(),
});
export type JobView = z.infer<typeof jobView>;

/** A message of the stream of events: all jobs as it begins, then one that has changed. */
export const eventMessage = z.object({ jobs: z.array(jobView).optional(), job: jobView.optional() });
