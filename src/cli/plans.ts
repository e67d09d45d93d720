// Verbs that change files: each shows its plan, and applies it with --yes.

import fs from 'node:fs';
import { blockers, bytesToWrite, type Plan } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { globTest } from '@/core/names/globs';
import type { Problem } from '@/core/problem';
import { bytes } from '@/core/text/figures';
import { readLayout, shippedLayouts, type Layout } from '@/core/layouts/layout';
import type { OpenEntry } from '@/core/changes/summary';
import { journalFolder } from '@/core/files/records';
import { folderOf, join, nameOf } from '@/core/files/treePath';
import { planRepath, type Repath } from '@/core/plans/planRepath';
import type { planResult, putBackResult } from '@/wire/results';
import { dataFolder } from '@/server/dataFolder';
import { diskOutside } from '@/server/disk/diskOutside';
import { findLayout } from '@/server/workspaces/layoutLibrary';
import { applyPlan, leaveAsIs, openEntries, settle, type Records } from '@/server/workspaces/changing';
import { createWorkspace, markerDamage, plainFolder, planNew, rootOf } from '@/server/workspaces/open';
import { recordsAbout } from '@/server/workspaces/shelf';
import { toSystem } from '@/server/disk/system';
import { z } from 'zod';
import { absolute, progress, text, type Answer, type Call, type Verb } from './call';
import { renameRoot } from './renameRoot';
import { inRoot, realWorkspaceOf, scenesOf, workspaceOf } from './where';

/** A plan as it is shown: steps without their bytes. */
export function shownPlan(plan: Plan): z.infer<typeof planResult>['plan'] {
  const steps = plan.steps.map((s) => ({
    do: s.do,
    path: s.path,
    ...(s.do === 'move' || s.do === 'move-folder' ? { to: s.to } : {}),
    ...(s.do === 'put'
      ? {
          size: s.size,
          ...(s.from.from === 'outside' || s.from.from === 'tree' ? { from: s.from.path } : {}),
        }
      : {}),
  }));
  return {
    kind: plan.kind,
    title: plan.title,
    steps,
    paths: [...plan.paths],
    notes: [...plan.notes],
    readiness: plan.readiness,
  };
}

export function planText(root: string, plan: Plan, applied: string | null): string {
  const lines = [`${applied ? 'Done' : 'Plan'}: ${plan.title}   (${root})`];
  for (const s of plan.steps) {
    if (s.do === 'put')
      lines.push(
        `  ${s.before ? 'change' : 'make  '} ${s.path}${s.from.from === 'outside' ? `   from ${s.from.path}` : ''}   ${bytes(s.size)}`,
      );
    else if (s.do === 'move' || s.do === 'move-folder') lines.push(`  move   ${s.path} → ${s.to}`);
    else if (s.do === 'remove') lines.push(`  remove ${s.path}`);
    else lines.push(`  ${s.do === 'make-folder' ? 'folder' : 'remove folder'} ${s.path}/`);
  }
  for (const p of plan.paths)
    lines.push(`  path   ${p.scene} ${p.at}`, `         - ${p.before}`, `         + ${p.after}`);
  for (const n of plan.notes)
    lines.push(
      `  ${n.level === 'blocker' ? 'BLOCKED' : n.level === 'warning' ? 'left as it is' : 'note'}: ${n.message}`,
    );
  if (plan.readiness)
    lines.push(
      `  would open elsewhere: ${plan.readiness.before} → ${plan.readiness.after} of ${plan.readiness.of}`,
    );
  if (plan.steps.length === 0) lines.push('  Nothing to do.');
  lines.push(
    applied
      ? `Ledger entry ${applied}; undo it with: satchel undo "${root}" ${applied} --yes`
      : plan.steps.length > 0
        ? 'Nothing was changed. Add --yes to apply.'
        : '',
  );
  return lines.join('\n').trimEnd();
}

function answer(root: string, plan: Plan, applied: string | null): Answer {
  return {
    json: { root, plan: shownPlan(plan), applied },
    text: () => planText(root, plan, applied),
    findings: plan.notes.some((n) => n.level !== 'info'),
  };
}

export async function carryOut(call: Call, root: string, plan: Plan, of?: Records): Promise<Answer> {
  if (!call.yes || plan.steps.length === 0 || blockers(plan).length > 0) return answer(root, plan, null);
  const total = bytesToWrite(plan);
  const record = await applyPlan(
    root,
    plan,
    {
      onProgress: (d) =>
        progress(`${d.steps} of ${plan.steps.length} steps, ${bytes(d.bytes)} of ${bytes(total)}`),
    },
    of,
  );
  progress('');
  return answer(root, plan, record.id);
}

function layoutOf(given: string | undefined): Layout {
  const known = findLayout(dataFolder(), given ?? shippedLayouts[0]!.id);
  if (known) return known;
  const file = absolute(given!);
  if (!fs.existsSync(toSystem(file)))
    throw new AppError(
      'not-found',
      `There is no layout “${given}”. Known are ${shippedLayouts.map((l) => l.id).join(', ')}, or a text file with one folder per line.`,
    );
  return readLayout(fs.readFileSync(toSystem(file), 'utf8'), 'imported', 'Imported layout');
}

export const planVerbs: Record<string, Verb> = {
  new: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const request = {
        parent: absolute(call.words[0]!),
        name: call.words[1]!,
        layout: layoutOf(text(call, 'layout')),
        without: (call.flags.without as string[] | undefined) ?? [],
      };
      const { root, plan } = await planNew(request);
      return answer(root, plan, call.yes ? (await createWorkspace(request)).record.id : null);
    },
  },
  adopt: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const at = absolute(call.words[0]!);
      if ((await diskOutside.kind(at)) !== 'folder') throw new AppError('not-found', `${at} is no folder.`);
      const holder = await rootOf(at);
      const isDamaged = holder === at && (await markerDamage(at)) !== null;
      if (holder !== null && !isDamaged)
        throw new AppError(
          holder === at ? 'exists' : 'inside-workspace',
          holder === at ? `${at} is a workspace already.` : `${at} lies inside the workspace ${holder}.`,
        );
      const { plan } = await (
        await import('@/core/plans/planAdopt')
      ).planAdopt(plainFolder(at), {
        name: text(call, 'name') ?? nameOf(at),
        layout: layoutOf(text(call, 'layout')),
        without: (call.flags.without as string[] | undefined) ?? [],
        homes: {},
        tidy: call.flags.tidy === true,
        replacesMarker: isDamaged,
        created: new Date().toISOString(),
        onFile: (n, path) => progress(`${n} files … ${path}`),
      });
      progress('');
      return carryOut(call, at, plan);
    },
  },
  rename: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const at = absolute(call.words[0]!);
      let root = text(call, 'root');
      if (root === undefined && (await rootOf(at)) === null && (await diskOutside.kind(at)) !== null) {
        root = await renameRoot(at);
        process.stderr.write(
          `This lies in no workspace. Taken for the root: ${root}, the nearest folder that holds all that names it; --root DIR takes another.\n`,
        );
      }
      const workspace = await workspaceOf(call.words[0]!, root);
      const path = inRoot(workspace, call.words[0]!);
      if (path === '')
        throw new AppError('bad-request', 'The root itself is renamed in the application, under Workspaces.');
      const given = call.words[1]!.replaceAll('\\', '/').replace(/\/+$/, '');
      const to = given.includes('/') ? inRoot(workspace, call.words[1]!) : join(folderOf(path), given);
      return carryOut(
        call,
        workspace.root,
        await (await import('@/core/plans/planMove')).planMove(workspace, [{ path, to }]),
      );
    },
  },
  bring: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const into = text(call, 'into');
      if (into === undefined) throw new AppError('bad-request', 'Say where to: --into DIR.');
      const workspace = await realWorkspaceOf(into);
      const files = call.words.map(absolute);
      for (const file of files)
        if ((await workspace.outside.kind(file)) !== 'file')
          throw new AppError('not-found', `${file} is no file.`);
      return carryOut(
        call,
        workspace.root,
        await (await import('@/core/plans/planBring')).planBring(workspace, { files }),
      );
    },
  },
  repath: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!, text(call, 'root'));
      const { scenes, unread } = await scenesOf(workspace, call.words);
      const glob = text(call, 'match');
      const matches = glob === undefined ? undefined : globTest(glob);
      return carryOut(
        call,
        workspace.root,
        withNotes(await planRepath(workspace, { scenes, change: changeOf(call), match: matches }), unread),
      );
    },
  },
  relink: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const search = (call.flags.search as string[] | undefined)?.map(absolute) ?? [];
      for (const folder of search)
        if ((await workspace.outside.kind(folder)) !== 'folder')
          throw new AppError('not-found', `${folder} is no folder.`);
      return carryOut(
        call,
        workspace.root,
        await (await import('@/core/plans/planRelink')).planRelink(workspace, { search }),
      );
    },
  },
  'put-back': {
    schema: async () => (await import('@/wire/results')).putBackResult,
    async run(call) {
      const [dir, ...ids] = call.words;
      const at = absolute(dir!);
      const root = (await rootOf(at)) ?? at;
      const places = await recordsAbout(root, dataFolder());
      const done: z.infer<typeof putBackResult>['done'] = [];
      const found: OpenEntry[] = [];
      for (const of of places) {
        const open = (await openEntries(of)).filter((o) => ids.length === 0 || ids.includes(o.id));
        found.push(...open);
        if (call.yes && call.flags.leave)
          for (const o of open) {
            await leaveAsIs(of, o.id);
            done.push({ id: o.id, title: o.title ?? o.id, how: 'left', left: [], stuck: [] });
          }
        else if (call.yes && open.length > 0)
          done.push(...(await settle(of, new Set(open.map((o) => o.id)))));
      }
      const still = call.yes ? (await Promise.all(places.map(openEntries))).flat() : found;
      const lines = call.yes
        ? done.map(
            (d) =>
              `${d.how}: ${d.title}${[...d.left, ...d.stuck.map((s) => `${s.path} (${s.why})`)].map((l) => `\n  ${l}`).join('')}`,
          )
        : found.map((o) => `${o.why}: ${o.title ?? ''} ${o.id}`);
      const fine = new Set(['put-back', 'done', 'left']);
      return {
        json: { root, open: still, done },
        text: () =>
          lines.length === 0
            ? 'Nothing is unfinished.'
            : [...lines, ...(call.yes ? [] : ['Nothing was changed. Add --yes to put it back.'])].join('\n'),
        findings: call.yes ? done.some((d) => !fine.has(d.how) || d.left.length > 0) : found.length > 0,
      };
    },
  },
  undo: {
    schema: async () => (await import('@/wire/results')).planResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const { root } = workspace;
      const id = call.words[1]!;
      const places = await recordsAbout(root, dataFolder());
      const journal = (of: Records) =>
        toSystem(`${of.records}/${journalFolder}/${id.replace(/[^\w-]/g, '')}.jsonl`);
      const of = places.find((p) => fs.existsSync(journal(p))) ?? places[0]!;
      const { planUndoOf } = await import('@/server/workspaces/ledger');
      const { followBack } = await import('@/core/plans/followBack');
      const undo = await planUndoOf(of, id);
      return carryOut(call, root, of === places[0] ? await followBack(workspace, undo) : undo, of);
    },
  },
};

/** A plan with what could not be read named. */
function withNotes(plan: Plan, unread: readonly Problem[]): Plan {
  const notes = unread.map((p) => ({ level: 'warning' as const, code: 'unread', message: p.message }));
  return { ...plan, notes: [...plan.notes, ...notes] };
}

function changeOf(call: Call): Repath {
  const [map, from, to] = [text(call, 'map'), text(call, 'from'), text(call, 'to')];
  const ways = [
    map !== undefined,
    from !== undefined || to !== undefined,
    call.flags.relative === true,
    call.flags.absolute === true,
  ].filter(Boolean).length;
  if (ways !== 1)
    throw new AppError(
      'bad-request',
      'Say one of --map FILE.json, --from HEAD --to HEAD, --relative, --absolute.',
    );
  if (call.flags.relative) return { how: 'relative' };
  if (call.flags.absolute) return { how: 'absolute' };
  if (map !== undefined) {
    const parsed = z
      .record(z.string(), z.string())
      .safeParse(JSON.parse(fs.readFileSync(toSystem(absolute(map)), 'utf8')));
    if (!parsed.success)
      throw new AppError('bad-request', `${map} must be a JSON object of old head to new head.`);
    return { how: 'heads', heads: Object.entries(parsed.data).map(([f, t]) => ({ from: f, to: t })) };
  }
  if (from === undefined || to === undefined)
    throw new AppError('bad-request', '--from and --to go together.');
  return { how: 'heads', heads: [{ from, to }] };
}
