// Checks what is to be handed in, or was: a workspace, a folder, a bag, a ZIP. Archives are unpacked, without trust, to be looked at.

import fs from 'node:fs';
import path from 'node:path';
import { checkProfile, type BagFacts, type BagItProfile } from '@/core/bags/profile';
import { manifestOf, readInfo } from '@/core/bags/manifest';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import type { CancelSignal } from '@/core/files/fileTree';
import { isOwn } from '@/core/files/records';
import { nameOf, rootPath, treePath, type TreePath } from '@/core/files/treePath';
import {
  checkHandIn,
  handInSentence,
  picturesAsked,
  type HandedIn,
  type HandInList,
} from '@/core/handIn/list';
import { settingOf } from '@/core/plans/workspace';
import { isReady } from '@/core/references/resolve';
import { scan, scenePaths } from '@/core/references/scan';
import { framesText } from '@/core/text/figures';
import type { HandInView } from '@/wire/handIn';
import { openBag, readTag } from '../bags/openBag';
import { unpack } from '../bags/unpack';
import { fromSystem, toSystem } from '../disk/system';
import { factsOf } from '../facts/facts';
import { complete } from '../outputs/complete';
import { recogniseArrival } from '../arrive/recognise';
import { unitsOfScene } from '../workspaces/measure';
import { hasMarker, plainFolder, readWorkspace, type OpenWorkspace } from '../workspaces/open';
import { stage } from '../workspaces/stage';

export interface CheckOptions {
  /** A folder in which archives may be unpacked for the while. */
  temporary: string;
  signal?: CancelSignal | undefined;
  onFile?: ((n: number, path: string) => void) | undefined;
}

const never: CancelSignal = { aborted: false, throwIfAborted() {} };

/** Holds one delivery against a list. Throws only what ends all; what cannot be looked into is told in `error`. */
export async function checkDelivery(
  at: string,
  list: HandInList,
  options: CheckOptions,
): Promise<HandInView> {
  const name = nameOf(at);
  try {
    const points = checkHandIn(list, await handedIn(at, list, options));
    return {
      path: at,
      name,
      sentence: handInSentence(points),
      ok: points.every((p) => p.ok),
      points,
      error: null,
    };
  } catch (cause) {
    const known = fileError(at, cause);
    if (!(known instanceof AppError) || known.code === 'cancelled') throw cause;
    return { path: at, name, sentence: known.message, ok: false, points: [], error: known.message };
  }
}

/** Every delivery in a folder: each ZIP and each folder in it is one. */
export async function checkAll(
  folder: string,
  list: HandInList,
  options: CheckOptions,
): Promise<HandInView[]> {
  const all: HandInView[] = [];
  const entries = fs.readdirSync(toSystem(folder), { withFileTypes: true });
  const deliveries = entries
    .filter((e) => !e.name.startsWith('.') && (e.isDirectory() || (e.isFile() && /\.zip$/i.test(e.name))))
    .map((e) => e.name)
    .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  for (const [n, name] of deliveries.entries()) {
    options.signal?.throwIfAborted();
    options.onFile?.(n + 1, name);
    all.push(await checkDelivery(`${folder}/${name}`, list, { ...options, onFile: undefined }));
  }
  return all;
}

/** Looks into it: for the while in a folder, where it is an archive. */
async function handedIn(at: string, list: HandInList, options: CheckOptions): Promise<HandedIn> {
  const what = await recogniseArrival(at);
  const profile =
    list.form?.profile && what.kind === 'bag' ? await profileTroubles(at, list.form.profile) : null;
  const form = what.kind === 'workspace' ? 'workspace' : what.form;
  if (what.form === 'folder')
    return factsIn(
      what.kind === 'bag' ? `${at}/data` : at,
      list,
      { name: nameOf(at), form, profile },
      options,
    );
  const temporary = fs.mkdtempSync(path.join(toSystem(options.temporary), 'hand-in-'));
  try {
    const root =
      what.kind === 'bag'
        ? (await unpack(at, fromSystem(path.join(temporary, 'it')), { signal: options.signal })).root
        : (await stage(at, fromSystem(temporary), options.signal ?? never, () => undefined)).path;
    return await factsIn(root, list, { name: nameOf(at), form, profile }, options);
  } finally {
    fs.rmSync(temporary, { recursive: true, force: true });
  }
}

async function profileTroubles(at: string, profile: BagItProfile): Promise<HandedIn['profile']> {
  const bag = await openBag(at);
  try {
    const lines = readInfo((await readTag(bag, 'bagit.txt')) ?? '');
    const manifests = [...bag.files.keys()].flatMap((f) => (f.includes('/') ? [] : (manifestOf(f) ?? [])));
    const facts: BagFacts = {
      form: bag.form,
      version: lines.find(([l]) => l === 'BagIt-Version')?.[1] ?? null,
      info: readInfo((await readTag(bag, 'bag-info.txt')) ?? ''),
      files: [...bag.files.keys()],
      manifests: manifests.filter((m) => !m.tags).map((m) => m.algorithm),
      tagManifests: manifests.filter((m) => m.tags).map((m) => m.algorithm),
    };
    return checkProfile(facts, profile);
  } finally {
    bag.close();
  }
}

async function factsIn(
  root: string,
  list: HandInList,
  of: Pick<HandedIn, 'name' | 'form' | 'profile'>,
  { signal, onFile }: CheckOptions,
): Promise<HandedIn> {
  const workspace = (await hasMarker(root)) ? await readWorkspace(root) : plainFolder(root);
  const files: { path: TreePath; size: number }[] = [];
  for await (const f of workspace.tree.list(rootPath))
    if (!isOwn(f.path)) files.push({ path: f.path, size: f.size });
  const pictures: Map<
    string,
    HandedIn['pictures'] extends ReadonlyMap<string, infer P> ? P : never
  > = new Map();
  for (const [n, p] of picturesAsked(list, files).entries()) {
    signal?.throwIfAborted();
    onFile?.(n + 1, p);
    const is = await factsOf(`${root}/${p}`).catch(() => null);
    pictures.set(p, { width: is?.width ?? null, height: is?.height ?? null, bits: is?.bits ?? null });
  }
  return {
    ...of,
    files,
    folders: await foldersIn(workspace),
    references: list.references ? await referencesIn(workspace, signal) : [],
    units: list.units ? await unitsIn(workspace) : [],
    pictures,
    frames: list.passes ? await framesIn(workspace, list.passes, signal) : null,
  };
}

async function foldersIn({ tree }: OpenWorkspace): Promise<string[]> {
  const found: string[] = [];
  const waiting: TreePath[] = [rootPath];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop())
    for (const e of (await tree.entries(at)) ?? [])
      if (e.kind === 'folder' && e.link === undefined && !isOwn(e.name)) {
        const folder = treePath(at === '' ? e.name : `${at}/${e.name}`);
        found.push(folder);
        waiting.push(folder);
      }
  return found;
}

/** References as they are where nothing else is: on the machine of whoever gets it. */
async function referencesIn(
  workspace: OpenWorkspace,
  signal?: CancelSignal,
): Promise<HandedIn['references']> {
  const found: HandedIn['references'][number][] = [];
  const setting = { ...settingOf(workspace), outside: null, libraries: [], places: [] };
  for await (const report of scan(workspace.tree, setting)) {
    signal?.throwIfAborted();
    for (const r of report.references)
      found.push({
        scene: report.path,
        written: r.written,
        state: r.state,
        isReady: isReady(r),
        gaps: r.gaps.length,
      });
    if (report.references.length === 0)
      for (const p of report.problems)
        found.push({ scene: report.path, written: report.path, state: p.message, isReady: false, gaps: 0 });
  }
  return found;
}

async function unitsIn(workspace: OpenWorkspace): Promise<HandedIn['units']> {
  const found: HandedIn['units'][number][] = [];
  for (const scene of (await scenePaths(workspace.tree)).scenes) {
    const stat = await workspace.tree.stat(scene);
    if (stat) found.push({ path: scene, ...(await unitsOfScene(workspace, scene, stat.size)).units });
  }
  return found;
}

async function framesIn(
  workspace: OpenWorkspace,
  passes: NonNullable<HandInList['passes']>,
  signal?: CancelSignal,
): Promise<NonNullable<HandedIn['frames']>> {
  const { rows } = await complete(workspace, passes, { signal });
  return rows.flatMap((row) =>
    Object.entries(row.troubles).map(([trouble, frames]) => ({
      path: null,
      message: `${[row.scene, row.camera, row.pass].filter(Boolean).join(' ')}: ${frames.length === 1 ? 'frame' : 'frames'} ${framesText(frames)} ${trouble}`,
    })),
  );
}

/** Deliveries and points as a table (RFC 4180): a line each, a column for each point. */
export function handInTable(all: readonly HandInView[]): string {
  const cell = (value: string) => {
    const safe = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value;
    return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
  };
  const asked = [...new Map(all.flatMap((h) => h.points.map((p) => [p.id, p.asked] as const)))];
  const rows = [
    ['delivery', 'met', ...asked.map(([, a]) => a), 'remark'],
    ...all.map((h) => [
      h.name,
      h.ok ? 'yes' : 'no',
      ...asked.map(([id]) => {
        const p = h.points.find((x) => x.id === id);
        return !p
          ? ''
          : p.ok
            ? 'yes'
            : p.found.map((f) => `${f.path ? `${f.path} ` : ''}${f.message}`).join('; ');
      }),
      h.error ?? '',
    ]),
  ];
  return rows.map((r) => `${r.map(cell).join(',')}\r\n`).join('');
}
