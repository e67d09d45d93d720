// How the plans of this window were asked for, so that one that is stale, or not waiting any more, is made anew by one button.

import { z } from 'zod';

const key = 'satchel-made-plans';
const most = 20;
const longest = 200_000; // characters of one request

const made = z.object({
  plan: z.string(),
  path: z.string(),
  params: z.record(z.string(), z.string().nullable()),
  input: z.unknown(),
});
export type MadePlan = z.output<typeof made>;

function all(): MadePlan[] {
  try {
    const read = z.array(made).safeParse(JSON.parse(sessionStorage.getItem(key) ?? '[]'));
    return read.success ? read.data : [];
  } catch {
    return [];
  }
}

/** Keeps how a plan was asked for. */
export function keepMade(plan: MadePlan): void {
  if (JSON.stringify(plan.input ?? null).length > longest) return;
  try {
    const before = all().filter((p) => p.plan !== plan.plan);
    sessionStorage.setItem(key, JSON.stringify([...before, plan].slice(-most)));
  } catch {
    // The browser keeps nothing: the plan is made where it was made before.
  }
}

/** How a plan was asked for; null where that is not known any more. */
export const madeOf = (plan: string): MadePlan | null => all().find((p) => p.plan === plan) ?? null;
