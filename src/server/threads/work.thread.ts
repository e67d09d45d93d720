// A thread that works: one order at a time, with progress and rows through a port, and its result or its error in words at the end.

import { once } from 'node:events';
import { threadId, type MessagePort } from 'node:worker_threads';
import { AppError, type ErrorCode } from '@/core/errors';
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
  /** Another machine can take the work over: `port` answers the message 'confirm' with a ConfirmAnswer. */
  confirms: boolean;
  port: MessagePort;
}

export type ConfirmAnswer = { isOurs: boolean } | { error: ErrorShape };

/** What comes of an order. Errors of our own do not cross threads whole, their words do. */
export type WorkEnd = { result: unknown } | { error: ErrorShape };

export default async function work({
  order,
  parts,
  allowed,
  changeable,
  by,
  memory,
  confirms,
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
    const confirm = confirms ? () => confirmAt(port) : undefined;
    setLimits({ bounds: new Bounds(allowed), signal: putsBack ? null : signal, confirm, by });
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

async function confirmAt(port: MessagePort): Promise<void> {
  const answered = once(port, 'message') as Promise<[ConfirmAnswer]>;
  port.postMessage({ say: 'confirm' } satisfies WorkMessage);
  const [answer] = await answered;
  if ('error' in answer) {
    const { code, message, unchanged } = answer.error;
    throw new AppError(code as ErrorCode, message, unchanged);
  }
  if (!answer.isOurs)
    throw new AppError(
      'lost-work',
      'Another machine has taken over the work of this one, which was too slow.',
      'This machine changed nothing more.',
    );
}
