// Verbs about what is handed in and what arrives.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { usualChoice } from '@/core/bags/travelling';
import { bytes, count } from '@/core/text/figures';
import { planArriveAgain, type AgainChoice, type AgainFile } from '@/core/plans/planArriveAgain';
import { dataFolder } from '@/server/dataFolder';
import { diskOutside } from '@/server/disk/diskOutside';
import { fromSystem, toSystem } from '@/server/disk/system';
import type { HeadMap } from '@/server/arrive/heads';
import type { HandInView } from '@/wire/handIn';
import { checkNew, writeNew } from './newFile';
import { ownParts } from './parts';
import { absolute, progress, table, text, type Call, type Verb } from './call';

function textOf(file: string): string {
  try {
    return fs.readFileSync(toSystem(file), 'utf8');
  } catch {
    throw new AppError('not-found', `${file} is not there, or cannot be read.`);
  }
}

function reportOf(view: HandInView): string {
  const lines = [`${view.name}: ${view.sentence}`];
  for (const p of view.points) {
    lines.push(`  ${p.ok ? 'met' : 'NOT '}  ${p.asked}`);
    for (const f of p.found.slice(0, 10)) lines.push(`         ${f.path ? `${f.path} ` : ''}${f.message}`);
    if (p.found.length > 10) lines.push(`         and ${p.found.length - 10} more`);
  }
  return lines.join('\n');
}

/** Heads as they are said on the command line: FROM=TO. */
function headsOf(call: Call) {
  return ((call.flags.map as string[] | undefined) ?? []).map((m) => {
    const cut = m.indexOf('=', 1);
    if (cut < 0)
      throw new AppError('bad-request', `--map says FROM=TO, as E:/=/media/stick; “${m}” does not.`);
    return { from: m.slice(0, cut), to: absolute(m.slice(cut + 1)) };
  });
}

export const arriveVerbs: Record<string, Verb> = {
  'hand-in': {
    schema: async () => (await import('@/wire/results')).handInResult,
    async run(call) {
      const listFile = text(call, 'list');
      if (listFile === undefined) throw new AppError('bad-request', 'Say what was asked: --list FILE.json.');
      const at = absolute(call.words[0]!);
      const { readHandInList } = await import('@/wire/handIn');
      const list = readHandInList(textOf(absolute(listFile)), absolute(listFile));
      const { checkAll, checkDelivery, handInTable } = await import('@/server/handIn/checkDelivery');
      const options = {
        temporary: fromSystem(os.tmpdir()),
        onFile: (n: number, p: string) => progress(`${n} ${p}`),
      };
      if (call.flags.each) {
        const csv = text(call, 'csv');
        if (csv !== undefined) checkNew(absolute(csv));
        const all = await checkAll(at, list, options);
        progress('');
        if (csv !== undefined) writeNew(absolute(csv), handInTable(all));
        const met = all.filter((h) => h.ok).length;
        return {
          json: { list: list.name, deliveries: all },
          text: () =>
            [
              table(all.map((h) => [h.ok ? 'met' : 'NOT', h.name, h.sentence])),
              `${met} of ${count(all.length, 'delivery', 'deliveries')} meet the list.`,
            ]
              .filter(Boolean)
              .join('\n'),
          findings: met < all.length,
        };
      }
      const view = await checkDelivery(at, list, options);
      progress('');
      if (view.error !== null) throw new AppError('bad-request', view.error);
      const to = text(call, 'to');
      const packed =
        to === undefined || (!view.ok && !call.flags.anyway)
          ? null
          : await packWith(at, absolute(to), view, textOf(absolute(listFile)));
      return {
        json: { list: list.name, ...view, bag: packed },
        text: () =>
          [
            reportOf(view),
            packed
              ? `Packed to ${packed}, with this report in it.`
              : to === undefined
                ? ''
                : 'Nothing was packed: what was asked is not met (--anyway packs all the same).',
          ]
            .filter(Boolean)
            .join('\n'),
        findings: !view.ok,
      };
    },
  },
  arrive: {
    schema: async () => (await import('@/wire/results')).arriveResult,
    async run(call) {
      const target = text(call, 'to');
      if (target === undefined) throw new AppError('bad-request', 'Say where to: --to DIR.');
      const [at, to] = [absolute(call.words[0]!), absolute(target)];
      const { recogniseArrival, wrongPlaceOf } = await import('@/server/arrive/recognise');
      const { rememberedHeads, rememberHeads } = await import('@/server/arrive/heads');
      const what = await recogniseArrival(at);
      const wrong = await wrongPlaceOf(to);
      if (wrong) process.stderr.write(`${wrong.message}\n`);
      const given = headsOf(call);
      const heads =
        given.length > 0 && call.yes ? rememberHeads(dataFolder(), given) : rememberedHeads(dataFolder());
      const { hasMarker } = await import('@/server/workspaces/open');
      if (fs.existsSync(toSystem(to)) && (await hasMarker(to))) return again(call, at, to, heads);
      if (!call.yes) {
        const { verify } = await import('@/server/bags/verify');
        const problems = what.kind === 'bag' ? (await verify(at)).problems : [];
        return {
          json: { applied: false, ...what, to, problems },
          text: () =>
            [
              `${nameOfKind[what.kind]} with ${count(what.files, 'file')} (${bytes(what.bytes)}) would arrive in ${to}.`,
              ...problems.map((p) => p.message),
              'Nothing was written; apply with --yes.',
            ].join('\n'),
          findings: problems.length > 0,
        };
      }
      const { arrive } = await import('@/server/arrive/arrive');
      const arrived = await arrive(what, to, {
        heads,
        repair: true,
        parts: ownParts(),
        onProgress: (d) => progress(`${d.files} files, ${bytes(d.bytes)}`),
      });
      progress('');
      const lines = [
        `Arrived in ${arrived.root}: ${count(arrived.files, 'file')} (${bytes(arrived.bytes)}). ${arrived.sentence}`,
        ...arrived.missing.slice(0, 40).map((m) => `  ${m.state}: ${m.scene}: ${m.written}`),
        ...notCopiedLines(arrived.left),
        ...arrived.bundles.whole.map(
          (b) => `${b.path} still holds many files in one${b.why === null ? '' : `: ${b.why}`}`,
        ),
        ...arrived.unknownHeads.map(
          (h) => `${h.name} lay at ${h.path} there; say where it is here: --map ${h.path}=FOLDER.`,
        ),
        ...(arrived.isWorkspace ? [] : [`It is no workspace yet: satchel adopt ${arrived.root}`]),
        ...(arrived.scenes[0] === undefined ? [] : [`Open first: ${arrived.root}/${arrived.scenes[0]}`]),
      ];
      return {
        json: { applied: true, ...arrived },
        text: () => lines.join('\n'),
        findings: arrived.missing.length > 0,
      };
    },
  },
};

const leftAtMost = 40;

/** Lines for the files that could not be copied. */
const notCopiedLines = (left: readonly { path: string; why: string }[]): string[] => [
  ...left.slice(0, leftAtMost).map((l) => `Not copied: ${l.path}: ${l.why.replace(/\.$/, '')}.`),
  ...(left.length > leftAtMost ? [`and ${left.length - leftAtMost} more.`] : []),
];

const nameOfKind = { bag: 'A bag', zip: 'A ZIP', workspace: 'A workspace', folder: 'A folder' } as const;

/** Packs what was checked, with the list and the result as tag files. */
async function packWith(at: string, to: string, view: HandInView, list: string): Promise<string> {
  const { handInTags } = await import('@/server/handIn/tags');
  const tags = handInTags(view, list);
  const { hasMarker, readWorkspace } = await import('@/server/workspaces/open');
  if (await hasMarker(at)) {
    const { packWorkspace } = await import('@/server/bags/packWorkspace');
    return (
      await packWorkspace(await readWorkspace(at), to, {
        choice: usualChoice,
        moreTags: tags,
        parts: ownParts(),
      })
    ).bag;
  }
  const { pack } = await import('@/server/bags/pack');
  return (await pack(at, to, { tags: () => Promise.resolve(tags), parts: ownParts() })).bag;
}

const says: Record<AgainFile['is'], string> = {
  new: 'new there',
  same: 'the same',
  theirs: 'changed there',
  ours: 'changed here',
  both: 'changed on both sides',
  gone: 'taken away there',
  added: 'only here',
};

/** What came is another state of the workspace that lies there already. */
async function again(call: Call, at: string, to: string, heads: readonly HeadMap[]) {
  const { receiveAgain, settleSecondDelivery } = await import('@/server/arrive/again');
  const { mayBeACopy } = await import('@/server/arrive/lineage');
  const { recogniseArrival } = await import('@/server/arrive/recognise');
  const temporary = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-arrive-'));
  try {
    const {
      from: incoming,
      left: behind,
      files,
      isSameLine,
    } = await receiveAgain(await recogniseArrival(at), to, fromSystem(temporary), { parts: ownParts() });
    const others = files.filter((f) => f.is !== 'same');
    const way = text(call, 'both') ?? 'ours';
    if (!['ours', 'theirs', 'beside'].includes(way))
      throw new AppError(
        'bad-request',
        '--both is ours, theirs or beside: what becomes of files that were changed on both sides.',
      );
    const choices = new Map<string, AgainChoice>();
    for (const f of others)
      if (f.is === 'new' || f.is === 'theirs' || (f.is === 'both' && way === 'theirs'))
        choices.set(f.path, 'take');
      else if (f.is === 'both' && way === 'beside') choices.set(f.path, 'beside');
    let entry: string | null = null;
    let settled: Awaited<ReturnType<typeof settleSecondDelivery>> | null = null;
    const isConfirmed = isSameLine || call.flags['same-work'] === true;
    if (call.yes && !isConfirmed) throw mayBeACopy(to);
    if (call.yes && choices.size > 0) {
      const { readWorkspace } = await import('@/server/workspaces/open');
      const { applyPlan } = await import('@/server/workspaces/changing');
      entry = (
        await applyPlan(to, await planArriveAgain(await readWorkspace(to), incoming, choices, diskOutside))
      ).id;
      settled = await settleSecondDelivery(to, incoming, { heads });
    }
    const left = others.filter((f) => f.is === 'both' && !choices.has(f.path)).length;
    return {
      json: {
        applied: entry !== null,
        again: true,
        isSameLine,
        root: to,
        entry,
        files: others.map((f) => ({ ...f, taken: choices.get(f.path) ?? null })),
        same: files.length - others.length,
        left: behind,
        settled: settled && {
          sentence: settled.sentence,
          missing: settled.missing.length,
          repaired: settled.repaired?.entry ?? null,
        },
      },
      text: () =>
        [
          `${to} is this workspace already; ${count(files.length - others.length, 'file')} are the same.`,
          table(
            others.map((f) => [
              '',
              says[f.is],
              f.path,
              choices.has(f.path)
                ? choices.get(f.path) === 'take'
                  ? 'taken over'
                  : 'put beside'
                : 'left as it is',
            ]),
          ),
          ...notCopiedLines(behind),
          entry !== null
            ? `Done: ledger entry ${entry}. ${settled?.sentence ?? ''}`
            : choices.size === 0
              ? 'There is nothing to take over.'
              : isConfirmed
                ? 'Nothing was written; apply with --yes.'
                : `Nothing was written. The delivery may be separate work that began as a copy of ${to}: the two folders have not exchanged deliveries before. If both are the same work, apply with --same-work --yes.`,
        ]
          .filter(Boolean)
          .join('\n'),
      findings: left > 0,
    };
  } finally {
    fs.rmSync(temporary, { recursive: true, force: true });
  }
}
