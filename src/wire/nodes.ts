// Parts of scenes, one file and back, and settings side by side: as pages ask for them, and what they show.

import { z } from 'zod';
import { thingKinds } from '@/core/compare/things';
import { isTreePath } from '@/core/files/treePath';
import { nodeClashWays } from '@/core/nodes/clashes';
import { settingGroups } from '@/core/settings/setting';

const scenePath = z.string().refine((p) => p !== '' && isTreePath(p), 'not a path inside the root');

/** A scene of a workspace or folder. */
export const sceneOf = z.object({ root: z.string().min(1), scene: scenePath });

export const sceneNodes = z.object({
  nodes: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      path: z.string(),
      parent: z.string().nullable(),
      kind: z.string(),
    }),
  ),
});
export type SceneNodes = z.infer<typeof sceneNodes>;

const clashWay = z.enum(nodeClashWays);

/** What is carried out of which scene, and how. `clash` null: what is equal is used, all else gets a new name. */
export const carryNodes = z.object({
  from: sceneOf,
  nodes: z.array(z.string()).min(1).max(10_000),
  into: scenePath,
  under: z.string().nullable(),
  place: z.enum(['world', 'parent']),
  clash: clashWay.nullable().default(null),
  ways: z.array(z.tuple([z.string(), clashWay])).default([]),
  pictures: z.enum(['as-there', 'files', 'inside']).default('as-there'),
  buffer: z.enum(['own', 'append']).default('own'),
});
export type CarryNodesWire = z.infer<typeof carryNodes>;

/** What comes along, and what it meets. */
export const carryNodesLook = z.object({
  things: z.array(
    z.object({
      key: z.string(),
      kind: z.string(),
      name: z.string(),
      level: z.number(),
      neededBy: z.array(z.string()),
      bytes: z.number(),
    }),
  ),
  clashes: z.array(
    z.object({
      key: z.string(),
      kind: z.string(),
      name: z.string(),
      isEqual: z.boolean(),
      way: clashWay,
      renamed: z.string(),
      ways: z.array(clashWay),
    }),
  ),
  notes: z.array(z.object({ level: z.enum(['blocker', 'warning', 'info']), message: z.string() })),
});
export type CarryNodesLook = z.infer<typeof carryNodesLook>;

/** What differs in two states of a scene, or two scenes. */
export const differenceView = z.object({
  kind: z.enum(thingKinds),
  what: z.enum(['added', 'removed', 'renamed', 'changed']),
  name: z.string(),
  was: z.string().optional(),
  changes: z.array(
    z.object({ fact: z.string(), before: z.string().nullable(), after: z.string().nullable() }),
  ),
});

/** A workspace, or a scene in it, beside the open one; a scene goes with a scene. */
export const besideRequest = z.object({
  root: z.string().min(1),
  scenes: z.tuple([scenePath, scenePath]).nullable(),
});

/** Settings side by side: `a` is the open workspace, `b` the other. */
export const besideView = z.object({
  names: z.tuple([z.string(), z.string()]),
  rows: z.array(
    z.object({
      key: z.string(),
      group: z.enum(settingGroups),
      name: z.string(),
      a: z.string().nullable(),
      b: z.string().nullable(),
      differs: z.boolean(),
      takes: z.array(z.enum(['a', 'b'])),
    }),
  ),
  differences: z.array(differenceView).nullable(),
});
export type BesideView = z.infer<typeof besideView>;

/** What is taken over: ticked settings, by a workspace from another, or by a scene from a scene. */
export const takeOver = z.object({
  from: z.string().min(1),
  scenes: z.object({ from: scenePath, into: scenePath }).nullable(),
  keys: z.array(z.string().min(1)).min(1).max(1000),
});
