// Shapes of what the command line and the server answer. `satchel VERB --schema` prints them as JSON Schema.

import { z } from 'zod';
import { checkpointView, compareView, completeView, outputsView, rehearsalView } from './views';
import { besideView } from './nodes';
import { handInView } from './handIn';
import { againFile, arrivedView, leftBehind } from './arrive';
import { packed } from './travel';
import { states } from '@/core/references/states';

const span = z.tuple([z.number(), z.number()]);
const problem = z.object({
  code: z.string(),
  message: z.string(),
  path: z.string().optional(),
  span: span.optional(),
});

export const refsResult = z.object({
  root: z.string(),
  scenes: z.array(
    z.object({
      path: z.string(),
      format: z.string(),
      references: z.array(
        z.object({
          written: z.string(),
          at: z.string(),
          kind: z.string(),
          span: span.nullable(),
          state: z.enum(states),
          target: z.string().nullable(),
          targets: z.number(),
          gaps: z.array(z.number()),
        }),
      ),
      problems: z.array(problem),
    }),
  ),
  summary: z.object({
    scenes: z.number(),
    references: z.number(),
    byState: z.record(z.string(), z.number()),
    problems: z.number(),
  }),
});

export const planResult = z.object({
  root: z.string(),
  plan: z.object({
    kind: z.string(),
    title: z.string(),
    steps: z.array(
      z.object({
        do: z.string(),
        path: z.string(),
        to: z.string().optional(),
        from: z.string().optional(),
        size: z.number().optional(),
      }),
    ),
    paths: z.array(z.object({ scene: z.string(), at: z.string(), before: z.string(), after: z.string() })),
    notes: z.array(
      z.object({ level: z.string(), code: z.string(), message: z.string(), path: z.string().optional() }),
    ),
    readiness: z.object({ before: z.number(), after: z.number(), of: z.number() }).nullable(),
  }),
  /** Ledger id once applied; null while only planned. */
  applied: z.string().nullable(),
});

/** `report`: the page that was written; null while nothing was. */
export const collectResult = planResult.extend({ report: z.string().nullable() });

export const versionsResult = z.object({
  root: z.string(),
  scene: z.string(),
  habit: z.enum(['numbered', 'folder']),
  changed: z.boolean(),
  versions: z.array(
    z.object({
      number: z.number().nullable(),
      path: z.string(),
      size: z.number(),
      modified: z.string(),
      note: z.string(),
      compact: z.boolean(),
    }),
  ),
  next: z.string(),
});

const stretch = z.object({ from: z.string(), to: z.string(), why: z.string(), message: z.string() });

/** Times are ISO 8601 in UTC, sizes in bytes. */
export const netResult = z.object({
  root: z.string(),
  settings: z.object({ every: z.number(), keep: z.number(), hours: z.number(), days: z.number() }),
  isOn: z.boolean(),
  kept: z.array(z.object({ scene: z.string(), broken: z.string().nullable() })),
  skipped: z.array(z.object({ scene: z.string(), why: z.string(), message: z.string() })),
  scenes: z.array(
    z.object({
      scene: z.string(),
      states: z.array(z.object({ at: z.string(), size: z.number(), broken: z.string().nullable() })),
      holes: z.array(stretch.loose()),
      back: z.string().nullable(),
    }),
  ),
  blind: z.array(stretch),
});

export const checkpointResult = checkpointView.extend({
  root: z.string(),
  read: z.number(),
  added: z.number(),
  unread: z.array(z.string()),
});

export const checkpointsResult = z.object({
  root: z.string(),
  checkpoints: z.array(checkpointView.extend({ changed: z.number(), gone: z.number(), fresh: z.number() })),
});

/** Of two states in one workspace also their sizes and shared bytes. */
export const compareResult = besideView.extend({
  root: z.string().optional(),
  ...compareView.pick({ sides: true, looked: true, shared: true }).partial().shape,
});

export const storeResult = z.object({
  root: z.string(),
  bytes: z.number(),
  cleared: z.number(),
  owners: z.array(z.object({ owner: z.string(), contents: z.number(), bytes: z.number() })),
});

export const packResult = packed;
export const verifyResult = z.object({
  bag: z.string(),
  volumes: z.array(z.string()),
  valid: z.boolean(),
  files: z.number(),
  bytes: z.number(),
  algorithms: z.array(z.string()),
  problems: z.array(problem),
});
export const unpackResult = z.object({
  root: z.string(),
  files: z.number(),
  bytes: z.number(),
  isWorkspace: z.boolean(),
});

const rehearsed = rehearsalView.extend({ opens: z.boolean() });
/** One machine, or several. */
export const rehearseResult = z.union([rehearsed, z.object({ places: z.array(rehearsed) })]);

export const ledgerResult = z.object({
  root: z.string(),
  entries: z.array(
    z.object({
      id: z.string(),
      time: z.string(),
      kind: z.string(),
      title: z.string(),
      state: z.string(),
      undoes: z.string().nullable(),
      files: z.number(),
      paths: z.number(),
      left: z.array(z.string()),
      touched: z.array(z.string()),
    }),
  ),
});

/** Answer of `put-back`. */
export const putBackResult = z.object({
  root: z.string(),
  /** What is unfinished still. */
  open: z.array(
    z.object({
      id: z.string(),
      title: z.string().nullable(),
      time: z.string().nullable(),
      why: z.enum(['unfinished', 'damaged', 'newer']),
    }),
  ),
  done: z.array(
    z.object({
      id: z.string(),
      title: z.string(),
      how: z.enum(['put-back', 'done', 'stuck', 'foreign', 'damaged', 'newer', 'left']),
      left: z.array(z.string()),
      stuck: z.array(z.object({ path: z.string(), why: z.string() })),
    }),
  ),
});

/** Frames in trouble for each pass of each camera of each scene. */
export const clipResult = z.object({
  to: z.string(),
  frames: z.number(),
  missing: z.number(),
  width: z.number(),
  height: z.number(),
  fps: z.number(),
  bytes: z.number(),
  said: z.array(z.string()),
});
export const outputsResult = outputsView.extend({ root: z.string() });
export const completeResult = completeView.extend({ root: z.string() });

export const handInResult = z.union([
  handInView.extend({ list: z.string(), bag: z.string().nullable() }),
  z.object({ list: z.string(), deliveries: z.array(handInView) }),
]);
const arrivedKind = z.enum(['bag', 'zip', 'workspace', 'folder']);
export const arriveResult = z.union([
  arrivedView.extend({ applied: z.literal(true) }),
  z.object({
    applied: z.boolean(),
    again: z.literal(true),
    /** False: the delivery may be separate work that began as a copy (--same-work). */
    isSameLine: z.boolean(),
    root: z.string(),
    entry: z.string().nullable(),
    files: z.array(againFile.extend({ taken: z.enum(['take', 'beside']).nullable() })),
    same: z.number(),
    left: z.array(leftBehind),
    /** Result of repairing the copied files; null when none were copied. */
    settled: z
      .object({ sentence: z.string(), missing: z.number(), repaired: z.string().nullable() })
      .nullable(),
  }),
  z.object({
    applied: z.literal(false),
    path: z.string(),
    kind: arrivedKind,
    form: z.enum(['zip', 'folder']),
    isWorkspace: z.boolean(),
    files: z.number(),
    bytes: z.number(),
    to: z.string(),
    problems: z.array(problem),
  }),
]);
