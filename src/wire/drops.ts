// What a page and the server say of what is dropped on the window.

import { z } from 'zod';

/** All of a drop, told before it is sent. Sizes in bytes, times in ms since 1970 UTC. */
export const dropRequest = z.object({
  files: z
    .array(
      z.object({
        path: z.string().max(4096),
        size: z.number().int().min(0),
        modified: z.number().default(0),
      }),
    )
    .max(200_000),
  folders: z.array(z.string().max(4096)).max(200_000).default([]),
});
export type DropRequest = z.input<typeof dropRequest>;

/** Where each file will lie on the server, in the order given; null: it is left out. */
export const dropView = z.object({
  drop: z.string(),
  /** What the drop's own paths hang below, as all of these: by the drop's id, for requests that take what was dropped. */
  folder: z.string(),
  files: z.array(z.string().nullable()),
  /** Folders without a file, where they lie. */
  folders: z.array(z.string()),
});
export type DropView = z.infer<typeof dropView>;

/** Where a piece goes: `offset` in bytes; `digest` (BLAKE3, hex) comes with the piece that ends the file. */
export const pieceQuery = z.object({
  drop: z.string(),
  file: z.coerce.number().int().min(0),
  offset: z.coerce.number().int().min(0).default(0),
  digest: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .optional(),
});

/** Several pieces in one request, for small files: a table of so many bytes of JSON at the head of the body, then the pieces' bytes in its order. */
export const piecesQuery = z.object({
  drop: z.string(),
  table: z.coerce.number().int().min(2).max(1_000_000),
});
export const piecesTable = z
  .array(
    z.object({
      file: z.number().int().min(0),
      offset: z.number().int().min(0),
      size: z.number().int().min(0),
      digest: z
        .string()
        .regex(/^[0-9a-f]{64}$/)
        .optional(),
    }),
  )
  .min(1)
  .max(5000);
export type PiecesTable = z.infer<typeof piecesTable>;
export const piecesView = z.array(z.object({ here: z.number(), whole: z.boolean() }));

/** How much of the file is here, in bytes. */
export const pieceView = z.object({ here: z.number(), whole: z.boolean() });
