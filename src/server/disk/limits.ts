// What a thread is held to while it works on one order: how far it may look, whether it shall stop, and for whom it is done. A thread works on one order at a time, so
// this is the thread's own; trees ask it wherever they read, also for work that hands no signal on. Unset (the command line, tests): no limits.

import type { CancelSignal } from '@/core/files/fileTree';
import { Bounds } from './bounds';

export interface Limits {
  bounds: Bounds;
  /** Null: reading goes on until it is done. Work that puts files back is never stopped by this. */
  signal: CancelSignal | null;
  /** Folders in which plans may change something; unset: that was settled before. */
  change?: Bounds;
  /**
   * Throws AppError if another machine has taken over the work. Called under the lock of a workspace, before anything is written; unset: no other
   * machine can take it over.
   */
  confirm?: (() => Promise<void>) | undefined;
  /** The name of who asked for it, where several work here; null: nobody needs to be told. */
  by: string | null;
}

const none: Limits = { bounds: new Bounds(null), signal: null, by: null };
let current = none;

/** Holds this thread to limits from now on; null takes them away. */
export function setLimits(limits: Limits | null): void {
  current = limits ?? none;
}

export const currentLimits = (): Limits => current;

/** Paths that somebody has named in this process, beside the root: of shares, these are looked at. The command line writes down what it is given. */
export const namedPaths: string[] = [];
