// Numbers, sizes and times as people read them.

/** Bytes in powers of 1000, as drives are sold: '4.2 MB'. */
export function bytes(value: number | null): string {
  if (value === null) return '–';
  if (value < 999.5) return `${Math.round(value)} B`;
  let v = value;
  for (const unit of ['kB', 'MB', 'GB', 'TB', 'PB']) {
    v /= 1000;
    if (v < 999.5) return `${v < 9.995 ? v.toFixed(2) : v < 99.95 ? v.toFixed(1) : v.toFixed(0)} ${unit}`;
  }
  return `${v.toFixed(0)} PB`;
}

/** The exact count, for hovering. */
export function exactBytes(value: number | null): string {
  return value === null ? '' : `${value.toLocaleString('en')} bytes`;
}

/** '12 min ago', '3 days ago'; after a month the date. `now` and `then` in ms. */
export function ago(then: number, now: number): string {
  const s = Math.max(0, (now - then) / 1000);
  if (s < 45) return 'just now';
  if (s < 3600) return `${Math.max(1, Math.round(s / 60))} min ago`;
  if (s < 86400) return `${Math.round(s / 3600)} h ago`;
  if (s < 86400 * 30) return `${Math.round(s / 86400)} ${Math.round(s / 86400) === 1 ? 'day' : 'days'} ago`;
  return new Date(then).toISOString().slice(0, 10);
}

/** '2026-11-23 14:32' in local time. */
export function exactTime(ms: number): string {
  const d = new Date(ms);
  const two = (n: number) => String(n).padStart(2, '0');
  return `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())} ${two(d.getHours())}:${two(d.getMinutes())}`;
}

const words = [
  'no',
  'one',
  'two',
  'three',
  'four',
  'five',
  'six',
  'seven',
  'eight',
  'nine',
  'ten',
  'eleven',
  'twelve',
];

/** A number with marks between the thousands: '97,473'. */
export const figure = (n: number): string => n.toLocaleString('en');

/** Small numbers as words, for sentences. */
export function inWords(n: number): string {
  return words[n] ?? n.toLocaleString('en');
}

/** '1 file', '2 files'. */
export function count(n: number, one: string, many = `${one}s`): string {
  return `${n.toLocaleString('en')} ${n === 1 ? one : many}`;
}

/** What is left at this rate, in words; '' while it cannot be told. */
export function timeLeft(done: number, total: number | null, elapsedMs: number): string {
  if (total === null || done <= 0 || done >= total || elapsedMs < 1500) return '';
  const s = ((total - done) / done) * (elapsedMs / 1000);
  return s < 60
    ? `${Math.ceil(s)} s left`
    : s < 3600
      ? `${Math.ceil(s / 60)} min left`
      : `${(s / 3600).toFixed(1)} h left`;
}

/** 'at 14:20 today', 'at 9:05 yesterday', 'on 2026-11-20 at 9:05', in local time. `now` and `then` in ms. */
export function when(then: number, now: number): string {
  const [day, time] = exactTime(then).split(' ') as [string, string];
  if (day === exactTime(now).slice(0, 10)) return `at ${time} today`;
  if (day === exactTime(now - 86_400_000).slice(0, 10)) return `at ${time} yesterday`;
  return `on ${day} at ${time}`;
}

/** '25 minutes', '3 hours', '2 days' of so many ms. */
export function span(ms: number): string {
  const minutes = Math.round(ms / 60_000);
  if (minutes < 1) return 'less than a minute';
  if (minutes < 120) return count(minutes, 'minute');
  const hours = Math.round(ms / 3_600_000);
  return hours < 48 ? count(hours, 'hour') : count(Math.round(ms / 86_400_000), 'day');
}

/** Frames as people write them: '1-4, 7, 9-12'. */
export function framesText(frames: readonly number[]): string {
  const sorted = [...frames].sort((a, b) => a - b);
  const parts: string[] = [];
  for (let i = 0; i < sorted.length;) {
    let j = i;
    while (j + 1 < sorted.length && sorted[j + 1] === sorted[j]! + 1) j++;
    parts.push(i === j ? String(sorted[i]) : `${sorted[i]}-${sorted[j]}`);
    i = j + 1;
  }
  return parts.join(', ');
}
