// Backups, as they are answered.

import { z } from 'zod';

const text = z.string();
const number = z.number();

export const snapshotMade = z.object({
  id: text,
  key: text,
  name: text,
  root: text,
  host: text,
  time: text,
  files: number,
  bytes: number,
  added: number,
  unread: number,
});

const spoilt = z.object({
  digest: text,
  size: number,
  packs: z.array(text),
  how: z.enum(['spoilt', 'missing']),
  files: z.array(z.object({ workspace: text, path: text })),
  count: number,
});
export const proofView = z.object({
  started: text,
  ended: text,
  only: text.nullable(),
  contents: number,
  bytes: number,
  spoilt: z.array(spoilt),
  records: z.array(text),
});

export const mirrored = z.object({
  folder: text,
  copied: number,
  bytes: number,
  same: number,
  aside: number,
  asideIn: text.nullable(),
  unread: z.array(text),
});

export const backupResult = z.union([
  snapshotMade.extend({ as: z.literal('snapshots'), folder: text, read: number, unreadPaths: z.array(text) }),
  mirrored.extend({ as: z.literal('mirror') }),
]);

/** `archived`: chosen, and kept all the same, as the only copies of archived work. */
const clearing = z.object({
  going: z.array(snapshotMade),
  archived: z.array(snapshotMade),
  staying: number,
  frees: number,
});
export const clearingView = clearing;

export const snapshotsResult = z.union([
  z.object({
    folder: text,
    snapshots: z.array(snapshotMade),
    damaged: z.array(text),
    halves: number,
    lastProof: proofView.nullable(),
    proofDue: text.nullable(),
  }),
  clearing.extend({ folder: text, applied: z.boolean(), freed: number }),
]);

export const givenBack = z.object({
  root: text,
  files: number,
  bytes: number,
  lost: z.array(z.object({ path: text, why: text })),
});
export const giveBackResult = givenBack;

export const healedView = z.object({
  healed: z.array(
    z.object({ digest: text, from: text, files: z.array(z.object({ workspace: text, path: text })) }),
  ),
  left: z.array(spoilt),
  records: number,
});

export const proveResult = z.union([
  z.object({
    of: z.literal('backups'),
    folder: text,
    done: z.boolean(),
    bytes: number,
    bytesTotal: number,
    proof: proofView.nullable(),
    unkept: text.nullable(),
    healed: healedView.nullable(),
  }),
  z.object({
    of: z.literal('workspace'),
    root: text,
    contents: number,
    bytes: number,
    spoilt: z.array(text),
    files: number,
    changedBySelf: z.array(text),
  }),
  z.object({
    of: z.literal('bag'),
    bag: text,
    volumes: z.array(text),
    files: number,
    bytes: number,
    algorithms: z.array(text),
    problems: z.array(z.object({ code: text, message: text, path: text.optional() })),
  }),
]);

export const archiveResult = z.object({
  applied: z.boolean(),
  root: text,
  folder: text,
  files: number,
  bytes: number,
  snapshot: text.optional(),
});

/** A folder that a workspace is backed up to. `auto`: by itself, when its drive is there. `last`: what came of it last; times ISO 8601. */
export const backupTarget = z.object({
  folder: text.min(1).max(2000),
  as: z.enum(['snapshots', 'mirror']),
  auto: z.boolean(),
  last: z
    .object({ time: text, ok: z.boolean(), message: text, files: number, bytes: number, added: number })
    .nullable(),
});
export type BackupTarget = z.infer<typeof backupTarget>;

export const backupsView = z.object({
  folder: text,
  /** False: nothing was backed up there yet. */
  isMade: z.boolean(),
  snapshots: z.array(snapshotMade),
  damaged: z.array(text),
  halves: number,
  proofs: z.array(proofView),
  proofDue: text.nullable(),
  /** Bytes on the drive, and free on it. */
  size: number,
  free: number,
});
export type BackupsView = z.infer<typeof backupsView>;

export const snapshotInside = z.object({
  snapshot: snapshotMade,
  files: z.array(z.tuple([text, number, number])),
  unread: z.array(text),
  against: z
    .object({ changed: z.array(text), gone: z.array(text), fresh: z.array(text), same: number })
    .nullable(),
});

/** How complete a snapshot was: references of its scenes, and those that would have opened elsewhere. */
export const snapshotJudged = z.object({
  references: number,
  ready: number,
  missing: z.array(z.object({ scene: text, written: text, state: text })),
});

export const provingView = z.object({
  proof: proofView.nullable(),
  bytes: number,
  bytesTotal: number,
  /** Why the result could not be kept there; null: it was. */
  unkept: text.nullable(),
});
