// What work in a thread is done with, and how a workspace is opened for it.

import type { CancelSignal } from '@/core/files/fileTree';
import type { JobProgress, WorkMessage, WorkOrder } from '@/wire/jobs';
import type { Allowed } from '../disk/bounds';
import { outsideWithin } from '../disk/diskOutside';
import { currentLimits } from '../disk/limits';
import { openSource } from '../workspaces/carry';
import { readWorkspace, type OpenWorkspace } from '../workspaces/open';

export type Say = (message: WorkMessage) => void;

export type OrderOf<W extends WorkOrder['work']> = Extract<WorkOrder, { work: W }>;

/** What work is done with: a way to be cancelled, and ways to say how far it is. */
export interface Doing {
  signal: CancelSignal;
  say: Say;
  /** Where parts under way are written down; null: nowhere. */
  parts: string | null;
  /** Folders that may be looked into; null: all. */
  allowed: Allowed;
  /** Folders in which something may be changed, for work that finds out by itself what it changes. */
  changeable: readonly string[];
  told: (progress: JobProgress) => void;
  /** So many files of so many, in the file at a path. */
  toldFiles: (files: number, filesTotal: number | null, path: string) => void;
  /** The same with bytes. */
  toldBytes: (total: {
    files: number | null;
    bytes: number | null;
  }) => (d: { files: number; bytes: number; path: string }) => void;
}

export type Works = { [W in WorkOrder['work']]: (order: OrderOf<W>, doing: Doing) => Promise<unknown> };

/** A workspace whose plans read outside only what is allowed. */
export async function guarded(root: string, allowed: Allowed): Promise<OpenWorkspace> {
  const { signal } = currentLimits();
  return { ...(await readWorkspace(root)), outside: outsideWithin({ allowed, signal: signal ?? undefined }) };
}

/** The same of any folder. */
export async function guardedFolder(root: string, allowed: Allowed): Promise<OpenWorkspace> {
  const { signal } = currentLimits();
  return { ...(await openSource(root)), outside: outsideWithin({ allowed, signal: signal ?? undefined }) };
}
