// Filling a folder by several plans, one after the other: written down before the first and struck off after the last, so that what a kill left between two
// of them is known as such, and undone before the folder is filled anew.

import path from 'node:path';
import fs from 'node:fs';
import { z } from 'zod';
import type { Plan } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { diskOutside } from '../disk/diskOutside';
import { isOfDrive } from '../disk/listing';
import { toSystem } from '../disk/system';
import { dropFile, keepFile } from '../keptFile';
import { applyPlan, openEntries, settle, type Records } from './changing';
import { planUndoOf, readLedger } from './ledger';
import { hasMarker } from './open';

/** `plans`: how many there are, with the one that makes the folder a workspace. */
const shape = z.object({ time: z.string(), plans: z.number().int() });
const fileIn = (records: string) => path.join(toSystem(records), 'in-parts.json');

/** Says that the folder of these records is about to be filled, by so many plans. */
export const beginParts = ({ records }: Records, plans: number): void =>
  keepFile(fileIn(records), JSON.stringify({ time: new Date().toISOString(), plans }));

/** Says that it was, or that there is nothing to be undone. */
export const endParts = ({ records }: Records): void => dropFile(fileIn(records));

/** What was begun in a folder and broken off, the newest first. `kind`: that of its plans. */
async function begun(of: Records, kind: Plan['kind']) {
  if (!wasBegun(of.records)) return { open: [], done: [] };
  const { time, plans } = shape.parse(JSON.parse(fs.readFileSync(fileIn(of.records), 'utf8')));
  const done = (await readLedger(of)).filter(
    (e) => e.kind === kind && e.time >= time && e.state === 'applied',
  );
  // The last plan was done, and the process ended before it could say so.
  const isWhole = done.length + ((await hasMarker(of.root)) ? 1 : 0) >= plans;
  return { open: await openEntries(of), done: isWhole ? [] : done };
}

/** Whether a folder was filled in part: what lies in it is undone first, by `undoParts`. */
export async function isBrokenOff(of: Records, kind: Plan['kind']): Promise<boolean> {
  const { open, done } = await begun(of, kind);
  return open.length + done.length > 0;
}

/** The same of a folder whose records may never have been made. */
export const wasBegun = (records: string): boolean => fs.existsSync(fileIn(records));

/** Undoes what was broken off. Throws AppError('undo-conflict') where something of it was changed since. */
export async function undoParts(of: Records, kind: Plan['kind']): Promise<void> {
  if (!(await isBrokenOff(of, kind))) return;
  await settle(of);
  for (const { id } of (await begun(of, kind)).done)
    await applyPlan(of.root, await planUndoOf(of, id), {}, of);
}

/** Throws AppError('exists') where something lies in a folder; one that is not there is empty. */
export async function checkEmpty(folder: string): Promise<void> {
  const there = ((await diskOutside.entries(folder)) ?? []).find((e) => !isOfDrive(e.name));
  if (there)
    throw new AppError('exists', `${folder} is not empty: ${there.name} lies there. Choose an empty folder.`);
}
