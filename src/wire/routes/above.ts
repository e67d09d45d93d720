// Seen from above: all workspaces side by side, and who uses a file in any of them.

import { z } from 'zod';
import { nothing, route } from './route';

/** What a lead wants to know of one workspace, beside what every list of them shows. Times in ms. */
export const aboveView = z.object({
  id: z.string(),
  /** Who did the last thing, where several work here; null: nothing was done yet, or the folder is not there just now. */
  last: z.object({ title: z.string(), by: z.string().nullable(), time: z.number() }).nullable(),
  holds: z.array(z.object({ scene: z.string(), by: z.string(), since: z.number() })),
  /** What goes on. */
  jobs: z.array(z.object({ title: z.string(), by: z.string().nullable(), started: z.number() })),
  /** Of the folders that it is backed up to the proof that is due first; null: there is none, or it is not there just now. */
  proof: z.object({ folder: z.string(), due: z.number().nullable(), spoilt: z.number() }).nullable(),
});
export type AboveView = z.infer<typeof aboveView>;

export const readAbove = route(
  'GET',
  '/api/above',
  'All workspaces: who works where, what was done last, which proof of a backup is due.',
  nothing,
  z.array(aboveView),
);

/** So many references are told at once. */
export const mostUses = 1000;

/** A reference of any workspace. */
export const useAnywhere = z.object({
  workspace: z.string(),
  scene: z.string(),
  at: z.string(),
  kind: z.string(),
  written: z.string(),
  state: z.string(),
  path: z.string().describe('The whole path of what it leads to; what is written, where nothing is found.'),
});
export type UseAnywhere = z.infer<typeof useAnywhere>;
export const usesAnywhere = z.object({
  by: z
    .enum(['path', 'part', 'beginning'])
    .describe(
      'A whole path or its end; what stands in a name; only how a name begins, where more would take too long.',
    ),
  uses: z.array(useAnywhere),
  more: z.boolean().describe('There are more than are told.'),
});
export type UsesAnywhere = z.infer<typeof usesAnywhere>;

export const readUses = route(
  'GET',
  '/api/uses',
  'Who uses a file, in all workspaces: by a part of its name, or by its path or the end of it. Letter case does not count.',
  z.object({ text: z.string().trim().min(1).max(1000) }),
  usesAnywhere,
);
