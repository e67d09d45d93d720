// Verbs that look and tell: references, versions, the ledger; and those about bags.

import { machineOf } from '@/core/bags/machine';
import { AppError } from '@/core/errors';
import { bytes } from '@/core/text/figures';
import { settingOf } from '@/core/plans/workspace';
import { isReady } from '@/core/references/resolve';
import { followChain, reportScenes, scan, type SceneReport } from '@/core/references/scan';
import { inTurn, refsText, RefsCount, type RefsSummary } from './refs';

import { dataFolder } from '@/server/dataFolder';
import { recordsAbout } from '@/server/workspaces/shelf';
import { hasMarker } from '@/server/workspaces/open';
import { absolute, progress, table, text, type Verb } from './call';
import { realWorkspaceOf, scenesOf, workspaceOf } from './where';

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
  pack: {
    schema: async () => (await import('@/wire/results')).packResult,
    async run(call) {
      const to = text(call, 'to');
      if (to === undefined) throw new AppError('bad-request', 'Say where to: --to FILE.zip or --to DIR.');
      const workspace = await realWorkspaceOf(call.words[0]!);
      let references = 0;
      let ready = 0;
      for await (const report of scan(workspace.tree, settingOf(workspace)))
        for (const r of report.references) {
          references++;
          if (isReady(r)) ready++;
        }
      const packed = await (
        await import('@/server/bags/pack')
      ).pack(workspace.root, absolute(to), {
        onProgress: (d) => progress(`${d.files} files, ${bytes(d.bytes)}`),
      });
      progress('');
      const lines = [`Packed ${packed.files} files (${bytes(packed.bytes)}) to ${packed.bag}.`];
      if (ready < references)
        lines.push(
          `${references - ready} of ${references} references would not open on another machine; rehearse the bag to see which.`,
        );
      for (const { path: left, why } of packed.leftOut) lines.push(`Left out: ${left}: ${why}.`);
      return {
        json: { ...packed, references, ready },
        text: () => lines.join('\n'),
        findings: ready < references || packed.leftOut.length > 0,
      };
    },
  },
  verify: {
    schema: async () => (await import('@/wire/results')).verifyResult,
    async run(call) {
      const result = await (
        await import('@/server/bags/verify')
      ).verify(absolute(call.words[0]!), {
        onProgress: (d) => progress(`${d.files} files, ${bytes(d.bytes)}`),
      });
      progress('');
      const valid = result.problems.length === 0;
      const lines = valid
        ? [
            `Valid: ${result.files} files (${bytes(result.bytes)}), every ${result.algorithms.join(' and ')} checksum matches.`,
          ]
        : result.problems.map((p) => p.message);
      return { json: { ...result, valid }, text: () => lines.join('\n'), findings: !valid };
    },
  },
  unpack: {
    schema: async () => (await import('@/wire/results')).unpackResult,
    async run(call) {
      const to = text(call, 'to');
      if (to === undefined) throw new AppError('bad-request', 'Say where to: --to DIR.');
      const result = await (
        await import('@/server/bags/unpack')
      ).unpack(absolute(call.words[0]!), absolute(to), {
        onProgress: (d) => progress(`${d.files} files, ${bytes(d.bytes)}`),
      });
      progress('');
      const isWorkspace = await hasMarker(result.root);
      return {
        json: { ...result, isWorkspace },
        text: () => `Unpacked ${result.files} files (${bytes(result.bytes)}) to ${result.root}.`,
        findings: false,
      };
    },
  },
  rehearse: {
    schema: async () => (await import('@/wire/results')).rehearseResult,
    async run(call) {
      const place = machineOf(text(call, 'as'), text(call, 'at'), text(call, 'drive'));
      const result = await (
        await import('@/server/bags/rehearsal')
      ).rehearsePath(absolute(call.words[0]!), place);
      const { failures, ...rest } = result;
      const lines = [result.sentence, table(failures.map((f) => ['', f.path, f.written ?? '', f.message]))];
      const json = {
        ...rest,
        place: { id: result.place.id, name: result.place.name, root: result.place.root },
        opens: failures.length === 0,
        failures,
      };
      return { json, text: () => lines.filter(Boolean).join('\n'), findings: failures.length > 0 };
    },
  },
};
