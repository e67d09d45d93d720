// Verbs about outputs: whether all passes and frames that are expected are there and whole.

import fs from 'node:fs';
import { AppError } from '@/core/errors';
import { folderOf, nameOf, stemOf } from '@/core/files/treePath';
import { plainName } from '@/core/names/counters';
import { sequencePattern } from '@/core/names/sequences';
import { frameOf } from '@/core/outputs/origin';
import { wholeText } from '@/core/outputs/passes';
import { bytes, framesText } from '@/core/text/figures';
import { passListOf, passListPath, passListText } from '@/core/plans/planPasses';
import { rootOf } from '@/server/workspaces/open';
import { toSystem } from '@/server/disk/system';
import { writeNew } from './newFile';
import { absolute, progress, table, text, type Answer, type Call, type Verb } from './call';
import { workspaceOf } from './where';

export const outputVerbs: Record<string, Verb> = {
  outputs: { schema: async () => (await import('@/wire/results')).outputsResult, run: listOutputs },
  clip: { schema: async () => (await import('@/wire/results')).clipResult, run: clip },
  complete: {
    schema: async () => (await import('@/wire/results')).completeResult,
    run: (call) => (call.flags.from === undefined ? check(call) : makeList(call, text(call, 'from')!)),
  },
};

async function check(call: Call): Promise<Answer> {
  const workspace = await workspaceOf(call.words[0]!);
  const { readPassList } = await import('@/wire/passes');
  const { complete } = await import('@/server/outputs/complete');
  const given = text(call, 'list');
  const at = given === undefined ? `${workspace.root}/${passListPath}` : absolute(given);
  let listed: string;
  try {
    listed = fs.readFileSync(toSystem(at), 'utf8');
  } catch {
    throw new AppError(
      'not-found',
      `${at} is not there: say with --list which passes are expected, or make one with --from.`,
    );
  }
  const report = await complete(workspace, readPassList(listed, at));
  const left = report.rows.filter((r) => Object.keys(r.troubles).length > 0);
  return {
    json: { root: workspace.root, ...report },
    text: () =>
      [
        ...left.map((r) => {
          const said = Object.entries(r.troubles).map(([what, frames]) => `${what} ${framesText(frames)}`);
          return `${[r.scene, r.camera, r.pass].filter(Boolean).join(' · ')}: ${said.join('; ')}`;
        }),
        wholeText(report),
      ].join('\n'),
    findings: left.length > 0,
  };
}

/** The list that the folder shows, to be kept as a file. */
async function makeList(call: Call, file: string): Promise<Answer> {
  const workspace = await workspaceOf(call.words[0]!);
  const list = await passListOf(workspace, file);
  const said = passListText(list);
  const to = text(call, 'list');
  if (to !== undefined) writeNew(absolute(to), said);
  return { json: list, text: () => said.trimEnd(), findings: false };
}

/** Whose every output is. */
async function listOutputs(call: Call): Promise<Answer> {
  const workspace = await workspaceOf(call.words[0]!);
  const { outputsOf } = await import('@/server/outputs/origins');
  const now = new Date();
  const found = await outputsOf(workspace, {
    today: { year: now.getFullYear(), month: now.getMonth() + 1, day: now.getDate() },
  });
  return {
    json: { root: workspace.root, ...found },
    text: () =>
      found.sets.length === 0
        ? `No outputs in ${found.folders.join(', ') || 'this workspace, which has no folder for them'}.`
        : table([
            ['output', 'frames', 'scene', 'version', 'camera', 'sure'],
            ...found.sets.map(({ path, frames, origin }) => [
              path,
              frames ? framesText(frames) : '',
              origin?.scene ?? 'nothing tells',
              origin?.number?.toString() ?? (origin?.version ? 'the present one' : ''),
              origin?.camera ?? '',
              origin ? { sure: 'sure', likely: 'likely', guess: 'a guess' }[origin.sure] : '',
            ]),
          ]),
    findings: false,
  };
}

/** A whole number, also a negative one, within bounds. */
function numberOf(call: Call, name: string, least: number, most: number): number | undefined {
  const given = text(call, name);
  if (given === undefined) return undefined;
  const n = Number(given);
  if (given.trim() === '' || !Number.isFinite(n) || n < least || n > most)
    throw new AppError('bad-request', `--${name} has to be a number from ${least} to ${most}.`);
  return n;
}

/** A review clip. */
async function clip(call: Call): Promise<Answer> {
  const to = text(call, 'to');
  if (to === undefined) throw new AppError('bad-request', 'Say with --to which file to make.');
  const holes = text(call, 'holes') ?? 'hold';
  if (holes !== 'hold' && holes !== 'mark') throw new AppError('bad-request', '--holes is hold or mark.');
  const pattern = absolute(call.words[0]!);
  const { makeClip } = await import('@/server/outputs/clip');
  const whole = (n: number | undefined) => (n === undefined ? undefined : Math.trunc(n));
  const made = await makeClip(
    {
      pattern,
      to: absolute(to),
      fps: numberOf(call, 'fps', 0.1, 50) ?? 24,
      side: Math.trunc(numberOf(call, 'side', 16, 4096) ?? 960),
      first: whole(numberOf(call, 'first', -1e9, 1e9)),
      last: whole(numberOf(call, 'last', -1e9, 1e9)),
      holes,
      label: call.flags.label ? await labelOf(pattern) : null,
    },
    { onFrame: (n, of) => progress(`frame ${n} of ${of}`) },
  );
  return {
    json: made,
    text: () =>
      [
        `${made.to}: ${made.frames} frames of ${made.width} × ${made.height}, ${made.fps} a second, ${bytes(made.bytes)}.`,
        ...made.said,
      ].join('\n'),
    findings: false,
  };
}

/** Scene, version and camera of frames, where they lie in a workspace and something tells; else their own name. */
async function labelOf(pattern: string) {
  const unknown = {
    scene: nameOf(pattern).replace(/[._ -]*(#+|%0?\d*d|-?\d+)\.[^.]+$/, ''),
    version: null,
    camera: null,
  };
  const root = await rootOf(pattern);
  if (root === null) return unknown;
  const workspace = await workspaceOf(root);
  const { outputsOf } = await import('@/server/outputs/origins');
  const found = await outputsOf(workspace, { today: { year: 2000, month: 1, day: 1 } });
  const folder = folderOf(pattern.slice(root.length + 1));
  const name = nameOf(pattern);
  const set = found.sets.find((s) => {
    if (folderOf(s.path) !== folder) return false;
    const [one, other] = [frameOf(name), frameOf(nameOf(s.sample))];
    return one && other
      ? one.head === other.head && one.tail === other.tail
      : sequencePattern(name)?.numberOf(nameOf(s.sample)) != null;
  });
  if (!set?.origin) return unknown;
  const { scene, number, camera } = set.origin;
  return { scene: stemOf(plainName(nameOf(scene))), version: number, camera };
}
