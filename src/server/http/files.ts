// Files of a workspace: listed, looked at, how much room they take, which nobody uses, their versions and what was done to them.

import { AppError } from '@/core/errors';
import { ownFolder } from '@/core/files/records';
import { isTreePath, nameOf, treePath } from '@/core/files/treePath';
import { kindAtHome, kindOfName } from '@/core/layouts/homes';
import { roomOf } from '@/core/layouts/room';
import { scanFound } from '@/wire/jobs';
import type { FileView, UnusedView } from '@/wire/views';
import { findWorkspace, listAllFiles, listFilesIn, listUnused, sumFoldersIn } from '../database/queries';
import { isThere } from '../disk/asking';
import { workspaceOf } from '../hub';
import { allowedPath } from '../allowed';
import { keepLedger, seenLedger } from '../seenLedger';
import { fileDetailOf, frameOf, pictureOf } from './detail';
import {
  findDuplicates,
  listFiles,
  listScenes,
  listUnusedFiles,
  readFileDetail,
  readFrame,
  readLedgerLines,
  readPicture,
  readRoom,
  readSeenLedger,
} from '@/wire/routes/files';
import { endpoint } from './handle';

export const fileEndpoints = [
  endpoint(listFiles, async (h, input, { id }): Promise<FileView[]> => {
    const row = await workspaceOf(h, id!);
    if (!isTreePath(input.folder)) throw new AppError('bad-request', 'That is no folder of the workspace.');
    const file = await h.ask('workspace', row.root);
    const entries = await h.ask('listInside', row.root, input.folder);
    if (!entries) throw new AppError('not-found', `${input.folder} is not there.`);
    const prefix = input.folder === '' ? '' : `${input.folder}/`;
    const indexed = new Map((await listFilesIn(h.db, row.id, prefix)).map((f) => [f.path, f]));
    const sums = new Map((await sumFoldersIn(h.db, row.id, prefix)).map((f) => [f.name, f]));
    const homesAt = (at: string) =>
      Object.entries(file.homes)
        .filter(([, f]) => f === at)
        .map(([k]) => k)
        .join(', ') || null;
    const views = entries
      .filter((e) => input.folder !== '' || e.name !== ownFolder)
      .map((e): FileView => {
        const at = treePath(prefix + e.name);
        const isFile = e.kind === 'file';
        // Of a folder nothing on disk says what is in it; the index does, once it was read.
        const sum = e.kind === 'folder' ? (sums.get(e.name) ?? null) : null;
        return {
          name: e.name,
          path: at,
          kind: e.kind === 'folder' ? 'folder' : 'file',
          fileKind: isFile ? kindOfName(at) : '',
          home: e.kind === 'folder' ? homesAt(at) : kindAtHome(at, file.homes),
          files: sum?.files ?? null,
          size: sum?.bytes ?? e.size,
          modified: sum?.modified ?? e.modified,
          uses: indexed.get(at)?.uses ?? null,
          unused: indexed.get(at)?.unused ?? false,
        };
      });
    return views.sort((a, b) => (a.kind === b.kind ? 0 : a.kind === 'folder' ? -1 : 1));
  }),
  endpoint(readRoom, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    return roomOf(await listAllFiles(h.db, row.id), (await h.ask('workspace', row.root)).homes, input.by);
  }),
  endpoint(findDuplicates, async (h, _, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'duplicates', root: row.root },
      title: 'Look for files that are there twice',
      workspace: row.id,
    });
  }),
  endpoint(listUnusedFiles, async (h, input, { id }): Promise<UnusedView> => {
    const row = await workspaceOf(h, id!);
    const files = await listUnused(h.db, row.id, input.offset, input.limit);
    const total = row.found === null ? { files: 0, bytes: 0 } : scanFound.parse(JSON.parse(row.found)).unused;
    return {
      total,
      files: files.map((f) => ({
        name: nameOf(f.path),
        path: f.path,
        kind: 'file',
        fileKind: f.kind,
        home: null,
        files: null,
        size: f.size,
        modified: f.modified,
        uses: 0,
        unused: true,
      })),
    };
  }),
  endpoint(readFileDetail, async (h, input, { id }) =>
    fileDetailOf(h, await workspaceOf(h, id!), treePath(input.path)),
  ),
  endpoint(readPicture, async (h, input, { id }) =>
    pictureOf(h, await workspaceOf(h, id!), treePath(input.path)),
  ),
  endpoint(readFrame, async (h, { path, side }, { id }) =>
    frameOf(h, await workspaceOf(h, id!), treePath(path), side),
  ),
  endpoint(listScenes, async (h, _, { id }) => h.ask('scenes', (await workspaceOf(h, id!)).root)),
  endpoint(readLedgerLines, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    // What is not there has no records: that is no empty ledger.
    if (!(await isThere(row.root))) throw new AppError('offline', `${row.root} is not there just now.`);
    const lines = await h.ask('ledgerLong', row.root, input.path === undefined ? null : [input.path]);
    if (input.path === undefined) await keepLedger(h.dataFolder, row.id, lines);
    return lines;
  }),
  endpoint(readSeenLedger, async (h, _, { id }) => {
    const row = await findWorkspace(h.db, id!);
    if (!row) throw new AppError('not-found', 'This workspace is not known here any more.');
    await allowedPath(h, row.root);
    return seenLedger(h.dataFolder, row.id);
  }),
];
