// The net: states of scenes kept by the application while it runs, beside the versions that somebody saved. What it writes down, what it means, and what
// of it is let go with time. One log, `.satchel/net/log.jsonl`, a line a thing that happened; a torn line counts for nothing.

import type { Digest } from '../files/digest';
import { isTreePath, type TreePath } from '../files/treePath';
import type { Seen } from '../files/times';
import type { StoredFile } from './note';

/** How the net is set: every so many minutes, the newest so many; then one an hour for so many hours, one a day for so many days. */
export interface NetSettings {
  every: number;
  keep: number;
  hours: number;
  days: number;
}

export const usualNet: NetSettings = { every: 5, keep: 20, hours: 24, days: 30 };

/** Why a scene was not kept though it had changed, or nobody could tell. */
export type SkipReason = 'closed' | 'away' | 'being-written' | 'unreadable' | 'held' | 'failed';

/** A state of a scene, with what belongs to it alone; the scene is the last of the files. Times in ms since 1970 UTC. */
export interface KeptState {
  line: 'kept';
  at: number;
  scene: TreePath;
  files: StoredFile[];
  /** What is wrong with it; null: it is whole. */
  broken: string | null;
}

export type NetLine =
  | KeptState
  /** The file was written again, and holds what it held. */
  | { line: 'same'; at: number; scene: TreePath; modified: number; changed?: number | undefined }
  | { line: 'skipped'; scene: TreePath; from: number; to: number; why: SkipReason; message: string }
  /** From when to when one run of the application looked; of lines of one run the last counts. */
  | { line: 'run'; run: string; from: number; to: number }
  /** The whole workspace could not be looked at. */
  | { line: 'away'; from: number; to: number; why: SkipReason }
  | { line: 'moved'; at: number; from: TreePath; to: TreePath };

const isText = (x: unknown): x is string => typeof x === 'string';
const isTime = (x: unknown): x is number => typeof x === 'number' && Number.isFinite(x);
const isTimeOrNone = (x: unknown) => x === undefined || isTime(x);
const isPath = (x: unknown): x is TreePath => isText(x) && x !== '' && isTreePath(x);

function isStored(x: unknown): x is StoredFile {
  const f = x as Partial<StoredFile> | null;
  return (
    typeof f === 'object' &&
    f !== null &&
    isPath(f.path) &&
    isTime(f.size) &&
    isTime(f.modified) &&
    isTimeOrNone(f.changed) &&
    /^[0-9a-f]{64}$/.test(String(f.digest))
  );
}

const checks: Record<NetLine['line'], (v: Record<string, unknown>) => boolean> = {
  kept: (v) =>
    isTime(v.at) &&
    isPath(v.scene) &&
    Array.isArray(v.files) &&
    v.files.length > 0 &&
    v.files.every(isStored) &&
    (v.broken === null || isText(v.broken)),
  same: (v) => isTime(v.at) && isPath(v.scene) && isTime(v.modified) && isTimeOrNone(v.changed),
  skipped: (v) => isPath(v.scene) && isTime(v.from) && isTime(v.to) && isText(v.why) && isText(v.message),
  run: (v) => isText(v.run) && isTime(v.from) && isTime(v.to),
  away: (v) => isTime(v.from) && isTime(v.to) && isText(v.why),
  moved: (v) => isTime(v.at) && isPath(v.from) && isPath(v.to),
};

/** The lines of a log; what is no whole line is left out. */
export function readNetLog(text: string): NetLine[] {
  return text.split('\n').flatMap((one): NetLine[] => {
    if (one === '') return [];
    try {
      const value = JSON.parse(one) as Record<string, unknown>;
      const check = checks[value.line as NetLine['line']];
      return check?.(value) ? [value as unknown as NetLine] : [];
    } catch {
      return [];
    }
  });
}

/** Lines as they are appended: each begins with a new line, so that one that was torn spoils only itself. */
export function writeNetLines(lines: readonly NetLine[]): string {
  return lines.map((l) => `\n${JSON.stringify(l)}`).join('');
}

/** A stretch of time in which nothing could be kept. */
export interface Hole {
  from: number;
  to: number;
  why: SkipReason;
  message: string;
}

/** What is known of one scene's net, the oldest first. */
export interface SceneNet {
  states: KeptState[];
  holes: Hole[];
  /** The stat of the file when it was seen last. */
  seen: Seen | null;
}

const said: Partial<Record<SkipReason, string>> = {
  closed: 'the application was closed',
  away: 'the drive was away',
  failed: 'the drive was full or failed',
};

/** The nets of all scenes, by where they lie now. Renamed scenes keep what was kept of them. */
export function sceneNets(lines: readonly NetLine[]): Map<TreePath, SceneNet> {
  const nets = new Map<TreePath, SceneNet>();
  const of = (scene: TreePath) => {
    let net = nets.get(scene);
    if (!net) nets.set(scene, (net = { states: [], holes: [], seen: null }));
    return net;
  };
  for (const l of lines) {
    if (l.line === 'kept') {
      const net = of(l.scene);
      net.states.push(l);
      const { size, modified, changed } = l.files.at(-1)!;
      net.seen = { size, modified, changed };
    } else if (l.line === 'same') {
      const net = of(l.scene);
      if (net.seen) net.seen = { ...net.seen, modified: l.modified, changed: l.changed };
    } else if (l.line === 'skipped') of(l.scene).holes.push(l);
    else if (l.line === 'moved' && nets.has(l.from)) {
      const [old, there] = [nets.get(l.from)!, nets.get(l.to)];
      nets.set(
        l.to,
        there
          ? { ...there, states: [...old.states, ...there.states], holes: [...old.holes, ...there.holes] }
          : old,
      );
      nets.delete(l.from);
    }
  }
  return nets;
}

/** Stretches in which the application did not look, between the first look and the last. A pause of less than two rounds is none. */
export function blindStretches(lines: readonly NetLine[], settings: NetSettings): Hole[] {
  const runs = new Map<string, { from: number; to: number }>();
  for (const l of lines) if (l.line === 'run') runs.set(l.run, { from: l.from, to: l.to });
  const holes: Hole[] = [];
  const least = 2 * settings.every * 60_000;
  let seen: number | null = null;
  for (const { from, to } of [...runs.values()].sort((a, b) => a.from - b.from)) {
    if (seen !== null && from - seen >= least)
      holes.push({ from: seen, to: from, why: 'closed', message: said.closed! });
    seen = Math.max(seen ?? to, to);
  }
  for (const l of lines)
    if (l.line === 'away') holes.push({ from: l.from, to: l.to, why: l.why, message: said[l.why] ?? l.why });
  return holes.sort((a, b) => a.from - b.from);
}

const hour = 3_600_000;
const day = 24 * hour;

/** The states that stay: the newest, then the last of each hour and of each day, as the settings have it. `states` in any order. */
export function statesToKeep(
  states: readonly KeptState[],
  settings: NetSettings,
  now: number,
): Set<KeptState> {
  const newest = [...states].sort((a, b) => b.at - a.at);
  const kept = new Set(newest.slice(0, Math.max(1, settings.keep)));
  const buckets = new Set<string>();
  for (const state of newest) {
    const age = now - state.at;
    const bucket =
      age < settings.hours * hour
        ? `h${Math.floor(state.at / hour)}`
        : age < settings.days * day
          ? `d${Math.floor(state.at / day)}`
          : null;
    if (bucket === null || buckets.has(bucket)) continue;
    buckets.add(bucket);
    kept.add(state);
  }
  return kept;
}

/** A log without what is let go: states beyond the settings, holes older than the oldest state that stays, all but the last line of a run. */
export function thinned(
  lines: readonly NetLine[],
  settings: NetSettings,
  now: number,
): { lines: NetLine[]; dropped: number } {
  const nets = sceneNets(lines);
  const stays = new Set<NetLine>();
  let oldest = now;
  for (const { states } of nets.values())
    for (const state of statesToKeep(states, settings, now)) {
      stays.add(state);
      oldest = Math.min(oldest, state.at);
    }
  const lastOfRun = new Map<string, NetLine>();
  for (const l of lines) if (l.line === 'run') lastOfRun.set(l.run, l);
  const runs = new Set(lastOfRun.values());
  let dropped = 0;
  const kept = lines.filter((l) => {
    if (l.line === 'kept') {
      if (!stays.has(l)) dropped++;
      return stays.has(l);
    }
    if (l.line === 'run') return runs.has(l) && l.to >= oldest - day;
    if (l.line === 'skipped' || l.line === 'away') return l.to >= oldest;
    return true;
  });
  return { lines: kept, dropped };
}

/** The content ids that a log's states consist of. */
export function netContents(lines: readonly NetLine[]): Digest[] {
  return lines.flatMap((l) => (l.line === 'kept' ? l.files.map((f) => f.digest) : []));
}

/**
 * The contents that a log needs of the store: also those that lines name which are not understood here (a newer version's), or were torn while they were
 * written. Null: a line was damaged since, and what it named is not known.
 */
export function netNeeds(text: string): Digest[] | null {
  const needed = new Set<Digest>();
  for (const one of text.split('\n')) {
    // A line that was torn has no end. One that has its end, and says nothing, was damaged.
    if (one.endsWith('}') && !isJson(one)) return null;
    for (const [digest] of one.matchAll(/(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])/g))
      needed.add(digest as Digest);
  }
  return [...needed];
}

/** Whether each line of a log is understood here: else it must not be written anew without them. */
export const isNetUnderstood = (text: string): boolean =>
  text.split('\n').filter((l) => l !== '').length === readNetLog(text).length;

function isJson(text: string): boolean {
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
}

/** How far the net reaches back without thinning: the oldest of the newest so many; null where nothing is kept. */
export function reachesBack(states: readonly KeptState[], settings: NetSettings): KeptState | null {
  return (
    [...states]
      .sort((a, b) => b.at - a.at)
      .slice(0, settings.keep)
      .at(-1) ?? null
  );
}
