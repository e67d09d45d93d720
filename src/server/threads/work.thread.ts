// A thread that works: one order at a time, with progress and rows through a port, and its result or its error in words at the end.

import { threadId, type MessagePort } from 'node:worker_threads';
import { workOrder, type ErrorShape, type WorkMessage } from '@/wire/jobs';
import { Bounds } from '../disk/bounds';
import { setLimits } from '../disk/limits';
import { shapeOfError } from '../errorShape';
import { carryOut } from '../jobs/work';
import { Flag, signalOf } from './flag';

export interface WorkTask {
  order: unknown;
  /** Where parts under way are written down (disk/parts.ts). */
  parts: string;
  /** Folders that may be looked into. */
  allowed: readonly string[];
  /** Folders of them that may be changed, for work that finds out by itself what it changes. */
  changeable: readonly string[];
  /** Who asked for it, by name. */
  by: string | null;
  memory: SharedArrayBuffer;
  port: MessagePort;
}

/** What comes of an order. Errors of our own do not cross threads whole, their words do. */
export type WorkEnd = { result: unknown } | { error: ErrorShape };

export default async function work({
  order,
  parts,
  allowed,
  changeable,
  by,
  memory,
  port,
}: WorkTask): Promise<WorkEnd> {
  const flag = new Flag(memory);
  flag.thread = threadId;
  const say = (message: WorkMessage) => {
    if (message.say === 'rows') flag.beforeBatch();
    port.postMessage(message);
  };
  const signal = signalOf(flag);
  try {
    const parsed = workOrder.parse(order);
    const putsBack = parsed.work === 'apply' || parsed.work === 'settle';
    setLimits({ bounds: new Bounds(allowed), signal: putsBack ? null : signal, by });
    const result = await carryOut(parsed, signal, say, { parts, allowed, changeable });
    flag.allStored();
    return { result };
  } catch (cause) {
    return { error: shapeOfError(cause) };
  } finally {
    setLimits(null);
    port.close();
  }
}
