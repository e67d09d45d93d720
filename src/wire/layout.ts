// A layout as JSON, for other programs. Its schema is published as docs/layout.schema.json.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import { fileKinds } from '@/core/layouts/homes';
import { checkTree, usualPrefixes, type LayoutFolder, type LayoutTree } from '@/core/layouts/layout';
import { issueWords } from './words';

export interface LayoutFolderJson {
  name: string;
  kinds?: LayoutFolder['kinds'] | undefined;
  flow?: 'input' | 'output' | undefined;
  keep?: boolean | undefined;
  pin?: 'top' | 'bottom' | undefined;
  note?: string | undefined;
  folders?: LayoutFolderJson[] | undefined;
}

const folder: z.ZodType<LayoutFolderJson> = z
  .lazy(() =>
    z.object({
      name: z
        .string()
        .min(1)
        .max(255)
        .describe('Without the prefix of a pinned folder; legal on Windows, macOS and Linux.'),
      kinds: z
        .array(z.enum(fileKinds))
        .optional()
        .describe('Kinds of files that live here; each kind in one folder only.'),
      flow: z
        .enum(['input', 'output'])
        .optional()
        .describe('Whether its files go into the work or come out of it; absent: as its kinds tell.'),
      keep: z.boolean().optional().describe('An empty file keeps the folder where empty ones get lost.'),
      pin: z.enum(['top', 'bottom']).optional().describe('Sorts first or last, by the prefix of the layout.'),
      note: z.string().optional().describe('Lines for people.'),
      folders: z.array(folder).optional(),
    }),
  )
  .meta({ id: 'folder' });

export const layoutJson = z.object({
  format: z.literal('loyal-satchel-layout-1'),
  name: z.string().default(''),
  about: z.string().default(''),
  prefixes: z.object({ top: z.string(), bottom: z.string() }).default(usualPrefixes),
  folders: z.array(folder).min(1),
});

function treeOf(folders: readonly LayoutFolderJson[]): LayoutFolder[] {
  return folders.map((f) => ({
    name: f.name,
    kinds: f.kinds ?? [],
    flow: f.flow ?? null,
    keep: f.keep ?? false,
    pin: f.pin ?? null,
    note: f.note ?? '',
    folders: treeOf(f.folders ?? []),
  }));
}

/** Reads a layout's JSON. Throws AppError('bad-layout') with all that is wrong. */
export function parseLayoutJson(text: string): { name: string; about: string; tree: LayoutTree } {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new AppError('bad-layout', 'This is no JSON.');
  }
  const parsed = layoutJson.safeParse(value);
  if (!parsed.success) throw new AppError('bad-layout', issueWords(parsed.error));
  const tree: LayoutTree = { ...parsed.data.prefixes, folders: treeOf(parsed.data.folders) };
  const wrong = checkTree(tree);
  if (wrong.length > 0) throw new AppError('bad-layout', wrong[0]!, 'Nothing was changed.', wrong);
  return { name: parsed.data.name, about: parsed.data.about, tree };
}

/** A layout as JSON; what says nothing is left out. */
export function layoutJsonOf(layout: {
  name: string;
  about: string;
  tree: LayoutTree;
}): z.input<typeof layoutJson> {
  const folders = (list: readonly LayoutFolder[]): LayoutFolderJson[] =>
    list.map((f) => ({
      name: f.name,
      ...(f.kinds.length > 0 ? { kinds: f.kinds } : {}),
      ...(f.flow ? { flow: f.flow } : {}),
      ...(f.keep ? { keep: true } : {}),
      ...(f.pin ? { pin: f.pin } : {}),
      ...(f.note ? { note: f.note } : {}),
      ...(f.folders.length > 0 ? { folders: folders(f.folders) } : {}),
    }));
  return {
    format: 'loyal-satchel-layout-1',
    name: layout.name,
    about: layout.about,
    prefixes: { top: layout.tree.top, bottom: layout.tree.bottom },
    folders: folders(layout.tree.folders),
  };
}

/** The JSON Schema, as published. */
export function layoutSchema(): unknown {
  return { title: 'Layout of Loyal Satchel', ...z.toJSONSchema(layoutJson, { io: 'input' }) };
}
