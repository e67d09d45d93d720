// collect: everything that scenes need, into a new folder with a report.

import fs from 'node:fs';
import { AppError } from '@/core/errors';
import type { Rule } from '@/core/collect/placement';
import { byKind, readSceneList } from '@/core/collect/rules';
import { reportNames } from '@/core/collect/report';
import { blockers, bytesToWrite } from '@/core/changes/plan';
import { bytes } from '@/core/text/figures';
import type { Homes } from '@/core/layouts/homes';
import { dataFolder } from '@/server/dataFolder';
import { toSystem } from '@/server/disk/system';
import { readPreset } from '@/wire/collect';
import { absolute, progress, text, type Call, type Verb } from './call';
import { planText, shownPlan } from './plans';
import { sayUnfinished, scenesOf, workspaceOf } from './where';

function ruleOf(given: string | undefined, homes: Homes): { rule: Rule; exclude: string[] } {
  if (given === undefined || given === 'by-kind') return { rule: byKind(homes), exclude: [] };
  if (given === 'mirror') return { rule: { by: 'mirror' }, exclude: [] };
  const kept = /^keep-(\d{1,2})$/.exec(given);
  if (kept) return { rule: { by: 'tail', folders: Number(kept[1]) }, exclude: [] };
  const file = absolute(given);
  if (!fs.existsSync(toSystem(file)))
    throw new AppError(
      'bad-request',
      `There is no layout “${given}”: known are by-kind, mirror, keep-N, or a file (docs/collect-preset.schema.json).`,
    );
  const preset = readPreset(fs.readFileSync(toSystem(file), 'utf8'), given);
  return { rule: preset.rule ?? byKind(homes), exclude: preset.exclude };
}

/** Words of a call, lists of scenes (.txt) read: a path a line, measured from the list's folder; lines that begin with # are passed over. */
function wordsOf(call: Call): string[] {
  return call.words.flatMap((word) => {
    if (!word.toLowerCase().endsWith('.txt')) return [word];
    const list = absolute(word);
    if (!fs.existsSync(toSystem(list))) throw new AppError('not-found', `${list} is not there.`);
    const folder = list.slice(0, list.lastIndexOf('/'));
    return readSceneList(fs.readFileSync(toSystem(list), 'utf8'), folder);
  });
}

export const collectVerbs: Record<string, Verb> = {
  collect: {
    schema: async () => (await import('@/wire/results')).collectResult,
    async run(call) {
      const given = text(call, 'to');
      if (given === undefined) throw new AppError('bad-request', 'Say where to: --to DIR.');
      const words = wordsOf(call);
      if (words.length === 0) throw new AppError('bad-request', 'The list names no scene.');
      const workspace = await workspaceOf(words[0]!);
      const { scenes, unread } = await scenesOf(workspace, words);
      if (scenes.length === 0) throw new AppError('not-found', 'There is no scene to collect.');
      const { rule, exclude } = ruleOf(text(call, 'layout'), workspace.file.homes);
      const { planCollecting, collect, planReportOnly, drawWithin } =
        await import('@/server/workspaces/collect');
      const { recordsOf } = await import('@/server/workspaces/shelf');
      // What the user names is his own.
      const draw = drawWithin(null);
      const to = absolute(given);
      await sayUnfinished(to);
      const collecting = await planCollecting(workspace, {
        chosen: scenes.map((s) => `${workspace.root === '/' ? '' : workspace.root}/${s}`),
        rule,
        excluded: [...exclude, ...((call.flags.exclude as string[] | undefined) ?? [])].map(absolute),
        to,
        records: recordsOf(dataFolder(), to),
        usedOnly: call.flags['used-only'] === true,
        name: words.length === 1 && absolute(words[0]!) === workspace.root ? workspace.file.name : undefined,
        onFile: (n, path) => progress(`${n} files … ${path}`),
      });
      progress('');
      const notes = unread.map((p) => ({ level: 'warning' as const, code: 'unread', message: p.message }));
      const plan = { ...collecting.plan, notes: [...collecting.plan.notes, ...notes] };
      const reportOnly = call.flags['report-only'] === true;
      const isDone = call.yes && blockers(plan).length === 0;
      let applied: string | null = null;
      const of = bytesToWrite(plan);
      if (isDone) {
        const todo = reportOnly
          ? { to, plan: await planReportOnly(collecting, draw), draft: null, marker: null }
          : { ...collecting, plan };
        const { record } = await collect(todo, recordsOf(dataFolder(), to), {
          draw,
          onProgress: (d) =>
            progress(`${d.steps} of ${plan.steps.length} steps, ${bytes(d.bytes)} of ${bytes(of)}`),
        });
        if (!reportOnly) applied = record.id;
      }
      progress('');
      const shown = reportOnly ? { ...plan, steps: [], paths: [] } : plan;
      const report = isDone ? `${to}/${reportNames.page}` : null;
      return {
        json: { root: to, plan: shownPlan(shown), applied, report },
        text: () =>
          reportOnly
            ? [
                ...shown.notes.map((n) => n.message),
                report ?? 'Nothing was written. Add --yes to write the report.',
              ].join('\n')
            : `${planText(to, plan, applied)}${report === null ? '' : `\nWhat is in it says ${report}`}`,
        findings: plan.notes.some((n) => n.level !== 'info'),
      };
    },
  },
};
