// Marks a folder while several plans fill it one after the other, so that files left by a crash between two plans are recognised, and undone before the
// folder is filled again.

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

/** `plans` is the number of plans, including the one that creates the workspace. */
const shape = z.object({ time: z.string(), plans: z.number().int() });
const fileIn = (records: string) => path.join(toSystem(records), 'in-parts.json');

/** Marks the folder before the first of `plans` plans. */
export const beginParts = ({ records }: Records, plans: number): void =>
  keepFile(fileIn(records), JSON.stringify({ time: new Date().toISOString(), plans }));

/** Removes the mark. */
export const endParts = ({ records }: Records): void => dropFile(fileIn(records));

/** Entries of an interrupted run, newest first. `kind` is the kind of its plans. */
async function begun(of: Records, kind: Plan['kind']) {
  if (!wasBegun(of.records)) return { open: [], done: [] };
  const { time, plans } = shape.parse(JSON.parse(fs.readFileSync(fileIn(of.records), 'utf8')));
  const done = (await readLedger(of)).filter(
    (e) => e.kind === kind && e.time >= time && e.state === 'applied',
  );
  // The process ended after the last plan, before it could remove the mark.
  const isWhole = done.length + ((await hasMarker(of.root)) ? 1 : 0) >= plans;
  return { open: await openEntries(of), done: isWhole ? [] : done };
}

/** Whether a run was interrupted in this folder. `undoParts` undoes it. */
export async function hasInterruptedRun(of: Records, kind: Plan['kind']): Promise<boolean> {
  const { open, done } = await begun(of, kind);
  return open.length + done.length > 0;
}

/** Whether the folder is marked. Works without records. */
export const wasBegun = (records: string): boolean => fs.existsSync(fileIn(records));

/** Undoes an interrupted run. Throws AppError('blocked-plan') when the user changed one of its files. */
export async function undoParts(of: Records, kind: Plan['kind']): Promise<void> {
  if (!(await hasInterruptedRun(of, kind))) return;
  await settle(of);
  for (const { id } of (await begun(of, kind)).done)
    await applyPlan(of.root, await planUndoOf(of, id), {}, of);
}

/** Throws AppError('exists') when the folder has entries. A missing folder counts as empty. */
export async function checkEmpty(folder: string): Promise<void> {
  const there = ((await diskOutside.entries(folder)) ?? []).find((e) => !isOfDrive(e.name));
  if (there)
    throw new AppError(
      'exists',
      `${folder} is not empty: it contains ${there.name}. Choose an empty folder.`,
    );
}
