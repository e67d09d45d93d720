// Verbs about versions: saved, listed, brought back, moved into another habit, kept compact; the net; the store they all lie in.

import { AppError } from '@/core/errors';
import { bytes } from '@/core/text/figures';
import type { NetSettings } from '@/core/versions/net';
import { table, text, type Answer, type Call, type Verb } from './call';
import type { checkpointsResult } from '@/wire/results';
import type { z } from 'zod';
import { carryOut } from './plans';
import { inRoot, workspaceAround, workspaceOf } from './where';

export const versionVerbs: Record<string, Verb> = {
  save: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const { planSave } = await import('@/core/plans/planSave');
      const plan = await planSave(workspace, {
        scenes: call.flags.changed ? null : call.words.map((word) => inRoot(workspace, word)),
        note: text(call, 'note') ?? '',
        now: new Date().toISOString(),
      });
      return carryOut(call, workspace.root, plan);
    },
  },
  habit: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const { checkVersionPattern, usualPattern } = await import('@/core/versions/habit');
      const kind = call.words[1];
      if (kind !== 'numbered' && kind !== 'folder')
        throw new AppError('bad-request', `“${kind}” is no habit: numbered or folder.`);
      const pattern = text(call, 'pattern') ?? workspace.file.versions?.pattern ?? usualPattern;
      const [wrong] = checkVersionPattern(pattern);
      if (wrong) throw new AppError('bad-request', wrong);
      const { planHabit } = await import('@/core/plans/planHabit');
      return carryOut(call, workspace.root, await planHabit(workspace, { kind, pattern }));
    },
  },
  compact: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const workspace = await workspaceAround(call.words[0]!);
      const versions = call.words.map((word) => inRoot(workspace, word));
      const { planCompact, planSpread } = await import('@/core/plans/planCompact');
      const plan = call.flags.back
        ? await planSpread(workspace, versions)
        : await planCompact(workspace, { versions, now: new Date().toISOString() });
      return carryOut(call, workspace.root, plan);
    },
  },
  restore: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const number = Number(call.words[1]);
      if (!Number.isInteger(number))
        throw new AppError('bad-request', `“${call.words[1]}” is no version number.`);
      const plan = await (
        await import('@/core/plans/planRestore')
      ).planRestore(workspace, {
        scene: inRoot(workspace, call.words[0]!),
        number,
        note: text(call, 'note') ?? '',
        now: new Date().toISOString(),
      });
      return carryOut(call, workspace.root, plan);
    },
  },
  versions: {
    schema: async () => (await import('@/wire/results')).versionsResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const scene = inRoot(workspace, call.words[0]!);
      const found = await (await import('@/server/workspaces/versions')).versionsOf(workspace, scene);
      const { next, changed, habit } = found;
      const versions = found.versions
        .reverse()
        .map(({ saved: _, ...v }) => ({ ...v, modified: new Date(v.modified).toISOString() }));
      const rows = versions.map((v) => [
        v.number === null ? '–' : String(v.number),
        v.path,
        bytes(v.size),
        v.modified.slice(0, 16).replace('T', ' '),
        v.compact ? 'kept compact' : '',
        v.note,
      ]);
      return {
        json: { root: workspace.root, scene: found.scene, habit, changed, versions, next },
        text: () => `${table(rows)}\nThe next one would be ${next}.`,
        findings: false,
      };
    },
  },
  convert: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const to = text(call, 'to');
      if (to === undefined) throw new AppError('bad-request', 'Say with --to what it shall be called.');
      const as = text(call, 'as');
      if (as !== undefined && as !== 'ascii' && as !== 'little' && as !== 'big')
        throw new AppError('bad-request', '--as is ascii, little or big.');
      const { planConvert } = await import('@/core/plans/planConvert');
      const plan = await planConvert(workspace, {
        path: inRoot(workspace, call.words[0]!),
        to: inRoot(workspace, to),
        follow: call.flags.follow === true,
        as,
      });
      return carryOut(call, workspace.root, plan);
    },
  },
  checkpoint: {
    schema: async () => (await import('@/wire/results')).checkpointResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const { makeCheckpoint } = await import('@/server/workspaces/checkpoints');
      const scope = ((call.flags.only as string[] | undefined) ?? []).map((word) => inRoot(workspace, word));
      const made = await makeCheckpoint(workspace, { name: call.words[1] ?? '', scope });
      return {
        json: { root: workspace.root, ...made },
        text: () =>
          `Checkpoint ${made.id}: “${made.name}”, ${made.files} files, ${bytes(made.bytes)}; ${made.read} were read, ${bytes(made.added)} came to the store.`,
        findings: made.unread.length > 0,
      };
    },
  },
  checkpoints: {
    schema: async () => (await import('@/wire/results')).checkpointsResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const { readCheckpoints, sinceCheckpoint, summaryOf } = await import('@/server/workspaces/checkpoints');
      const found: z.infer<typeof checkpointsResult>['checkpoints'] = [];
      for (const c of await readCheckpoints(workspace.tree)) {
        const since = await sinceCheckpoint(workspace, c);
        found.push({
          ...summaryOf(c),
          changed: since.changed.count,
          gone: since.gone.count,
          fresh: since.fresh.count,
        });
      }
      return {
        json: { root: workspace.root, checkpoints: found },
        text: () =>
          found.length === 0
            ? 'There is no checkpoint yet.'
            : table(
                found.map((c) => [
                  c.id,
                  c.name,
                  `${c.files} files`,
                  bytes(c.bytes),
                  `since then ${c.changed} changed, ${c.gone} gone, ${c.fresh} new`,
                ]),
              ),
        findings: false,
      };
    },
  },
  back: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const { checkpointOf } = await import('@/server/workspaces/checkpoints');
      const { planBack } = await import('@/core/plans/planBack');
      const checkpoint = await checkpointOf(workspace.tree, call.words[1]!);
      return carryOut(call, workspace.root, await planBack(workspace, checkpoint, new Date().toISOString()));
    },
  },
  net: {
    schema: async () => (await import('@/wire/results')).netResult,
    run: (call) => runNet(call),
  },
  store: {
    schema: async () => (await import('@/wire/results')).storeResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const of = { root: workspace.root, tree: workspace.tree };
      const owners = await import('@/server/workspaces/storeOwners');
      const { withLock } = await import('@/server/workspaces/changing');
      const before = await owners.storeBytes(of);
      if (call.flags.sweep && call.yes)
        await withLock(workspace.root, ({ tree }) => owners.sweepStore({ ...of, tree }));
      const held = await owners.storeHeld(of);
      const after = await owners.storeBytes(of);
      return {
        json: { root: workspace.root, bytes: after, cleared: before - after, owners: held },
        text: () =>
          [
            `The store takes ${bytes(after)} on the drive.`,
            table(held.map((o) => [o.owner, String(o.contents), bytes(o.bytes)])),
            ...(call.flags.sweep
              ? [
                  call.yes
                    ? `${bytes(before - after)} that nobody needs were cleared.`
                    : 'Nothing was cleared. Add --yes to clear what nobody needs.',
                ]
              : []),
          ].join('\n'),
        findings: false,
      };
    },
  },
};

/** A figure that a flag gives. */
function figure(call: Call, flag: string, usual: number): number {
  const given = text(call, flag);
  if (given === undefined) return usual;
  const value = Number(given);
  if (!Number.isFinite(value) || value <= 0)
    throw new AppError('bad-request', `--${flag} ${given} is no number.`);
  return value;
}

async function runNet(call: Call): Promise<Answer> {
  const workspace = await workspaceOf(call.words[0]!);
  const { usualNet, sceneNets, blindStretches, reachesBack } = await import('@/core/versions/net');
  const { netLines, netRound } = await import('@/server/workspaces/net');
  const base = workspace.file.net ?? usualNet;
  const settings: NetSettings = {
    ...base,
    every: figure(call, 'every', base.every),
    keep: figure(call, 'keep', base.keep),
  };
  const from = Date.now();
  const clock = {
    now: Date.now,
    wait: (ms: number) => new Promise<void>((done) => setTimeout(done, ms)),
    run: { id: `cli-${process.pid}-${from}`, from },
  };
  const kept: { scene: string; broken: string | null }[] = [];
  const skipped: { scene: string; why: string; message: string }[] = [];
  const round = async () => {
    const done = await netRound(workspace.root, settings, clock);
    kept.push(...done.kept);
    skipped.push(...done.skipped);
    for (const k of done.kept)
      process.stderr.write(`kept ${k.scene}${k.broken === null ? '' : ` (broken: ${k.broken})`}\n`);
    for (const s of done.skipped) process.stderr.write(`skipped ${s.scene}: ${s.message}\n`);
  };
  if (call.flags.once) await round();
  else if (call.flags.every !== undefined) {
    const stop = new Promise<void>((done) => {
      for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => done());
    });
    for (let isOver = false; !isOver;) {
      await round().catch((cause: unknown) => process.stderr.write(`${(cause as Error).message}\n`));
      const wait = new Promise<false>((done) => setTimeout(() => done(false), settings.every * 60_000));
      isOver = await Promise.race([wait, stop.then(() => true)]);
    }
  }
  const lines = await netLines(workspace.tree);
  const nets = [...sceneNets(lines)].map(([scene, net]) => ({
    scene,
    states: net.states.map((s) => ({
      at: new Date(s.at).toISOString(),
      size: s.files.reduce((sum, f) => sum + f.size, 0),
      broken: s.broken,
    })),
    holes: net.holes.map((h) => ({ ...h, from: iso(h.from), to: iso(h.to) })),
    back: reachesBack(net.states, settings) ? iso(reachesBack(net.states, settings)!.at) : null,
  }));
  const blind = blindStretches(lines, settings).map((h) => ({ ...h, from: iso(h.from), to: iso(h.to) }));
  return {
    json: {
      root: workspace.root,
      settings,
      isOn: workspace.file.net !== undefined,
      kept,
      skipped,
      scenes: nets,
      blind,
    },
    text: () =>
      [
        table(
          nets.map((n) => [
            n.scene,
            `${n.states.length} kept`,
            n.back === null ? '' : `back to ${n.back.slice(0, 16).replace('T', ' ')} UTC`,
            n.states.some((s) => s.broken !== null) ? 'some are broken' : '',
          ]),
        ),
        ...blind.map((h) => `not looked at from ${h.from} to ${h.to}: ${h.message}`),
      ].join('\n'),
    findings: skipped.length > 0 || kept.some((k) => k.broken !== null),
  };
}

const iso = (ms: number) => new Date(ms).toISOString();
