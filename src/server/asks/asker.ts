// Asks the disk in threads, with a limit: a drive that does not answer costs a thread, never a request that waits for ever.

import { AppError, type ErrorCode } from '@/core/errors';
import { openPool, type Pool } from '../threads/pool';
import type { AskEnd, AskTask } from '../threads/ask.thread';
import type { Who } from '../who';
import type { Ask, Question } from './questions';

const most = 3;
const patience = 15_000; // ms

export class Asker {
  private readonly pool: Pool<AskTask, AskEnd> = openPool('ask', { most, idle: 30_000 });

  /** `allowed`: the folders that somebody may look into. */
  constructor(
    private readonly allowed: (who: Who | null) => Promise<readonly string[]>,
    private readonly limit = patience,
  ) {}

  /** The asking of somebody; `who` null: of the one user, or of the server itself. */
  as(who: Who | null): Ask {
    return (question, ...asked) => this.askFor(who, question, asked) as never;
  }

  private async askFor(who: Who | null, question: Question, asked: readonly unknown[]): Promise<unknown> {
    const task: AskTask = { question, asked, allowed: await this.allowed(who), by: who?.name ?? null };
    const ended = await this.pool
      .run(task, { signal: AbortSignal.timeout(this.limit) })
      .catch((cause: Error) => {
        if (cause.name !== 'AbortError') throw cause;
        throw new AppError(
          'offline',
          `The drive does not answer (${this.limit / 1000} seconds were waited).`,
        );
      });
    if ('answer' in ended) return ended.answer;
    const { code, message, unchanged, details } = ended.error;
    // What no table has is a fault of ours, with the words it had there.
    if (code === 'internal') throw new Error(message);
    throw new AppError(code as ErrorCode, message, unchanged, details);
  }
}
