// All workspaces seen at once: who works where, what is due, who uses a file anywhere.

import { mostUses, readAbove, readUses, type AboveView } from '@/wire/routes/above';
import { isAllowed } from '../allowed';
import { allTargets } from '../backups/targets';
import { whoUses } from '../database/anywhereQueries';
import type { Hub } from '../hub';
import { endpoint } from './handle';
import { seenOf, workspacesSeen } from './workspaceView';

type Proof = NonNullable<AboveView['proof']>;

/** The state of the proofs of folders of backups; each is looked at once, and only where who asks may. */
async function proofsOf(h: Hub, folders: readonly string[]): Promise<Map<string, Proof>> {
  const looked = await Promise.all(
    [...new Set(folders)].map(async (folder): Promise<Proof | null> => {
      if (!(await isAllowed(h, folder))) return null;
      // A drive that does not answer has nothing to say.
      const state = await h.ask('proofState', folder).catch(() => null);
      return (
        state && { folder, spoilt: state.spoilt, due: state.due === null ? null : Date.parse(state.due) }
      );
    }),
  );
  return new Map(looked.flatMap((p) => (p ? [[p.folder, p]] : [])));
}

const pressing = (a: Proof, b: Proof) => b.spoilt - a.spoilt || (a.due ?? Infinity) - (b.due ?? Infinity);

export const aboveEndpoints = [
  endpoint(readAbove, async (h) => {
    const rows = await workspacesSeen(h);
    const targets = await allTargets(h);
    const foldersOf = (id: string) =>
      (targets.get(id) ?? []).flatMap((t) => (t.as === 'snapshots' ? [t.folder] : []));
    const [proofs, work] = await Promise.all([
      proofsOf(
        h,
        rows.flatMap((row) => foldersOf(row.id)),
      ),
      h.ask(
        'atWork',
        rows.map((row) => row.root),
      ),
    ]);
    const jobs = h.jobs.list().filter((j) => j.ended === null);
    return rows.map(({ id }, i): AboveView => {
      const { last, holds } = work[i] ?? { last: null, holds: [] };
      return {
        id,
        last: last && { ...last, time: Date.parse(last.time) },
        holds: holds.map(({ scene, by, since }) => ({ scene, by, since: Date.parse(since) })),
        jobs: jobs
          .filter((j) => j.workspace === id)
          .map((j) => ({ title: j.title, by: j.who ?? null, started: j.started })),
        proof:
          foldersOf(id)
            .flatMap((folder) => proofs.get(folder) ?? [])
            .sort(pressing)[0] ?? null,
      };
    });
  }),
  endpoint(readUses, async (h, { text }) => {
    const workspaces = (await workspacesSeen(h)).map((row) => ({
      ...row,
      references: seenOf(row)?.references ?? 0,
    }));
    const { by, rows } = await whoUses(h.db, workspaces, text, mostUses + 1);
    return { by, uses: rows.slice(0, mostUses), more: rows.length > mostUses };
  }),
];
