// What travels, as it is asked for and answered.

import { z } from 'zod';
import { isTreePath } from '@/core/files/treePath';
import { travelClasses, type TravelChoice, type TravelLook } from '@/core/bags/travelling';

const travelClass = z.enum(travelClasses);

export const travelChoice = z.object({
  without: z.array(travelClass).max(travelClasses.length),
  byHand: z
    .array(
      z.object({ path: z.string().refine(isTreePath, 'not a path inside the root'), travels: z.boolean() }),
    )
    .max(20_000),
  along: z.array(z.string()).max(1000),
}) satisfies z.ZodType<TravelChoice>;

/** Files as [path, size in bytes, number of the class in `classes`], to keep the answer small. */
export const travelLook = z.object({
  classes: z.array(travelClass),
  files: z.array(z.tuple([z.string(), z.number(), z.number()])),
  needs: z.array(z.tuple([z.number(), z.number()])),
  outside: z.array(
    z.object({ name: z.string(), files: z.number(), bytes: z.number(), by: z.array(z.number()).readonly() }),
  ),
  missing: z.array(z.object({ scene: z.string(), written: z.string() })),
});
export type TravelLookWire = z.infer<typeof travelLook>;

export const lookToWire = (look: TravelLook): TravelLookWire => ({
  classes: [...travelClasses],
  files: look.files.map((f): [string, number, number] => [f.path, f.size, travelClasses.indexOf(f.class)]),
  needs: look.needs.map(([by, needed]): [number, number] => [by, needed]),
  outside: [...look.outside],
  missing: [...look.missing],
});

export const lookFromWire = (wire: TravelLookWire): TravelLook => ({
  ...wire,
  files: wire.files.map(([path, size, n]) => ({ path, size, class: wire.classes[n]! })),
});

export const packed = z.object({
  bag: z.string(),
  volumes: z.array(z.string()),
  files: z.number(),
  bytes: z.number(),
  references: z.number(),
  ready: z.number(),
  leftOut: z.array(z.object({ path: z.string(), why: z.string() })),
  without: z.array(z.object({ class: travelClass, files: z.number(), bytes: z.number() })),
  broken: z
    .array(
      z.object({
        scene: z.string(),
        target: z.string(),
        because: z.enum([...travelClasses, 'by-hand', 'library']),
      }),
    )
    .readonly(),
  leansOn: z.array(z.string()).readonly(),
});
