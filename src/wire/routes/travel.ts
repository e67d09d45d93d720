// Arriving, handing in, backing up.

import { z } from 'zod';
import { againFile, arrivedView, headMap, leftBehind, recognised } from '../arrive';
import {
  archiveResult,
  backupResult,
  backupTarget,
  backupsView,
  clearingView,
  givenBack,
  healedView,
  provingView,
  snapshotInside,
  snapshotJudged,
} from '../backups';
import { handInList, handInView } from '../handIn';
import { bytesRoute, done, jobRoute, nothing, route } from './route';

const text = z.string().min(1);

export const recogniseRoute = jobRoute(
  '/api/arrive/look',
  'What it is that arrived, and whether the place it shall lie in is a good one.',
  z.object({ path: text, folder: z.string().optional(), name: z.string().optional() }),
  recognised.extend({
    /** Why scenes should not be opened there; null: nothing is against it. */
    wrongPlace: z.string().nullable(),
    /** The same workspace lies there already: it arrives a second time. */
    isAgain: z.boolean(),
  }),
);
export const arriveRoute = jobRoute(
  '/api/arrive',
  'Takes in what arrived: verified, in its place, paths written for there.',
  z.object({ path: text, folder: text, name: text, heads: z.array(headMap).max(200).default([]) }),
  arrivedView,
);
export const settleRoute = jobRoute(
  '/api/workspaces/:id/settle',
  'Reads the heads of another machine as they are here, and repairs references of a workspace that arrived.',
  z.object({ heads: z.array(headMap).max(200).default([]) }),
  arrivedView,
);
export const arriveAgain = jobRoute(
  '/api/arrive/again',
  'Holds what arrived a second time against the workspace that is here, file by file.',
  z.object({ path: text, folder: text, name: text }),
  z.object({
    workspace: z.string(),
    from: z.string(),
    files: z.array(againFile),
    left: z.array(leftBehind),
    /** False: the delivery may be separate work that began as a copy; plans for it need `sameWork`. */
    isSameLine: z.boolean(),
  }),
);
export const readHeads = route(
  'GET',
  '/api/heads',
  'Path heads of other machines, and what they are here.',
  nothing,
  z.array(headMap),
);

export const checkHandInRoute = jobRoute(
  '/api/hand-in',
  'Holds a workspace, a folder, a bag or a ZIP against what was asked.',
  z.object({ path: text, list: handInList }),
  handInView,
);
export const checkHandIns = jobRoute(
  '/api/hand-in/each',
  'Holds every delivery in a folder against what was asked.',
  z.object({ folder: text, list: handInList }),
  z.object({ deliveries: z.array(handInView), table: z.string() }),
);

export const readTargets = route(
  'GET',
  '/api/workspaces/:id/backups',
  'Where a workspace is backed up to, and when that was done last.',
  nothing,
  z.object({
    targets: z.array(
      backupTarget.extend({
        there: z.boolean(),
        /** Of backups that are there: when every byte is to be proven again, and what the last proof found spoilt. */
        proof: z.object({ due: z.string().nullable(), spoilt: z.number() }).nullable(),
      }),
    ),
    /** Where the work was moved off to; null: it lies here. */
    movedOff: z
      .object({ folder: text, snapshot: text, time: text, files: z.number(), bytes: z.number() })
      .nullable(),
  }),
);
export const writeTargets = route(
  'POST',
  '/api/workspaces/:id/backups',
  'Says where a workspace is backed up to.',
  z.object({ targets: z.array(backupTarget.pick({ folder: true, as: true, auto: true })).max(20) }),
  done,
);
export const backUp = jobRoute(
  '/api/workspaces/:id/back-up',
  'Backs a workspace up.',
  z.object({ folder: text, as: z.enum(['snapshots', 'mirror']).default('snapshots') }),
  backupResult,
);
export const lookAtBackups = jobRoute(
  '/api/backups/look',
  'What lies in a folder of backups: snapshots, damage, proofs.',
  z.object({ folder: text }),
  backupsView,
);
export const lookInside = jobRoute(
  '/api/backups/inside',
  'What a snapshot holds; with a workspace, also what is other in that now.',
  z.object({ folder: text, snapshot: text, workspace: z.string().optional() }),
  snapshotInside,
);
export const judgeInside = jobRoute(
  '/api/backups/judge',
  'How complete a snapshot was: every reference of its scenes judged as its files lie.',
  z.object({ folder: text, snapshot: text }),
  snapshotJudged,
);
export const readInside = bytesRoute(
  '/api/backups/file',
  'The bytes of one file of a snapshot, checked.',
  z.object({ folder: text, snapshot: text, path: text }),
  'application/octet-stream',
);
export const giveBackRoute = jobRoute(
  '/api/backups/give-back',
  'Gives back what a snapshot holds, whole or in part, into a new folder.',
  z.object({ folder: text, snapshot: text, paths: z.array(z.string()).max(100_000), into: text, name: text }),
  givenBack,
);
export const proveRoute = jobRoute(
  '/api/backups/prove',
  'Reads every byte of a folder of backups; goes on where it was left.',
  z.object({ folder: text, anew: z.boolean().default(false) }),
  provingView,
);
export const healRoute = jobRoute(
  '/api/backups/heal',
  'Puts right what the last proof found, from where it still lies right.',
  z.object({ folder: text, from: z.array(text).max(50).default([]) }),
  healedView,
);
const which = z.union([z.object({ keep: text }), z.object({ ids: z.array(text).min(1) })]);
export const lookAtClearing = jobRoute(
  '/api/backups/clearing',
  'Which snapshots would go, by a rule or by name.',
  z.object({ folder: text, which }),
  clearingView,
);
export const clearRoute = jobRoute(
  '/api/backups/clear',
  'Clears the snapshots that are named. The only copies of archived work are cleared only if `givenUp` names them, too.',
  z.object({ folder: text, ids: z.array(text).min(1), givenUp: z.array(text).default([]) }),
  z.object({ before: z.number(), after: z.number() }),
);
export const archiveRoute = jobRoute(
  '/api/workspaces/:id/archive',
  'Moves finished work off: kept there, read back byte by byte, then removed here but for a stub.',
  z.object({ folder: text }),
  archiveResult,
);
export const bringBackRoute = jobRoute(
  '/api/workspaces/:id/bring-back',
  'Restores archived work. `from`: its backup folder, where that is not at its old place any more.',
  z.object({ from: text.optional() }),
  givenBack,
);
