// Verbs about backups: taken, listed, given back, proven, healed, cleared; finished work moved off and brought back.

import path from 'node:path';
import { readRule, usualRule, writeRule } from '@/core/backups/thinning';
import { summaryOf, type SnapshotMade } from '@/core/backups/snapshot';
import { AppError } from '@/core/errors';
import { bytes, count, exactTime } from '@/core/text/figures';
import type { Proof } from '@/server/backups/prove';
import { hasMarker, readWorkspace } from '@/server/workspaces/open';
import { absolute, progress, table, text, type Call, type Verb } from './call';
import { ownParts } from './parts';

const results = () => import('@/wire/backups');

function needed(call: Call, flag: string, say: string): string {
  const value = text(call, flag);
  if (value === undefined) throw new AppError('bad-request', say);
  return absolute(value);
}

const onFile = (d: { files: number; bytes: number; path: string }) =>
  progress(`${d.files} files, ${bytes(d.bytes)}`);

const rowOf = (s: SnapshotMade) => [
  s.id,
  exactTime(Date.parse(s.time)),
  s.name,
  count(s.files, 'file'),
  bytes(s.bytes),
  `${bytes(s.added)} new`,
  s.unread > 0 ? `${s.unread} not read` : '',
];

function proofText(proof: Proof): string {
  const lines = [
    proof.spoilt.length + proof.records.length === 0
      ? `Right: every byte of ${count(proof.contents, 'content')} (${bytes(proof.bytes)}).`
      : `${proof.spoilt.length} of ${count(proof.contents, 'content')} (${bytes(proof.bytes)}) are not right.`,
  ];
  for (const s of proof.spoilt)
    lines.push(
      `  ${s.how}: ${s.files.map((f) => `${f.workspace}: ${f.path}`).join(', ')}${s.count > s.files.length ? ` and ${s.count - s.files.length} more` : ''} (${bytes(s.size)}, in ${s.packs.join(', ') || 'no pack'})`,
    );
  for (const r of proof.records) lines.push(`  spoilt, both copies: ${r}`);
  return lines.join('\n');
}

export const backupVerbs: Record<string, Verb> = {
  backup: {
    schema: async () => (await results()).backupResult,
    async run(call) {
      const folder = needed(call, 'to', 'Say where to: --to FOLDER.');
      const root = absolute(call.words[0]!);
      const as = text(call, 'as') ?? 'snapshots';
      if (as === 'mirror') {
        const { mirrorTo } = await import('@/server/backups/mirror');
        const done = await mirrorTo(root, folder, { onFile });
        progress('');
        return {
          json: { as, ...done },
          text: () =>
            `Copied ${count(done.copied, 'file')} (${bytes(done.bytes)}) to ${done.folder}; ${done.same} are as they were.${done.aside > 0 ? ` ${count(done.aside, 'file')} of before lie in ${done.asideIn}.` : ''}`,
          findings: done.unread.length > 0,
        };
      }
      if (as !== 'snapshots')
        throw new AppError('bad-request', '--as is snapshots or mirror; a bag is made by satchel pack.');
      const { takeSnapshot } = await import('@/server/backups/takeSnapshot');
      const { snapshot, read } = await takeSnapshot(root, folder, {
        onFile,
        readAll: call.flags['read-all'] === true,
      });
      progress('');
      const made = summaryOf(snapshot);
      return {
        json: { as, folder, read, unreadPaths: snapshot.unread, ...made },
        text: () =>
          [
            `Snapshot ${made.id}: ${count(made.files, 'file')} (${bytes(made.bytes)}), ${read} read, ${bytes(made.added)} new.`,
            ...snapshot.unread.map((p) => `Not in it, it cannot be read: ${p}.`),
          ].join('\n'),
        findings: snapshot.unread.length > 0,
      };
    },
  },
  snapshots: {
    schema: async () => (await results()).snapshotsResult,
    async run(call) {
      const { openBackups, readSnapshots } = await import('@/server/backups/backupFolder');
      const { proofDue, readProofs } = await import('@/server/backups/prove');
      const backups = await openBackups(absolute(call.words[0]!));
      const keep = text(call, 'keep');
      const ids = (call.flags.clear as string[] | undefined) ?? [];
      if (keep !== undefined || ids.length > 0) return clear(call, keep, ids);
      const { all, damaged, halves } = await readSnapshots(backups);
      const [proof] = await readProofs(backups);
      const json = {
        folder: backups.folder,
        snapshots: all.map(summaryOf),
        damaged: damaged.map((d) => d.path),
        halves: halves.length,
        lastProof: proof ?? null,
        proofDue: proofDue(proof, backups.marker.proveEvery, all.at(-1)?.time),
      };
      const lines = [
        table(all.map((s) => rowOf(summaryOf(s)))) || 'There is no snapshot yet.',
        ...damaged.map((d) => `Spoilt, both copies: ${d.path}.`),
        ...(halves.length > 0
          ? [`Of ${count(halves.length, 'record')} one copy is spoilt: prove --heal writes it anew.`]
          : []),
        json.proofDue === null
          ? ''
          : `Every byte is to be proven ${proof ? 'again ' : ''}by ${json.proofDue.slice(0, 10)}.`,
      ];
      return {
        json,
        text: () => lines.filter(Boolean).join('\n'),
        findings: damaged.length + halves.length > 0,
      };
    },
  },
  'give-back': {
    schema: async () => (await results()).giveBackResult,
    async run(call) {
      const to = needed(call, 'to', 'Say where to: --to EMPTY-FOLDER.');
      const { openBackups } = await import('@/server/backups/backupFolder');
      const { giveBack } = await import('@/server/backups/giveBack');
      const [folder, id, ...paths] = call.words;
      const backups = await openBackups(absolute(folder!));
      const given = await giveBack(
        backups,
        id!,
        paths.map((p) => (path.sep === '\\' ? p.replaceAll('\\', '/') : p).replace(/\/+$/, '')),
        to,
        { onProgress: onFile, parts: ownParts() },
      );
      progress('');
      return {
        json: given,
        text: () =>
          [
            `Gave back ${count(given.files, 'file')} (${bytes(given.bytes)}) to ${given.root}.`,
            ...given.lost.map((l) => `Lost: ${l.path}: ${l.why}`),
          ].join('\n'),
        findings: given.lost.length > 0,
      };
    },
  },
  prove: {
    schema: async () => (await results()).proveResult,
    async run(call) {
      const at = absolute(call.words[0]!);
      const { isBackupFolder } = await import('@/server/backups/backupFolder');
      if (isBackupFolder(at)) return proveFolder(call, at);
      if (await hasMarker(at)) {
        const { proveWorkspace } = await import('@/server/backups/proveWorkspace');
        const proof = await proveWorkspace(await readWorkspace(at), { onFile: (n) => progress(`${n} read`) });
        progress('');
        const wrong = proof.spoilt.length + proof.changedBySelf.length;
        return {
          json: { of: 'workspace', ...proof },
          text: () =>
            [
              `${wrong === 0 ? 'Right: ' : ''}${count(proof.contents, 'content')} of the store and ${count(proof.files, 'file')} of the last checkpoint (${bytes(proof.bytes)})${wrong === 0 ? '.' : ` were read; ${wrong} are not right.`}`,
              ...proof.changedBySelf.map((p) => `  changed by itself: ${p}`),
              ...proof.spoilt.map((d) => `  spoilt in the store: ${d}`),
            ].join('\n'),
          findings: wrong > 0,
        };
      }
      const { verify } = await import('@/server/bags/verify');
      const result = await verify(at, { onProgress: onFile });
      progress('');
      return {
        json: { of: 'bag', ...result },
        text: () =>
          result.problems.length === 0
            ? `Right: every byte of ${count(result.files, 'file')} (${bytes(result.bytes)}).`
            : result.problems.map((p) => p.message).join('\n'),
        findings: result.problems.length > 0,
      };
    },
  },
  archive: {
    schema: async () => (await results()).archiveResult,
    async run(call) {
      const folder = needed(call, 'to', 'Say where to: --to FOLDER.');
      const root = absolute(call.words[0]!);
      const workspace = await readWorkspace(root);
      let [files, size] = [0, 0];
      for await (const f of workspace.tree.list()) {
        files++;
        size += f.size;
      }
      if (!call.yes)
        return {
          json: { applied: false, root, folder, files, bytes: size },
          text: () =>
            `${workspace.file.name}: ${count(files, 'file')} (${bytes(size)}) would be kept in ${folder}, read back there byte by byte, and only then removed here. A stub that says where it is stays. Nothing was done; apply with --yes.`,
          findings: false,
        };
      const { archiveTo } = await import('@/server/backups/archive');
      const stub = await archiveTo(root, folder, { onProgress: onFile });
      progress('');
      return {
        json: { applied: true, root, folder, files: stub.files, bytes: stub.bytes, snapshot: stub.snapshot },
        text: () =>
          `${stub.name} lies in ${stub.folder} now, snapshot ${stub.snapshot}, every byte proven; the stub stays in ${root}.`,
        findings: false,
      };
    },
  },
  'bring-back': {
    schema: async () => (await results()).giveBackResult,
    async run(call) {
      const { bringBack } = await import('@/server/backups/archive');
      const from = text(call, 'from');
      const given = await bringBack(absolute(call.words[0]!), {
        from: from === undefined ? undefined : absolute(from),
        onProgress: onFile,
      });
      progress('');
      return {
        json: given,
        text: () => `Restored ${count(given.files, 'file')} (${bytes(given.bytes)}) to ${given.root}.`,
        findings: false,
      };
    },
  },
};

async function clear(call: Call, keep: string | undefined, ids: readonly string[]) {
  const { openBackups } = await import('@/server/backups/backupFolder');
  const { byId, byRule, clearSnapshots, planClearing } = await import('@/server/backups/clear');
  const rule = keep === undefined ? null : readRule(keep);
  if (keep !== undefined && rule === null)
    throw new AppError(
      'bad-request',
      `--keep is a rule such as ${writeRule(usualRule)}: all of 2 days, then one a day for 14 days, one a week for 8 weeks, one a month for 24 months.`,
    );
  const backups = await openBackups(absolute(call.words[0]!));
  // A second word, and only with snapshots that are named.
  const givenUp = call.flags['give-up'] === true ? ids : [];
  const plan = await planClearing(backups, rule ? byRule(rule, Date.now()) : byId(ids), givenUp);
  const swept =
    call.yes && plan.going.length > 0
      ? await clearSnapshots(
          backups,
          plan.going.map((s) => s.id),
          givenUp,
        )
      : null;
  return {
    json: {
      folder: backups.folder,
      applied: swept !== null,
      ...plan,
      freed: swept === null ? 0 : swept.before - swept.after,
    },
    text: () =>
      [
        table(plan.going.map(rowOf)),
        ...plan.archived.map(
          (s) =>
            `Kept: ${s.id} is the only copy of ${s.root}, which is archived${ids.length > 0 ? ' (--give-up clears it all the same)' : ''}.`,
        ),
        plan.going.length === 0
          ? `None of ${count(plan.staying, 'snapshot')} goes by that.`
          : swept
            ? `${count(plan.going.length, 'snapshot')} went, ${plan.staying} stay; ${bytes(swept.before - swept.after)} were freed.`
            : `These ${plan.going.length} would go, ${plan.staying} stay; about ${bytes(plan.frees)} are freed. Nothing was done; apply with --yes.`,
      ]
        .filter(Boolean)
        .join('\n'),
    findings: false,
  };
}

async function proveFolder(call: Call, at: string) {
  const { openBackups } = await import('@/server/backups/backupFolder');
  const { proveBackups } = await import('@/server/backups/prove');
  const { healBackups } = await import('@/server/backups/heal');
  const backups = await openBackups(at);
  const minutes = text(call, 'minutes');
  if (minutes !== undefined && !(Number(minutes) > 0))
    throw new AppError('bad-request', `--minutes is a number above 0, not “${minutes}”.`);
  const {
    proof,
    bytes: done,
    bytesTotal,
    unkept,
  } = await proveBackups(backups, {
    anew: call.flags.anew === true,
    ...(minutes === undefined ? {} : { budget: Number(minutes) * 60_000 }),
    onProgress: (d) => progress(`${bytes(d.bytes)} of ${bytes(d.bytesTotal)}`),
  });
  progress('');
  if (!proof)
    return {
      json: {
        of: 'backups',
        folder: at,
        done: false,
        bytes: done,
        bytesTotal,
        proof: null,
        unkept,
        healed: null,
      },
      text: () =>
        `${bytes(done)} of ${bytes(bytesTotal)} are proven; ${unkept === null ? 'it goes on from there the next time' : `that could not be kept there (${unkept})`}.`,
      findings: false,
    };
  const from = ((call.flags.from as string[] | undefined) ?? []).map(absolute);
  const healed =
    call.flags.heal === true ? await healBackups(backups, proof.spoilt, { from, onProgress: onFile }) : null;
  const left = healed ? healed.left.length : proof.spoilt.length;
  return {
    json: { of: 'backups', folder: at, done: true, bytes: done, bytesTotal, proof, unkept, healed },
    text: () =>
      [
        proofText(proof),
        ...(unkept === null ? [] : [`The result could not be kept there: ${unkept}`]),
        ...(healed?.healed.map((h) => `  healed from ${h.from}: ${h.files.map((f) => f.path).join(', ')}`) ??
          []),
        ...(healed && healed.records > 0
          ? [`  ${count(healed.records, 'record')} written anew from the other copy.`]
          : []),
        ...(healed && left > 0 ? [`${left} could not be healed: nobody has them right.`] : []),
      ].join('\n'),
    findings: left + proof.records.length > 0,
  };
}
