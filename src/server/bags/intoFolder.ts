// Filling a folder that is new or empty, all at once: what is made lies beside it or inside it under a name of its own until it is whole.

import fs from 'node:fs';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { errnoOf, fileError } from '@/core/files/fileErrors';
import { bytes as bytesText } from '@/core/text/figures';
import { currentLimits } from '../disk/limits';
import { isOfDrive, isTemporary, temporaryIn, temporaryMark } from '../disk/listing';
import { fromSystem, toSystem } from '../disk/system';
import { notePart } from '../disk/parts';
import { freeBytes } from '../disk/use';
import { appear, clearAway, Flushing } from './wholeFile';

export interface FillOptions {
  /** What is said when it was cancelled: 'Unpacking was cancelled.' */
  cancelled: string;
  /** Where it is written down what is being made (disk/parts.ts); null: nowhere. */
  parts?: string | null | undefined;
}

/** What fills a folder. */
export interface Filling {
  /** Makes the folder that is filled, once there is room for so many bytes; `needs`: 'The bag unpacks to'. Throws AppError('disk-full'). */
  begin(bytes: number, needs: string): string;
  /** Takes the files that are written; what it was given is on the drive when the folder appears. */
  flushing: Flushing;
}

/** Fills `to`, a folder that is new or empty: with all that `work` lays into the folder it begins, or with nothing. */
export async function fillFolder<T>(
  to: string,
  { cancelled, parts }: FillOptions,
  work: (filling: Filling) => Promise<T>,
): Promise<T> {
  let temporary: string | null = null;
  let strikeOff = () => {};
  const flushing = new Flushing();
  try {
    const { target, beside } = placeFor(to);
    currentLimits().bounds.checkAt(fromSystem(beside));
    const begin = (bytes: number, needs: string) => {
      const free = freeBytes(fromSystem(beside));
      if (bytes > free)
        throw new AppError(
          'disk-full',
          `${needs} ${bytesText(bytes)}; the drive has ${bytesText(free)} free.`,
        );
      temporary = temporaryIn(beside);
      strikeOff = notePart(parts ?? null, temporary);
      fs.mkdirSync(temporary);
      return temporary;
    };
    const result = await work({ begin, flushing });
    await flushing.end();
    if (temporary === null) throw new Error('nothing was begun');
    currentLimits().bounds.checkAt(fromSystem(temporary));
    if (beside === target) bringOut(temporary, target);
    else appear(temporary, target);
    return result;
  } catch (cause) {
    await flushing.abandon();
    const unchanged = (temporary && clearAway(temporary)) ?? 'Nothing was written.';
    // One that could not be taken away stays on the list, for the next start.
    if (temporary && fs.existsSync(temporary)) strikeOff = () => {};
    if (cause instanceof AppError) throw cause;
    if ((cause as Error).name === 'AbortError') throw new AppError('cancelled', cancelled, unchanged);
    const known = fileError(to, cause);
    throw known instanceof AppError ? new AppError(known.code, known.message, unchanged) : cause;
  } finally {
    strikeOff();
  }
}

/** Where it is filled: a new folder appears whole, beside which it is made; an empty one (it may be a drive's, or behind a link) is filled from a folder inside it. */
export function placeFor(to: string): { target: string; beside: string } {
  const given = toSystem(to);
  if (!fs.existsSync(given)) {
    if (!fs.existsSync(path.dirname(given)))
      throw new AppError('not-found', `The folder of ${to} is not there.`);
    return { target: given, beside: path.dirname(given) };
  }
  const target = fs.realpathSync.native(given);
  if (!fs.statSync(target).isDirectory()) throw new AppError('exists', `${to} is a file.`);
  if (othersIn(target).length > 0) throw new AppError('not-empty', `${to} is not empty.`);
  return { target, beside: target };
}

/** Entries of a folder except those that the system creates on every drive. */
const othersIn = (target: string) => fs.readdirSync(target).filter((n) => !isOfDrive(n));

/** Brings what was unpacked into a folder inside `target` up into it; back where that fails. */
function bringOut(temporary: string, target: string): void {
  const claim = claimOf(target);
  const done: string[] = [];
  try {
    if (othersIn(target).some((n) => !isTemporary(n)))
      throw new AppError('not-empty', `${fromSystem(target)} was filled by another meanwhile.`);
    for (const name of fs.readdirSync(temporary)) {
      fs.renameSync(path.join(temporary, name), path.join(target, name));
      done.push(name);
    }
  } catch (cause) {
    for (const name of done) fs.renameSync(path.join(target, name), path.join(temporary, name));
    throw cause;
  } finally {
    clearAway(claim);
  }
  clearAway(temporary);
}

const claimLasts = 60_000; // ms; what is brought out is only renamed, so one that is older belongs to nobody

/** Only one fills a folder at a time: the name of a folder that could be made tells that it is we. */
function claimOf(target: string): string {
  const claim = path.join(target, `.filling${temporaryMark}`);
  for (let isSecond = false; ; isSecond = true)
    try {
      fs.mkdirSync(claim);
      return claim;
    } catch (cause) {
      const stat = fs.statSync(claim, { throwIfNoEntry: false });
      if (isSecond || !stat || Date.now() - stat.mtimeMs < claimLasts)
        throw errnoOf(cause) === 'EEXIST'
          ? new AppError('busy', `Something else is unpacked into ${fromSystem(target)} just now.`)
          : cause;
      clearAway(claim);
    }
}
