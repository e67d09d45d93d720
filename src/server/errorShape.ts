// An error as it crosses a boundary: to the server from a thread, to a page from the server.

import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import type { ErrorShape } from '@/wire/jobs';

/** An error as it crosses to the server. */
export function shapeOfError(cause: unknown): ErrorShape {
  if (cause instanceof AppError)
    return {
      code: cause.code,
      message: cause.message,
      unchanged: cause.unchanged,
      next: cause.next,
      details: [...cause.details],
    };
  if ((cause as { name?: string } | null)?.name === 'AbortError')
    return {
      code: 'cancelled',
      message: 'The work was cancelled.',
      unchanged: 'Nothing was changed.',
      next: 'Start it again when you like.',
      details: [],
    };
  const known = fileError('A file', cause);
  if (known instanceof AppError) return shapeOfError(known);
  return {
    code: 'internal',
    message: cause instanceof Error ? cause.message : String(cause),
    unchanged: 'No file was left half written.',
    next: 'This is a fault of Loyal Satchel; try again, and report it when it stays.',
    details: [],
  };
}
