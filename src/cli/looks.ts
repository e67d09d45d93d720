// Verbs that look and tell: references, the ledger.

import { settingOf } from '@/core/plans/workspace';
import { followChain, reportScenes, type SceneReport } from '@/core/references/scan';
import { inTurn, refsText, RefsCount, type RefsSummary } from './refs';

import { dataFolder } from '@/server/dataFolder';
import { recordsAbout } from '@/server/workspaces/shelf';
import { table, text, type Verb } from './call';
import { scenesOf, workspaceOf } from './where';

function readable(scenes: readonly SceneReport[], s: RefsSummary): string {
  const lines: string[] = [];
  for (const scene of scenes) {
    if (scene.references.length + scene.problems.length === 0) continue;
    lines.push(
      `${scene.path}  (${scene.format})`,
      table(
        scene.references.map((r) => [
          '',
          r.state,
          r.written,
          [
            r.target && r.target !== r.written ? `→ ${r.target}` : '',
            r.targets > 1
              ? `(${r.targets} files${r.gaps.length > 0 ? `, missing: ${r.gaps.slice(0, 8).join(' ')}${r.gaps.length > 8 ? ' …' : ''}` : ''})`
              : '',
          ]
            .filter(Boolean)
            .join(' '),
        ]),
      ),
    );
    for (const p of scene.problems) lines.push(`  problem: ${p.message}`);
  }
  lines.push(
    '',
    `${s.references} references in ${s.scenes} scenes: ${
      Object.entries(s.byState)
        .map(([k, n]) => `${n} ${k}`)
        .join(', ') || 'none'
    }${s.problems ? `; ${s.problems} problems` : ''}.`,
  );
  return lines.filter((l, i) => l !== '' || i > 0).join('\n');
}

export const lookVerbs: Record<string, Verb> = {
  refs: {
    schema: async () => (await import('@/wire/results')).refsResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!, text(call, 'root'));
      const setting = settingOf(workspace);
      const { scenes, unread } = await scenesOf(workspace, call.words);
      const count = new RefsCount();
      count.addUnread(unread.length);
      for (const p of unread) process.stderr.write(`${p.message}\n`);
      const reports = call.flags.follow
        ? inTurn(await followChain(workspace.tree, workspace.outside, setting, scenes))
        : reportScenes(workspace.tree, setting, scenes);
      const read: SceneReport[] = [];
      if (!call.json)
        for await (const report of reports) {
          count.add(report);
          read.push(report);
        }
      return {
        json: null,
        parts: refsText(workspace.root, reports, count),
        text: () => readable(read, count.summary),
        get findings() {
          return count.findings;
        },
      };
    },
  },
  ledger: {
    schema: async () => (await import('@/wire/results')).ledgerResult,
    async run(call) {
      const workspace = await workspaceOf(call.words[0]!);
      const { readLedger } = await import('@/server/workspaces/ledger');
      const places = await recordsAbout(workspace.root, dataFolder());
      const entries = (await Promise.all(places.map(readLedger))).flat();
      return {
        json: { root: workspace.root, entries },
        text: () =>
          table(
            entries.map((e) => [
              e.id,
              e.time.slice(0, 19).replace('T', ' '),
              e.state,
              e.title,
              e.touched.slice(0, 2).join(', ') + (e.files > 2 ? ' …' : ''),
            ]),
          ) || 'Nothing was done yet.',
        findings: entries.some((e) => e.left.length > 0),
      };
    },
  },
};
