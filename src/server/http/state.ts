// What the window shows around every page: allowed folders, workspaces, running work, settings.

import os from 'node:os';
import { knownMachines } from '@/core/places/machine';
import { AppError } from '@/core/errors';
import { isWithin } from '@/core/files/treePath';
import type { FoldersToAllow, FolderView, StateView } from '@/wire/views';
import { readSetting, writeSetting } from '../database/queries';
import { addAllowed, listAllowed, removeAllowed } from '../database/allowedQueries';
import { isThere, realInTime, statInTime } from '../disk/asking';
import { drivePlaces, fromSystem } from '../disk/system';
import { machineView } from '../bags/rehearsal';
import { type Hub } from '../hub';
import { allowedPath, cleanPath, isAllowed } from '../allowed';
import { studio } from '../studio/mode';
import { beginFolderRoles } from '../studio/people';
import { mark } from '../studio/places';
import {
  allowFolder,
  cancelJob,
  disallowFolder,
  listFolder,
  listJobs,
  listToAllow,
  readSettingOf,
  readState,
  writeSettingOf,
} from '@/wire/routes/state';
import { jobsSeen } from './events';
import { endpoint } from './handle';
import { layoutViews, workspaceViews } from './workspaceView';

// Names people usually give the folders they keep work in.
const usual = ['Projects', 'projects', 'work', 'Work', 'Documents', 'Downloads', 'Desktop'];

/** Folders for a first choice, of those that are there: names only, nothing in them is looked at. The home itself holds too much. */
async function suggestions(): Promise<string[]> {
  const home = fromSystem(os.homedir());
  const found: string[] = [];
  for (const name of usual) if (await isThere(`${home}/${name}`)) found.push(`${home}/${name}`);
  // Where letter case does not count, two names are one folder.
  const real = await Promise.all(found.map((f) => realInTime(f)));
  return found.filter((_, i) => real.indexOf(real[i]!) === i);
}

/** Drives, sticks and shares that are there. */
async function drives(h: Pick<Hub, 'ask'>): Promise<string[]> {
  const { drives: letters, holders } = drivePlaces(os.userInfo().username);
  const there = await Promise.all(letters.map(async (d) => ((await isThere(d)) ? [d] : [])));
  const inside = await Promise.all(
    holders.map(async (f) => ((await h.ask('folderNames', f)) ?? []).map((name) => `${f}/${name}`)),
  );
  return [...there, ...inside].flat();
}

/** What speaks against allowing a folder whole; null: nothing. */
export async function whyTooWide(h: Pick<Hub, 'dataFolder'>, clean: string): Promise<string | null> {
  const real = (await realInTime(clean)) ?? clean;
  const home = (await realInTime(fromSystem(os.homedir()))) ?? fromSystem(os.homedir());
  const own = (await realInTime(fromSystem(h.dataFolder))) ?? fromSystem(h.dataFolder);
  if (/^(\/|[A-Z]:\/?)$/.test(real))
    return 'That is the whole disk, with the system and everybody else’s files.';
  if (isWithin(home, real))
    return real === home
      ? 'That is your whole home, with mail, passwords and programs that start by themselves.'
      : 'That holds your whole home, and those of others.';
  if (isWithin(real, own) || isWithin(own, real))
    return 'There Loyal Satchel keeps its own records; what is changed in them by hand is lost or wrong.';
  return null;
}

export const stateEndpoints = [
  endpoint(readState, async (h): Promise<StateView> => {
    const allowed = await listAllowed(h.db, h.who?.role);
    const demo = process.env.SATCHEL_DEMO ? cleanPath(process.env.SATCHEL_DEMO) : null;
    return {
      me: h.who,
      version: '0.1.0',
      system: process.platform,
      home: cleanPath(os.homedir()),
      dataFolder: h.dataFolder,
      // Only while it is there: pages begin in it.
      demo: demo !== null && (await isThere(demo)) ? demo : null,
      allowed: await Promise.all(
        allowed.map(async (p) => ({ path: p, there: await isThere(p), tooWide: await whyTooWide(h, p) })),
      ),
      // Folders of the machine are chosen by those who manage.
      suggestions: h.who && h.who.role !== 'manage' ? [] : await suggestions(),
      workspaces: await workspaceViews(h),
      layouts: layoutViews(h),
      machines: knownMachines.map(machineView),
      notices: [...h.notices],
    };
  }),
  endpoint(allowFolder, async (h, input) => {
    const clean = cleanPath(input.path);
    if (!(await statInTime(clean))?.isDirectory())
      throw new AppError('not-found', `${clean} is no folder on this machine, or may not be seen.`);
    const wide = input.sure ? null : await whyTooWide(h, clean);
    if (wide !== null) throw new AppError('too-wide', `${clean} was not allowed. ${wide}`);
    const isNew = !(await listAllowed(h.db)).includes(clean);
    await addAllowed(h.db, clean);
    // Here it was looked at and chosen just now, so here it is the right one.
    if (studio()) await mark(h.db, clean);
    if (h.who && isNew) await beginFolderRoles(h.db, clean);
    return { path: clean };
  }),
  endpoint(disallowFolder, async (h, input) => removeAllowed(h.db, input.path)),
  endpoint(listFolder, async (h, input): Promise<FolderView> => {
    const at = await allowedPath(h, input.path);
    const listed = await h.ask('listFolder', at);
    if (!listed) throw new AppError('not-found', `${at} is no folder that can be read.`);
    const base = at === '/' ? '' : at;
    const shown = listed.filter((e) => e.kind === 'folder' || (e.kind === 'file' && input.files === 'yes'));
    const folders = shown.filter((e) => e.kind === 'folder').map((e) => e.name);
    const marked = new Set(await h.ask('markersIn', at, folders));
    const parent = at === '/' ? null : at.slice(0, at.lastIndexOf('/')) || '/';
    return {
      path: at,
      parent: parent !== null && (await isAllowed(h, parent)) ? parent : null,
      root: await h.ask('rootOf', at),
      entries: shown.map((e) => ({
        name: e.name,
        path: `${base}/${e.name}`,
        kind: e.kind as 'file' | 'folder',
        size: e.size,
        isWorkspace: marked.has(e.name),
      })),
    };
  }),
  endpoint(listToAllow, async (h, input): Promise<FoldersToAllow> => {
    const home = cleanPath(os.homedir());
    const at = input.path === '' ? home : cleanPath(input.path);
    const names = await h.ask('folderNames', at);
    if (!names) throw new AppError('not-found', `${at} is no folder that can be read.`);
    const base = at.endsWith('/') ? at : `${at}/`;
    const above = at.slice(0, at.lastIndexOf('/'));
    return {
      path: at,
      // Above a drive there is nothing: `C:/`, `/`.
      parent: base === at ? null : /^[A-Z]:$/.test(above) || above === '' ? `${above}/` : above,
      starts: [home, ...(await drives(h))],
      folders: await Promise.all(
        names.map(async (name) => ({
          name,
          path: `${base}${name}`,
          isAllowed: await isAllowed(h, `${base}${name}`),
        })),
      ),
    };
  }),
  endpoint(listJobs, (h) => jobsSeen(h)),
  endpoint(cancelJob, async (h, _, { job }) => ({
    cancelled: h.jobs.cancel(job!),
  })),
  endpoint(readSettingOf, async (h, _, { name }) => ({
    value: await readSetting(h.db, name!),
  })),
  endpoint(writeSettingOf, async (h, input, { name }) => writeSetting(h.db, name!, input.value)),
];
