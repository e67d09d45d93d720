// Changing a workspace on disk: alone, after what a crash left was settled, with room enough. Nothing else applies plans.

import { isOwnAnywhere, journalFolder, ownFolder, placeholderPath } from '@/core/files/records';
import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { apply } from '@/core/changes/apply';
import { isRecord, readJournal, sealsOf, type JournalRecord } from '@/core/changes/journal';
import { bytesToKeep, bytesToWrite, type Plan } from '@/core/changes/plan';
import { recover, type Recovered } from '@/core/changes/recover';
import { readLedgerOf, readOpen, writeSummary, type OpenEntry, type Summary } from '@/core/changes/summary';
import { AppError } from '@/core/errors';
import { errnoOf, fileError } from '@/core/files/fileErrors';
import type { OutsideFiles, CancelSignal, FileTree, WritableFileTree } from '@/core/files/fileTree';
import { folderOf, isWithin } from '@/core/files/treePath';
import { scenePaths } from '@/core/references/scan';
import { bytes as inBytes } from '@/core/text/figures';
import { parseJournalLine, parseSummary } from '@/wire/plan';
import { diskOutside } from '../disk/diskOutside';
import { syncFolder, type DiskCalls } from '../disk/calls';
import { DiskTree } from '../disk/diskTree';
import { fencedCalls } from '../disk/fencedCalls';
import { takeFolderLock, type FolderLock } from '../disk/folderLock';
import { currentLimits } from '../disk/limits';
import { fromSystem, toSystem } from '../disk/system';
import { freeBytes } from '../disk/use';
import { isOwn, signer } from '../identity';

const now = () => new Date().toISOString();

/** Where a folder's changes are recorded: itself, but for a folder that holds workspaces and gets no records of its own. */
export interface Records {
  root: string;
  records: string;
  /** For reading. What writes is handed one by `withLock`. */
  tree: WritableFileTree;
  /** The same by other calls on the disk. */
  treeBy(calls: DiskCalls): WritableFileTree;
}

/** A workspace's own records. */
export function recordsIn(root: string): Records {
  return { root, records: root, tree: new DiskTree(root), treeBy: (calls) => new DiskTree(root, calls) };
}

/** A folder while its write lock is held: what may write in it. */
export interface LockedWorkspace {
  /** The folder, by calls that commit nothing once the lock is lost. Work that goes on then throws AppError('lock-lost') and puts nothing back. */
  tree: DiskTree;
  /** These calls, for a tree over other folders that the same lock covers. */
  calls: DiskCalls;
}

const realRoot = (root: string) =>
  fs.existsSync(toSystem(root)) ? fromSystem(fs.realpathSync.native(toSystem(root))) : root;

/** The folder in which the lock lies; made where it is not there, by us and so taken away again when nothing came into it. */
function lockFolder(records: string): { folder: string; isNew: boolean } {
  const folder = path.join(toSystem(records), ownFolder);
  const stat = fs.lstatSync(folder, { throwIfNoEntry: false });
  if (stat && !stat.isDirectory())
    throw new AppError(
      'no-access',
      `${records}/${ownFolder} is no folder of its own; nothing is written there.`,
    );
  return { folder, isNew: !stat && makeFolder(folder) };
}

/** Makes the hidden folder, durably; false: another program has made it in this very moment. */
function makeFolder(folder: string): boolean {
  try {
    fs.mkdirSync(folder);
  } catch (cause) {
    if (errnoOf(cause) === 'EEXIST') return false;
    throw cause;
  }
  syncFolder(path.dirname(folder));
  return true;
}

/** `root`: the folder that is changed, which is what people know; its records may lie elsewhere. */
function take(
  records: string,
  root: string,
  later: readonly string[] = [],
): { lock: FolderLock; end: () => void } {
  try {
    const { folder, isNew } = lockFolder(records);
    const taken = takeFolderLock(
      folder,
      later.map((at) => path.join(toSystem(at), ownFolder)),
    );
    if ('heldBy' in taken) {
      const { host, pid } = taken.heldBy;
      throw new AppError(
        'busy',
        `Another program is changing ${root} just now (${host}${pid ? `, process ${pid}` : ''}, since ${taken.heldBy.since.slice(0, 19)} UTC).`,
      );
    }
    const { lock } = taken;
    if (lock.tookOver)
      process.stderr.write(
        `The lock on ${root} was taken over from ${lock.tookOver.host}, process ${lock.tookOver.pid}, which is not at work any more.\n`,
      );
    return {
      lock,
      end() {
        lock.release();
        if (isNew)
          try {
            fs.rmdirSync(folder);
          } catch {
            // Something lies in it: it stays.
          }
      },
    };
  } catch (cause) {
    throw fileError(`${records}/${ownFolder}`, cause);
  }
}

/**
 * Runs work while holding a folder's write lock. Throws AppError('busy') when another program has it, 'lock-lost' when another took it over meanwhile.
 * `root`: the folder, where its records are elsewhere. Archived work is not changed: AppError('archived'), unless it is allowed.
 */
export async function withLock<T>(
  records: string,
  work: (locked: LockedWorkspace) => Promise<T>,
  root = records,
  { archived = 'refuse' }: { archived?: 'refuse' | 'allow' } = {},
): Promise<T> {
  currentLimits().change?.checkPath(root);
  const { lock, end } = take(records, root);
  const calls = fencedCalls(lock, root);
  try {
    await currentLimits().confirm?.();
    // While the lock is held: archiving holds it, too.
    if (archived === 'refuse') checkNotArchived(records);
    return await work({ tree: new DiskTree(root, calls), calls });
  } finally {
    end();
  }
}

/** Throws AppError('archived') where the files of a workspace lie in an archive. A placeholder that cannot be read is one. */
function checkNotArchived(root: string): void {
  if (fs.existsSync(path.join(toSystem(root), ...placeholderPath.split('/'))))
    throw new AppError('archived', `${root} is archived: its files are in a backup folder.`);
}

/** Runs work while holding a workspace's lock, with nothing left unfinished there. Throws AppError where something stays unfinished. */
export function withSettled<T>(root: string, work: (locked: LockedWorkspace) => Promise<T>): Promise<T> {
  return alone(recordsIn(root), async (of, locked) => {
    await settleFirst(of);
    return work(locked);
  });
}

const readAll = (of: Records) => readLedgerOf(of.tree, of.records, parseJournalLine, parseSummary);

/** What is unfinished in a folder, or cannot be read. */
export function openEntries(of: Records): Promise<OpenEntry[]> {
  return readOpen(of.tree, of.records, parseJournalLine);
}

const scenesOf = async (tree: FileTree) => (await scenePaths(tree)).scenes;

function recoverContext(root: string) {
  return { outside: diskOutside, now, root: realRoot(root), isOwn };
}

/**
 * Settles what is unfinished in a folder, as far as it was begun here or is asked for. Throws AppError('busy') while another program holds the lock: it may
 * yet finish. With `takesLock`, also if nothing is unfinished.
 */
export async function settle(
  of: Records,
  asked: ReadonlySet<string> = new Set(),
  { takesLock = false } = {},
): Promise<Recovered[]> {
  if (!takesLock && (await openEntries(of)).length === 0) return [];
  return alone(of, async (locked) => settleOpen(locked, await openEntries(locked), asked));
}

/** Runs work that writes by a folder's records, while their lock is held. */
const alone = <T>(of: Records, work: (of: Records, locked: LockedWorkspace) => Promise<T>): Promise<T> =>
  withLock(of.records, (locked) => work({ ...of, tree: of.treeBy(locked.calls) }, locked), of.root);

/** The same for those who hold the lock. */
async function settleOpen(
  of: Records,
  open: readonly OpenEntry[],
  asked: ReadonlySet<string> = new Set(),
): Promise<Recovered[]> {
  if (open.length === 0) return [];
  return withInner(of, await stepsOf(of, open), () =>
    recover(of.tree, open, parseJournalLine, recoverContext(of.root), asked),
  );
}

/** The steps of open entries, as far as they can be read. */
async function stepsOf(of: Records, open: readonly OpenEntry[]): Promise<Plan['steps']> {
  const steps: Plan['steps'][number][] = [];
  for (const { id } of open) {
    const record = await readJournal(of.tree, id, parseJournalLine);
    if (isRecord(record)) steps.push(...record.plan.steps);
  }
  return steps;
}

// What was tried in passing: the open entries of a folder, and when (ms).
const tried = new Map<string, { ids: string; at: number }>();
const tryAgain = 30_000;

/**
 * The same, where a workspace is met in passing, and only for what was begun here: nothing is written for the sake of anything else. Nothing is
 * said of a folder that cannot be written or where somebody is at work; what stays open is tried again after a while.
 */
export async function settleInPassing(of: Records): Promise<Recovered[]> {
  const open = (await openEntries(of)).filter((o) => o.why === 'unfinished');
  const ids = open.map((o) => o.id).join(' ');
  const before = tried.get(of.records);
  if (ids === '' || (before?.ids === ids && Date.now() - before.at < tryAgain)) return [];
  if (!(await anyOwn(of, open))) return [];
  tried.set(of.records, { ids, at: Date.now() });
  try {
    return await settle(of);
  } catch (cause) {
    if (!(cause instanceof AppError)) throw cause;
    // While somebody is at work the entry is his; it is looked at again as soon as it is asked for.
    if (cause.code === 'busy') tried.delete(of.records);
    if (['busy', 'no-access', 'disk-full', 'disk-error'].includes(cause.code)) return [];
    throw cause;
  }
}

/** Whether this installation began one of them. */
async function anyOwn(of: Records, open: readonly OpenEntry[]): Promise<boolean> {
  for (const { id } of open) {
    const record = await readJournal(of.tree, id, parseJournalLine);
    if (isRecord(record) && sealsOf(realRoot(of.root), record).some((seal) => isOwn(record, seal)))
      return true;
  }
  return false;
}

/** Closes an open entry without touching a file of it: what lies half way stays so. For what cannot be put back, since it is damaged or what was kept is spoilt. */
export async function leaveAsIs(records: Records, id: string): Promise<void> {
  await alone(records, async (of) => {
    const open = (await openEntries(of)).find((o) => o.id === id);
    if (!open) throw new AppError('not-found', `There is no unfinished entry ${id}.`);
    const { ended } = await readAll(of);
    await writeSummary(of.tree, {
      format: 2,
      id,
      seq: ended.reduce((most, s) => Math.max(most, s.seq), 0) + 1,
      time: open.time ?? now(),
      kind: 'undo',
      title: open.title ?? `An entry that was ${open.why}`,
      undoes: null,
      end: { how: 'put-back', time: now(), because: 'It was left as it is.', left: [] },
      files: 0,
      paths: 0,
      touched: [],
      folders: [],
      changes: [],
    });
  });
}

export interface ApplyOptions {
  /** Runs under the lock, before anything is written. When it throws, the plan is not applied. */
  check?: (() => Promise<void>) | undefined;
  /** Where sources from outside are read; unset: everywhere. */
  outside?: OutsideFiles | undefined;
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { steps: number; bytes: number; path: string }) => void) | undefined;
}

/** An id that sorts by time: 20261123-184500-3fa9c2. */
export function newId(): string {
  const time = now();
  return `${time.replace(/[-:]/g, '').replace('T', '-').slice(0, 15)}-${time.slice(20, 23)}${randomBytes(2).toString('hex')}`;
}

/** Refuses a plan for which the drive has too little room: what it writes, what the store comes to hold, and what the journal says. */
function checkRoom(of: Records, plan: Plan): void {
  const journal = JSON.stringify(plan).length + 400 * plan.steps.length;
  const needed = bytesToWrite(plan) + bytesToKeep(plan) + journal;
  const free = freeBytes(of.root);
  if (needed > free)
    throw new AppError(
      'disk-full',
      `The plan needs ${inBytes(needed)} (what it writes, and what is kept for undo) and the drive has ${inBytes(free)} free.`,
    );
}

const blocking = new Set<Recovered['how']>(['stuck', 'foreign', 'newer']);

/** Settles what is open; throws where something stays that a change must not be built on. */
async function settleFirst(of: Records): Promise<{ seq: number }> {
  const { ended, open } = await readAll(of);
  const settled = await settleOpen(of, open);
  const stays = settled.find((r) => blocking.has(r.how));
  if (stays)
    throw new AppError(
      stays.how === 'newer' ? 'newer-format' : 'unfinished',
      stays.how === 'newer'
        ? `A newer version of Loyal Satchel has worked in ${of.root}.`
        : `“${stays.title}” was begun in ${of.root} and not finished${stays.how === 'foreign' ? ', by another installation' : ''}.`,
      'Nothing was changed.',
      stays.stuck.map((s) => `${s.path}: ${s.why}`),
    );
  await rememberOld(of, ended);
  return { seq: ended.reduce((most, s) => Math.max(most, s.seq), 0) + settled.length + 1 };
}

/** Writes summaries of journals that have none: older ones, and those whose last word was cut off. */
async function rememberOld(of: Records, ended: readonly Summary[]): Promise<void> {
  const names = new Set(((await of.tree.entries(journalFolder)) ?? []).map((e) => e.name));
  for (const s of ended) if (!names.has(`${s.id}.json`)) await writeSummary(of.tree, s);
}

/** Workspaces below `root` in which steps change something, and those that lie in folders which move, each with where it may come to lie. */
function workspacesInside(root: string, steps: Plan['steps']): Map<string, string[]> {
  const found = new Map<string, string[]>();
  const full = (p: string) => `${root === '/' ? '' : root}/${p}`;
  const hasRecords = (at: string) => fs.existsSync(path.join(toSystem(at), ownFolder));
  const looked = new Set<string>();
  for (const step of steps)
    for (let at: string = step.path; at !== '' && !looked.has(at); at = folderOf(at)) {
      looked.add(at);
      if (!isOwnAnywhere(`${at}/`) && hasRecords(full(at))) found.set(full(at), []);
    }
  for (const step of steps) {
    if (step.do !== 'move-folder') continue;
    const waiting: string[] = [step.path, step.to].filter((p) => fs.existsSync(toSystem(full(p))));
    for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
      if (hasRecords(full(at))) found.set(full(at), []);
      for (const e of listedOrNone(full(at))) if (e !== ownFolder) waiting.push(`${at}/${e}`);
    }
  }
  for (const [inner, later] of found)
    for (const step of steps)
      if (step.do === 'move-folder')
        for (const [a, b] of [
          [full(step.path), full(step.to)],
          [full(step.to), full(step.path)],
        ] as const)
          if (isWithin(inner, a)) later.push(b + inner.slice(a.length));
  return found;
}

function listedOrNone(folder: string): string[] {
  try {
    return fs
      .readdirSync(toSystem(folder), { withFileTypes: true })
      .filter((e) => e.isDirectory())
      .map((e) => e.name);
  } catch {
    return [];
  }
}

/** Takes a lock, and tells how to give it back; where nothing can be written nobody can be at work, either. */
function takeOrNone(root: string, later: readonly string[]): () => void {
  try {
    return take(root, root, later).end;
  } catch (cause) {
    if (cause instanceof AppError && cause.code === 'no-access') return () => undefined;
    throw cause;
  }
}

/** Runs work while nobody else is at work in the workspaces further down that its steps concern. Throws AppError('busy') where somebody is. */
async function withInner<T>(of: Records, steps: Plan['steps'], work: () => Promise<T>): Promise<T> {
  const ends: (() => void)[] = [];
  const full = (p: string) => `${of.root === '/' ? '' : of.root}/${p}`;
  const goes = new Set(steps.flatMap((s) => (s.do === 'remove-folder' ? [full(s.path)] : [])));
  try {
    for (const [inner, later] of [...workspacesInside(of.root, steps)].sort()) {
      const end = takeOrNone(inner, later);
      // A folder that is to go must be empty: there the lock is but a look.
      if (goes.has(`${inner}/${ownFolder}`)) end();
      else ends.push(end);
    }
    return await work();
  } finally {
    for (const end of ends) end();
  }
}

/** Applies a plan, alone. Refuses at once when the drive has too little room. */
export function applyPlan(
  root: string,
  plan: Plan,
  options: ApplyOptions = {},
  records: Records = recordsIn(root),
): Promise<JournalRecord> {
  return alone(records, async (of) => {
    const { seq } = await settleFirst(of);
    await options.check?.();
    checkRoom(of, plan);
    try {
      return await withInner(of, plan.steps, () =>
        apply(of.tree, plan, {
          outside: options.outside ?? diskOutside,
          scenesOf,
          now,
          id: newId(),
          seq,
          sign: signer(currentLimits().by),
          root: realRoot(root),
          onProgress: options.onProgress,
          signal: options.signal,
        }),
      );
    } catch (cause) {
      throw errnoOf(cause) ? fileError(root, cause) : cause;
    }
  });
}
