// The folders with which a workspace has exchanged deliveries. Two folders can have the same marker for two reasons: one was delivered to the other, or one
// is a copy in which somebody does separate work. Merging files is right only in the first case, so a second delivery from a folder that is not in
// this record needs the user's confirmation, once. The record is part of base.ts; bags carry it in bag-info.txt.

import fs from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import { readInfo } from '@/core/bags/manifest';
import { AppError } from '@/core/errors';
import { openBag, readTag } from '../bags/openBag';
import { toSystem } from '../disk/system';
import { folderMark } from '../workspaces/folderId';
import { plainFolder, type OpenWorkspace } from '../workspaces/open';
import { readDeliveries } from './base';
import type { Recognised } from './recognise';

const lineage = z.object({
  /** The mark of the folder (folderMark); null: not known. */
  folder: z.string().nullable(),
  /** Marks of the folders it received deliveries from, and of those that these had received from. */
  exchanged: z.array(z.string()).max(10_000),
});
export type Lineage = z.infer<typeof lineage>;

const unknown: Lineage = { folder: null, exchanged: [] };

export async function lineageOf(workspace: Pick<OpenWorkspace, 'root' | 'tree'>): Promise<Lineage> {
  return { folder: folderMark(workspace.root), exchanged: [...(await readDeliveries(workspace)).exchanged] };
}

const folderLabel = 'Loyal-Satchel-Folder';
const exchangedLabel = 'Loyal-Satchel-Exchanged-With';

/** Lines of bag-info.txt. */
export function lineageInfo({ folder, exchanged }: Lineage): (readonly [label: string, value: string])[] {
  return [
    ...(folder === null ? [] : [[folderLabel, folder] as const]),
    ...exchanged.map((mark) => [exchangedLabel, mark] as const),
  ];
}

/** The lineage of a delivery. Nothing is known of a ZIP made by other means, or of a bag made by another program. */
export async function lineageOfDelivery(what: Pick<Recognised, 'kind' | 'path'>): Promise<Lineage> {
  if (what.kind === 'workspace') return lineageOf(plainFolder(what.path));
  if (what.kind !== 'bag') return unknown;
  const bag = await openBag(what.path);
  try {
    const info = readInfo((await readTag(bag, 'bag-info.txt')) ?? '');
    const valuesOf = (label: string) => info.filter(([l]) => l === label).map(([, value]) => value);
    return { folder: valuesOf(folderLabel)[0] ?? null, exchanged: valuesOf(exchangedLabel) };
  } finally {
    bag.close();
  }
}

/** True when one of the two folders was delivered to the other, directly or through a third. */
export function isSameLine(own: Lineage, delivery: Lineage): boolean {
  const isIn = (mark: string | null, marks: readonly string[]) => mark !== null && marks.includes(mark);
  return (
    (own.folder !== null && own.folder === delivery.folder) ||
    isIn(own.folder, delivery.exchanged) ||
    isIn(delivery.folder, own.exchanged)
  );
}

/** The marks that a workspace has after a delivery. */
export function withDelivery(own: readonly string[], { folder, exchanged }: Lineage): string[] {
  return [...new Set([...own, ...(folder === null ? [] : [folder]), ...exchanged])];
}

const besideDelivery = (incoming: string) => path.join(path.dirname(toSystem(incoming)), 'lineage.json');

/** Writes the lineage of a delivery beside the folder that it was unpacked into. */
export function writeLineage(incoming: string, found: Lineage): void {
  fs.writeFileSync(besideDelivery(incoming), JSON.stringify(found));
}

/** Reads what `writeLineage` wrote. If it is missing, nothing is known of the delivery. */
export function readLineage(incoming: string): Lineage {
  const file = besideDelivery(incoming);
  return fs.existsSync(file) ? lineage.parse(JSON.parse(fs.readFileSync(file, 'utf8'))) : unknown;
}

/** Throws AppError unless the delivery unpacked at `incoming` is known to be of the same line of work as the workspace. */
export async function checkSameLine(
  workspace: Pick<OpenWorkspace, 'root' | 'tree'>,
  incoming: string,
): Promise<void> {
  if (!isSameLine(await lineageOf(workspace), readLineage(incoming))) throw mayBeACopy(workspace.root);
}

export const mayBeACopy = (root: string): AppError =>
  new AppError(
    'may-be-a-copy',
    `The delivery may be separate work that began as a copy of ${root}: the two folders have not exchanged deliveries before.`,
    'Nothing was changed.',
  );
