// A thread that answers questions of the disk, one at a time.

import type { ErrorShape } from '@/wire/jobs';
import { answer, type Asked, type Question } from '../asks/questions';
import { Bounds } from '../disk/bounds';
import { setLimits } from '../disk/limits';
import { shapeOfError } from '../errorShape';

export interface AskTask {
  question: Question;
  asked: readonly unknown[];
  allowed: readonly string[];
  /** Who asks, by name. */
  by: string | null;
}

export type AskEnd = { answer: unknown } | { error: ErrorShape };

export default async function ask({ question, asked, allowed, by }: AskTask): Promise<AskEnd> {
  setLimits({ bounds: new Bounds(allowed), signal: null, by });
  try {
    return { answer: await answer(question, asked as Asked<Question>) };
  } catch (cause) {
    return { error: shapeOfError(cause) };
  } finally {
    setLimits(null);
  }
}
