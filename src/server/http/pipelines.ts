// For pipelines, on a server for several: keys, web hooks, and verbs of the command line that are done here.

import { AppError } from '@/core/errors';
import { isWithin, nameOf } from '@/core/files/treePath';
import {
  changeHook,
  dropHook,
  dropKey,
  listHooks,
  listKeys,
  makeHook,
  makeKey,
  readJob,
  runVerb,
  sendAgain,
  tryHook,
} from '@/wire/routes/pipelines';
import { isAllowed } from '../allowed';
import { listAllowed } from '../database/allowedQueries';
import { findWorkspace } from '../database/queries';
import { fromSystem } from '../disk/system';
import { workspaceId } from '../hub';
import { pathsOf } from '../jobs/verb';
import { startScan } from '../scans';
import { isApplied } from '../studio/events';
import { dropOneHook, listAllHooks, makeOneHook, pauseHook, sendOneAgain, tryOneHook } from '../studio/hooks';
import { dropOneKey, listAllKeys, makeOneKey } from '../studio/keys';
import { seesJob } from './events';
import { endpoint } from './handle';
import { somebody } from './people';

/** Verbs whose records, or the layouts they choose from, lie in the server's own data folder. */
const writtenDownHere = new Set(['new', 'adopt', 'collect', 'undo', 'put-back']);

export const pipelineEndpoints = [
  endpoint(listKeys, (h) => (somebody(h), listAllKeys(h.db))),
  endpoint(makeKey, (h, input) => makeOneKey(h.db, { ...input, by: somebody(h).id })),
  endpoint(dropKey, async (h, _, { key }) => {
    somebody(h);
    await dropOneKey(h.db, key);
  }),
  endpoint(listHooks, (h) => (somebody(h), listAllHooks(h.db))),
  endpoint(makeHook, (h, input) => makeOneHook(h.db, { ...input, by: somebody(h).name })),
  endpoint(changeHook, async (h, { paused }, { hook }) => {
    somebody(h);
    await pauseHook(h.db, hook, paused);
  }),
  endpoint(tryHook, async (h, _, { hook }) => {
    const { name } = somebody(h);
    await h.db.transaction((queries) => tryOneHook(queries, hook, name));
  }),
  endpoint(dropHook, async (h, _, { hook }) => {
    somebody(h);
    await dropOneHook(h.db, hook);
  }),
  endpoint(sendAgain, async (h, _, { message }) => {
    somebody(h);
    await h.db.transaction((queries) => sendOneAgain(queries, message));
  }),
  endpoint(runVerb, async (h, { args }) => {
    const who = somebody(h);
    const places = await listAllowed(h.db, who.role);
    const paths = pathsOf(args).filter((p) => places.some((place) => isWithin(p, place)));
    const [at] = paths;
    if (at === undefined || !(await isAllowed(h, at)))
      throw new AppError(
        'not-allowed',
        'The call names no path in a folder that is yours to see. On a server, paths are whole ones, as the server calls them.',
      );
    const root = places.filter((p) => isWithin(at, p)).sort((a, b) => b.length - a.length)[0]!;
    const verb = args.find((arg) => !arg.startsWith('-')) ?? '';
    // One at a time of each workspace, as all work.
    const inside = await h.ask('rootOf', at);
    const known = inside === null ? null : await findWorkspace(h.db, workspaceId(inside));
    return h.jobs.start({
      order: {
        ...{ work: 'verb', verb, args, root, role: who.role },
        records: writtenDownHere.has(verb) ? fromSystem(h.dataFolder) : null,
      },
      title: `satchel ${verb} ${nameOf(at)}`.slice(0, 200),
      workspace: known?.id ?? null,
      finish: async (result) => {
        if (known && isApplied(args)) await startScan(h, known.id, known.root, known.name);
        return result;
      },
    });
  }),
  endpoint(readJob, async (h, _, { job }) => {
    const found = h.jobs.list().find((j) => j.id === job);
    if (!found || !(await seesJob(h, found)))
      throw new AppError('not-found', 'There is no such work, or it ended long ago.');
    return found;
  }),
];
