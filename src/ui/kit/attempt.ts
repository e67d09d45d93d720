// An action of a page: run, and where it fails say why. One of these for each place in which an error is to be read.

import { useCallback, useState } from 'react';
import type { ErrorShape } from '@/wire/jobs';
import { shapeOf } from './api';

export interface Attempt {
  /** Does the work; resolves with its result, or with undefined once its error is in `problem`. `what` names it in `busy`. */
  attempt: <T>(work: () => Promise<T> | T, what?: string) => Promise<T | undefined>;
  /** Why the last attempt failed; null: it did not. */
  problem: ErrorShape | null;
  /** The work under way; null: none. */
  busy: string | null;
  setProblem: (problem: ErrorShape | null) => void;
}

export function useAttempt(): Attempt {
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [busy, setBusy] = useState<string | null>(null);
  const attempt = useCallback(async <T>(work: () => Promise<T> | T, what = 'work') => {
    setProblem(null);
    setBusy(what);
    try {
      return await work();
    } catch (cause) {
      setProblem(shapeOf(cause));
      return undefined;
    } finally {
      setBusy(null);
    }
  }, []);
  return { attempt, problem, busy, setProblem };
}
