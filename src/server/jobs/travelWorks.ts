// Work of travelling: bags, rehearsals, arrivals, hand-ins, backups.

import { readRule } from '@/core/backups/thinning';
import { summaryOf } from '@/core/backups/snapshot';
import { usualChoice } from '@/core/bags/travelling';
import { rootPath } from '@/core/files/treePath';
import { AppError } from '@/core/errors';
import { isOwn } from '@/core/files/records';
import { filesNow } from '@/core/plans/planBack';
import { compareWithState, type FolderState, type KeptFile } from '@/core/versions/folderState';
import { fromSystem } from '../disk/system';
import { freeBytes } from '../disk/use';
import { archiveTo, bringBack } from '../backups/archive';
import { isBackupFolder, openBackups, readSnapshots, snapshotOf } from '../backups/backupFolder';
import { byId, byRule, clearSnapshots, planClearing } from '../backups/clear';
import { giveBack } from '../backups/giveBack';
import { healBackups } from '../backups/heal';
import { mirrorTo } from '../backups/mirror';
import { judgeSnapshot } from '../backups/openSnapshot';
import { proofDue, proveBackups, readProofs } from '../backups/prove';
import { takeSnapshot } from '../backups/takeSnapshot';
import { arrive, settleIn } from '../arrive/arrive';
import { receiveAgain } from '../arrive/again';
import { recogniseArrival, wrongPlaceOf } from '../arrive/recognise';
import { packWorkspace } from '../bags/packWorkspace';
import { rehearsePath } from '../bags/rehearsal';
import { lookAtTravel } from '../bags/travelLook';
import { unpack } from '../bags/unpack';
import { verify } from '../bags/verify';
import { checkAll, checkDelivery, handInTable } from '../handIn/checkDelivery';
import { handInTags } from '../handIn/tags';
import { hasMarker, readWorkspace, type OpenWorkspace } from '../workspaces/open';
import { lookToWire } from '@/wire/travel';
import { guarded, type Works } from './doing';

type Of =
  | 'pack'
  | 'travel-look'
  | 'verify'
  | 'unpack'
  | 'rehearse'
  | 'arrive-look'
  | 'arrive'
  | 'settle-in'
  | 'arrive-again'
  | 'hand-in'
  | 'hand-ins'
  | 'backup'
  | 'backups-look'
  | 'snapshot-look'
  | 'snapshot-judge'
  | 'give-back'
  | 'prove'
  | 'heal'
  | 'clearing-look'
  | 'clear-snapshots'
  | 'archive'
  | 'bring-back';

const unknown = { files: null, bytes: null };

const whichOf = (which: { keep: string } | { ids: string[] }) => {
  if ('ids' in which) return byId(which.ids);
  const rule = readRule(which.keep);
  if (!rule) throw new AppError('bad-request', `“${which.keep}” is no rule of what to keep.`);
  return byRule(rule, Date.now());
};

/** Users' files of a workspace, compared with a state of it. */
async function comparedWithNow(state: FolderState, workspace: OpenWorkspace) {
  const now = (await filesNow(workspace, [])).filter((f) => !isOwn(f.path));
  const { changed, gone, fresh, same } = await compareWithState(state, now, (p) => workspace.tree.digest(p));
  const paths = (files: readonly KeptFile[]) => files.map((f) => f[0]);
  return { changed: paths(changed), gone: paths(gone), fresh: fresh.map((f) => f.path), same };
}

export const travelWorks: Pick<Works, Of> = {
  async pack(
    { root, to, choice = usualChoice, volume, handIn, temporary },
    { signal, toldBytes, toldFiles, parts, allowed },
  ) {
    const workspace = await guarded(root, allowed);
    const total = { files: 0, bytes: 0 };
    for await (const f of workspace.tree.list(rootPath, () => undefined)) {
      total.files++;
      total.bytes += f.size;
    }
    const checked = handIn
      ? await checkDelivery(root, handIn, {
          temporary: temporary!,
          signal,
          onFile: (n, at) => toldFiles(n, null, at),
        })
      : null;
    const moreTags = checked ? handInTags(checked, `${JSON.stringify(handIn, null, 2)}\n`) : [];
    return packWorkspace(workspace, to, {
      signal,
      parts,
      choice,
      volume,
      moreTags,
      onProgress: toldBytes(total),
    });
  },
  async 'travel-look'({ root }, { signal, toldFiles, allowed }) {
    const onFile = (n: number, at: string) => toldFiles(n, null, at);
    return lookToWire((await lookAtTravel(await guarded(root, allowed), { signal, onFile })).look);
  },
  verify: (order, { signal, toldBytes }) => verify(order.bag, { signal, onProgress: toldBytes(unknown) }),
  async unpack(order, { signal, toldBytes, parts }) {
    const result = await unpack(order.bag, order.to, { signal, parts, onProgress: toldBytes(unknown) });
    return { ...result, isWorkspace: await hasMarker(result.root) };
  },
  rehearse: (order, { toldFiles }) => rehearsePath(order.path, order, (at) => toldFiles(0, null, at)),
  async 'arrive-look'({ path, to }) {
    const what = await recogniseArrival(path);
    const wrong = to === null ? null : await wrongPlaceOf(to);
    return { ...what, wrongPlace: wrong?.message ?? null, isAgain: to !== null && (await hasMarker(to)) };
  },
  async arrive({ path, to, heads }, { signal, toldBytes, parts }) {
    const what = await recogniseArrival(path);
    const onProgress = toldBytes({ files: what.files, bytes: what.bytes });
    return arrive(what, to, { heads, repair: true, signal, parts, onProgress });
  },
  'settle-in': ({ root, heads }, { signal }) =>
    settleIn({ root, files: 0, bytes: 0, left: [] }, { heads, repair: true, signal }),
  async 'arrive-again'({ path, root, staging }, { signal, toldBytes }) {
    const what = await recogniseArrival(path);
    const onProgress = toldBytes({ files: what.files, bytes: what.bytes });
    return receiveAgain(what, root, staging, { signal, onProgress });
  },
  'hand-in': ({ path, list, temporary }, { signal, toldFiles }) =>
    checkDelivery(path, list, { temporary, signal, onFile: (n, at) => toldFiles(n, null, at) }),
  async 'hand-ins'({ folder, list, temporary }, { signal, toldFiles }) {
    const options = { temporary, signal, onFile: (n: number, at: string) => toldFiles(n, null, at) };
    const deliveries = await checkAll(folder, list, options);
    return { deliveries, table: handInTable(deliveries) };
  },
  async backup({ root, folder, as }, { signal, toldBytes }) {
    const onFile = toldBytes(unknown);
    if (as === 'mirror') return { as, ...(await mirrorTo(root, folder, { signal, onFile })) };
    const { snapshot, read } = await takeSnapshot(root, folder, { signal, onFile });
    return { as, folder, read, unreadPaths: snapshot.unread, ...summaryOf(snapshot) };
  },
  async 'backups-look'({ folder }) {
    if (!isBackupFolder(folder))
      return {
        folder,
        isMade: false,
        snapshots: [],
        damaged: [],
        halves: 0,
        proofs: [],
        proofDue: null,
        size: 0,
        free: freeBytes(folder),
      };
    const backups = await openBackups(folder);
    const { all, damaged, halves } = await readSnapshots(backups);
    const proofs = await readProofs(backups);
    let size = 0;
    for await (const f of backups.tree.list()) size += f.size;
    return {
      folder,
      isMade: true,
      snapshots: all.map(summaryOf),
      damaged: damaged.map((d) => d.path),
      halves: halves.length,
      proofs: proofs.slice(0, 20),
      proofDue: proofDue(proofs[0], backups.marker.proveEvery, all.at(-1)?.time),
      size,
      free: freeBytes(folder),
    };
  },
  async 'snapshot-look'({ folder, snapshot: id, root }, { signal }) {
    const snapshot = await snapshotOf(await openBackups(folder), id);
    const workspace = root === null ? null : await readWorkspace(root);
    signal.throwIfAborted();
    // Its own records are no news to anybody.
    const users = { ...snapshot, files: snapshot.files.filter((f) => !isOwn(f[0])) };
    return {
      snapshot: summaryOf(snapshot),
      files: users.files.map(([path, size, modified]) => [path, size, modified]),
      unread: snapshot.unread,
      against: workspace ? await comparedWithNow(users, workspace) : null,
    };
  },
  'snapshot-judge': async ({ folder, snapshot }, { signal }) =>
    judgeSnapshot(await openBackups(folder), snapshot, signal),
  'give-back': async ({ folder, snapshot, paths, to }, { signal, parts, toldBytes }) =>
    giveBack(await openBackups(folder), snapshot, paths, to, {
      signal,
      parts,
      onProgress: toldBytes(unknown),
    }),
  prove: async ({ folder, anew, budget }, { signal, toldBytes }) =>
    proveBackups(await openBackups(folder), {
      anew,
      signal,
      ...(budget === undefined ? {} : { budget }),
      onProgress: (d) => toldBytes({ files: d.filesTotal, bytes: d.bytesTotal })(d),
    }),
  async heal({ folder, from }, { signal, toldBytes }) {
    const backups = await openBackups(folder);
    const [last] = await readProofs(backups);
    return healBackups(backups, last?.spoilt ?? [], { from, signal, onProgress: toldBytes(unknown) });
  },
  'clearing-look': async ({ folder, which }) => planClearing(await openBackups(folder), whichOf(which)),
  'clear-snapshots': async ({ folder, ids, givenUp }) =>
    clearSnapshots(await openBackups(folder), ids, givenUp),
  async archive({ root, folder }, { signal, toldBytes }) {
    const stub = await archiveTo(root, folder, { signal, onProgress: toldBytes(unknown) });
    return { applied: true, root, folder, files: stub.files, bytes: stub.bytes, snapshot: stub.snapshot };
  },
  'bring-back': ({ root, from }, { signal, toldBytes }) =>
    bringBack(fromSystem(root), { from, signal, onProgress: toldBytes(unknown) }),
};
