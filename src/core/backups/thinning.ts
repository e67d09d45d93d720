// Which snapshots are kept as time goes by: all of the last days, then one a day, one a week, one a month. Of a day, a week or a month the last one
// stays. The newest is always kept.

export interface KeepRule {
  /** All of so many days. */
  all: number;
  /** Then one a day for so many days, one a week for so many weeks, one a month for so many months; all counted from now. */
  days: number;
  weeks: number;
  months: number;
}

export const usualRule: KeepRule = { all: 2, days: 14, weeks: 8, months: 24 };

const day = 86_400_000;

/** Which of some snapshots of one workspace go. Times in ms; `now` too. Days, weeks (from Monday) and months are those of UTC. */
export function goingOf<S extends { time: number }>(
  snapshots: readonly S[],
  rule: KeepRule,
  now: number,
): S[] {
  const newestFirst = [...snapshots].sort((a, b) => b.time - a.time);
  const taken = new Set<string>();
  const keeps = (s: S, n: number): boolean => {
    if (n === 0 || now - s.time < rule.all * day) return true;
    const span = spanOf(s.time, rule, now);
    if (span === null || taken.has(span)) return false;
    taken.add(span);
    return true;
  };
  return newestFirst.filter((s, n) => !keeps(s, n));
}

/** The stretch of which one is kept; null: it is older than all that is kept. */
function spanOf(time: number, rule: KeepRule, now: number): string | null {
  const age = now - time;
  const date = new Date(time);
  if (age < rule.days * day) return `day ${date.toISOString().slice(0, 10)}`;
  if (age < rule.weeks * 7 * day) {
    // 1970-01-01 was a Thursday.
    return `week ${Math.floor((time / day + 3) / 7)}`;
  }
  const months =
    (new Date(now).getUTCFullYear() - date.getUTCFullYear()) * 12 +
    new Date(now).getUTCMonth() -
    date.getUTCMonth();
  return months < rule.months ? `month ${date.toISOString().slice(0, 7)}` : null;
}

/** A rule as text: '2d,14d,8w,24m' → all of 2 days, one a day for 14, one a week for 8, one a month for 24. Null: it says nothing of the kind. */
export function readRule(text: string): KeepRule | null {
  const m = /^(\d{1,4})d,(\d{1,4})d,(\d{1,4})w,(\d{1,4})m$/.exec(text.replaceAll(' ', ''));
  return m && { all: Number(m[1]), days: Number(m[2]), weeks: Number(m[3]), months: Number(m[4]) };
}
export const writeRule = (r: KeepRule): string => `${r.all}d,${r.days}d,${r.weeks}w,${r.months}m`;
