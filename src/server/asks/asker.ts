// Asks the disk in threads, with a limit: a drive that does not answer costs a thread, never a request that waits for ever.

import { AppError, type ErrorCode } from '@/core/errors';
import { openPool, type Pool } from '../threads/pool';
import type { AskEnd, AskTask } from '../threads/ask.thread';
import type { Ask } from './questions';

const most = 3;
const patience = 15_000; // ms

export class Asker {
  private readonly pool: Pool<AskTask, AskEnd> = openPool('ask', { most, idle: 30_000 });

  /** `allowed`: the folders that may be looked into. */
  constructor(
    private readonly allowed: () => Promise<readonly string[]>,
    private readonly limit = patience,
  ) {}

  readonly ask: Ask = async (question, ...asked) => {
    const task: AskTask = { question, asked, allowed: await this.allowed() };
    const ended = await this.pool
      .run(task, { signal: AbortSignal.timeout(this.limit) })
      .catch((cause: Error) => {
        if (cause.name !== 'AbortError') throw cause;
        throw new AppError(
          'offline',
          `The drive does not answer (${this.limit / 1000} seconds were waited).`,
        );
      });
    if ('answer' in ended) return ended.answer as never;
    const { code, message, unchanged, details } = ended.error;
    // What no table has is a fault of ours, with the words it had there.
    if (code === 'internal') throw new Error(message);
    throw new AppError(code as ErrorCode, message, unchanged, details);
  };
}
