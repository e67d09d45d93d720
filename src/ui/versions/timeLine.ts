// What stands where on the time line of a scene: versions as knots, kept states as rings, stretches without either as gaps.

import type { NetView, VersionsView } from '@/wire/views';

export interface Knot {
  at: number;
  /** What stands over it: 'v007'. */
  name: string;
  note: string;
  /** Whether there is room for its label. */
  hasLabel: boolean;
}

export interface TimeLine {
  from: number;
  to: number;
  knots: Knot[];
  rings: { at: number; broken: boolean }[];
  gaps: { from: number; to: number; message: string }[];
  ticks: { at: number; label: string }[];
}

const hour = 3_600_000;
const steps = [5, 10, 15, 30, 60, 120, 180, 360, 720, 1440, 2880, 10_080].map((m) => m * 60_000);

/** When a version was saved: as was noted, else when its file was written. */
export const savedAt = (v: VersionsView['versions'][number]): number => v.saved ?? v.modified;

/** Where the line ends: now, or, where nothing happened for long, a little after what happened last. */
export function endOf(versions: VersionsView, net: NetView, now: number): number {
  const last = Math.max(...versions.versions.map(savedAt), ...net.states.map((s) => s.at), 0);
  return last === 0 || now - last < 2 * hour ? now : last + hour / 4;
}

/** The line of the `hours` before `now`, at least from the newest states on. Places of labels by `width` in pixels. */
export function timeLine(
  versions: VersionsView,
  net: NetView,
  now: number,
  hours: number,
  width: number,
): TimeLine {
  const from = now - hours * hour;
  const within = (at: number) => at >= from && at <= now;
  const least = 108; // pixels a label needs
  let last = -Infinity;
  const knots = [...versions.versions]
    .filter((v) => v.number !== null && within(savedAt(v)))
    .sort((a, b) => savedAt(b) - savedAt(a))
    .map((v) => {
      const x = ((savedAt(v) - from) / (now - from)) * width;
      const hasLabel = Math.abs(last - x) >= least;
      if (hasLabel) last = x;
      return { at: savedAt(v), name: `v${String(v.number).padStart(3, '0')}`, note: v.note, hasLabel };
    });
  const step = steps.find((s) => (now - from) / s <= 8) ?? steps.at(-1)!;
  const offset = new Date(now).getTimezoneOffset() * 60_000;
  const first = Math.ceil((from - offset) / step) * step + offset;
  const ticks: TimeLine['ticks'] = [];
  for (let at = first; at <= now; at += step) ticks.push({ at, label: labelOf(at, step) });
  return {
    from,
    to: now,
    knots,
    rings: net.states.filter((s) => within(s.at)).map((s) => ({ at: s.at, broken: s.broken !== null })),
    gaps: net.holes
      .filter((h) => h.to > from && h.from < now)
      .map((h) => ({ from: Math.max(h.from, from), to: Math.min(h.to, now), message: h.message })),
    ticks,
  };
}

function labelOf(at: number, step: number): string {
  const d = new Date(at);
  const two = (n: number) => String(n).padStart(2, '0');
  return step >= 24 * hour
    ? `${d.getDate()}.${d.getMonth() + 1}.`
    : `${two(d.getHours())}:${two(d.getMinutes())}`;
}

/** How many hours the line has to show so that what the net reaches back to is on it. */
export function hoursToShow(net: NetView, now: number): number {
  const reach = net.back === null ? 0 : (now - net.back) / hour;
  return [2, 4, 8, 24, 72, 168].find((h) => h >= reach * 1.02) ?? 168;
}
