// One reference or one file in full: what it is, what it holds, who uses it.

import { AppError } from '@/core/errors';
import { folderOf, joinInside, nameOf, type TreePath } from '@/core/files/treePath';
import { formatOfName } from '@/core/formats/formats';
import { kindOfPath } from '@/core/formats/kinds';
import { factsText } from '@/core/formats/leaves';
import { kindAtHome, kindOfName } from '@/core/layouts/homes';
import { elsewhereOf, isUnderHead, type Place } from '@/core/references/elsewhere';
import { oddityMessage } from '@/core/references/resolve';
import { normaliseAbsolute, spell, understand, type Oddity } from '@/core/references/written';
import { sequencePattern } from '@/core/names/sequences';
import type { Base, FileDetail, ReferenceDetail } from '@/wire/views';
import {
  findFile,
  findReference,
  listRowsOf,
  listSequencesIn,
  listUsers,
  type ReferenceRow,
  type WorkspaceRow,
} from '../database/queries';
import { listAllowed } from '../database/allowedQueries';
import { toSystem } from '../disk/system';
import { hasPicture } from '../facts/picture';
import { thumbnail } from '../facts/thumbnail';
import { type Hub } from '../hub';
import { allowedPath } from '../allowed';
import { referenceView } from '../referenceView';

/** A row of the index by its place. Throws AppError('not-found') where it is gone. */
export async function findRow(
  h: Hub,
  row: WorkspaceRow,
  of: { scene: string; at: string },
): Promise<ReferenceRow> {
  const found = await findReference(h.db, row.id, of.scene, of.at);
  if (!found) throw new AppError('not-found', 'This reference is not there any more; the scene was changed.');
  return found;
}

function adviceFor(r: ReferenceRow): string {
  switch (r.state) {
    case 'missing':
      return 'Nothing lies where the path points. Put the file back, or make the path point to where it is now.';
    case 'offline':
      return 'Its drive or share is not connected. Connect it and read the workspace again.';
    case 'case':
      return 'Found only when letter case is ignored. On Linux, and on many servers, the model will be black.';
    case 'outside':
      if (r.kind === 'scene')
        return 'This scene lies outside the root: what is saved in it, and what it needs, stays behind when the workspace travels. Bring it home, and all it needs comes along.';
      return 'Found, but outside the root: it stays behind when the workspace travels.';
    case 'absolute':
      return 'Found inside the root, but written from the top of this drive: another machine has another top.';
    case 'remote':
      return 'A web address: it opens only with the network.';
    case 'library':
      if (r.oddities !== '') return oddityMessage(r.oddities.split(' ')[0] as Oddity, r.written);
      return 'Found in a shared library. It travels only when the library is there too.';
    default:
      if (r.gaps !== '')
        return `It travels, but frames or tiles are missing between the first and the last: ${r.gaps.split(' ').slice(0, 20).join(', ')}${r.gaps.split(' ').length > 20 ? ' …' : ''}.`;
      return r.oddities === ''
        ? 'It travels: found inside the root, by a relative path.'
        : oddityMessage(r.oddities.split(' ')[0] as Oddity, r.written);
  }
}

/** A reference with its surroundings. */
export async function detailOf(
  h: Hub,
  row: WorkspaceRow,
  of: { scene: string; at: string },
): Promise<ReferenceDetail> {
  const r = await findRow(h, row, of);
  const users = r.target === null ? [] : await listUsers(h.db, row.id, r.target);
  // Of what is missing, those in the folder that it points into, where there is one.
  const understood = understand(r.written, formatOfName(r.scene)?.syntax ?? 'native');
  const meant =
    r.target !== null
      ? r.inside
        ? (r.target as TreePath)
        : null
      : understood.form === 'relative'
        ? joinInside(folderOf(r.scene), understood.path)
        : null;
  const neighbours =
    meant === null
      ? []
      : ((await h.ask('listInside', row.root, folderOf(meant))) ?? [])
          .filter((e) => e.kind === 'file' && e.name !== nameOf(meant))
          .map((e) => e.name)
          .slice(0, 8);
  const file = await h.ask('workspace', row.root);
  return {
    elsewhere: elsewhereIn(file.places, row.root, r),
    library:
      r.target !== null && !r.inside
        ? (file.libraries.find((l) => isUnderHead(r.target!, l.path))?.name ?? null)
        : null,
    history: await historyOf(h, row.root, [r.scene, ...(r.target !== null && r.inside ? [r.target] : [])]),
    reference: referenceView(r),
    fullTarget: r.target === null ? null : toSystem(r.inside ? `${row.root}/${r.target}` : r.target),
    bases: await basesOf(h, row.root, r),
    // Only these formats have lists of addresses.
    alternatives: /^x3dv?$/.test(formatOfName(r.scene)?.id ?? '')
      ? await h.ask('alternatives', row.root, r.scene, r.at)
      : [],
    chain: await above(h, row, r.scene),
    below: r.target === null || !r.inside ? { of: 0, references: [] } : await below(h, row, r.target),
    users: users.filter((u) => u.scene !== r.scene || u.at !== r.at),
    neighbours,
    ...(await looksOf(h, r.target === null || r.targets !== 1 ? null : await readable(h, row, r))),
    advice: adviceFor(r),
  };
}

const mostAbove = 8;

/** Scenes that lead to this one, the first of each, from the top down to it. */
async function above(h: Hub, row: WorkspaceRow, scene: string): Promise<string[]> {
  const chain = [scene];
  while (chain.length < mostAbove) {
    const parent = (await listUsers(h.db, row.id, chain[0]!))
      .map((u) => u.scene)
      .find((s) => !chain.includes(s));
    if (parent === undefined) break;
    chain.unshift(parent);
  }
  return chain;
}

/** What a scene leads to, what needs a hand first. */
async function below(h: Hub, row: WorkspaceRow, scene: string): Promise<ReferenceDetail['below']> {
  const rows = formatOfName(scene) ? await listRowsOf(h.db, row.id, [scene]) : [];
  return {
    of: rows.length,
    references: rows
      .toSorted((a, b) => Number(a.ready) - Number(b.ready))
      .slice(0, 12)
      .map(({ scene: s, at, written, state }) => ({ scene: s, at, written, state })),
  };
}

/** Where the file of a reference lies on other machines, with how the path would be written in its scene. */
function elsewhereIn(
  places: readonly Place[],
  root: string,
  r: Pick<ReferenceRow, 'scene' | 'written' | 'target' | 'inside'>,
): ReferenceDetail['elsewhere'] {
  const syntax = formatOfName(r.scene)?.syntax ?? 'native';
  const understood = understand(r.written, syntax);
  const path =
    r.target !== null
      ? r.inside
        ? `${root}/${r.target}`
        : r.target
      : understood.form === 'absolute'
        ? normaliseAbsolute(understood.path)
        : null;
  if (path === null) return [];
  return elsewhereOf(path, places).map((e) => ({
    ...e,
    others: e.others.map((o) => ({
      ...o,
      written: spell(o.path, syntax, r.written) + ('tail' in understood ? understood.tail : ''),
    })),
  }));
}

/** The same for a path as it is written in a scene, by its text alone; undefined where it lies in no place. */
export function elsewhereOfWritten(
  written: string,
  scene: string,
  root: string,
  places: readonly Place[],
): ReferenceDetail['elsewhere'][number] | undefined {
  return elsewhereIn(places, root, { scene, written, target: null, inside: false })[0];
}

/** Plans that touched any of these files. */
async function historyOf(
  h: Hub,
  root: string,
  paths: readonly string[],
): Promise<ReferenceDetail['history']> {
  return (await h.ask('history', root, paths))
    .slice(0, 12)
    .map(({ id, time, title, state }) => ({ id, time, title, state }));
}

/** What a relative path means, measured from the scene's folder (as formats do) and from the root (as some programs do). */
async function basesOf(h: Hub, root: string, r: ReferenceRow): Promise<ReferenceDetail['bases']> {
  const format = formatOfName(r.scene);
  const understood = format ? understand(r.written, format.syntax) : null;
  if (understood?.form !== 'relative') return null;
  const inScene = folderOf(r.scene);
  const meant = [inScene === '' ? root : `${root}/${inScene}`, root].map((folder) =>
    normaliseAbsolute(`${folder}/${understood.path}`),
  );
  const there = await h.ask('areFiles', meant);
  const [scene, fromRoot] = meant.map((resolves, i): Base => ({
    resolves: toSystem(resolves),
    there: there[i]!,
  })) as [Base, Base];
  return { scene, root: fromRoot, disagree: scene.resolves !== fromRoot.resolves && fromRoot.there };
}

/** The absolute path of a reference's target, where its content may be read; null where it may not. */
async function readable(h: Hub, row: WorkspaceRow, r: ReferenceRow): Promise<string | null> {
  if (r.inside) return `${row.root}/${r.target}`;
  return allowedPath(h, r.target!).catch(() => null);
}

/** What a file holds, in words; where its content is another kind than its name says, that; and whether there is a picture of it. */
async function looksOf(
  h: Hub,
  absolute: string | null,
): Promise<Pick<ReferenceDetail, 'facts' | 'disagrees' | 'preview'>> {
  const facts = absolute === null ? null : await h.ask('facts', absolute).catch(() => null);
  if (absolute === null || !facts) return { facts: null, disagrees: null, preview: false };
  const named = kindOfPath(absolute);
  const disagrees =
    named !== 'other' && named !== facts.kind
      ? `Its name says ${named}, its content is ${facts.kind} (${facts.format}).`
      : null;
  return { facts: factsText(facts), disagrees, preview: hasPicture(facts.format) };
}

/** One file of the workspace with its surroundings. */
export async function fileDetailOf(h: Hub, row: WorkspaceRow, path: TreePath): Promise<FileDetail> {
  const file = await h.ask('workspace', row.root);
  const stat = await h.ask('statInside', row.root, path);
  if (!stat) throw new AppError('not-found', `${path} is not there any more.`);
  const indexed = await findFile(h.db, row.id, path);
  const users = await listUsers(h.db, row.id, path);
  // A sequence or set of tiles is one reference: whether this file is one of it, its name tells.
  const folder = path.slice(0, path.lastIndexOf('/') + 1);
  for (const s of await listSequencesIn(h.db, row.id, folder)) {
    if (
      s.target.lastIndexOf('/') === folder.length - 1 &&
      sequencePattern(nameOf(s.target))?.numberOf(nameOf(path)) != null
    )
      users.push({ scene: s.scene, at: s.at });
  }
  return {
    path,
    fullPath: toSystem(`${row.root}/${path}`),
    size: stat.size,
    modified: stat.modified,
    kind: kindOfName(path),
    home: kindAtHome(path, file.homes),
    unused: indexed?.unused ?? false,
    users,
    ...(await looksOf(h, `${row.root}/${path}`)),
  };
}

/** A picture of a file of the workspace. */
export async function pictureOf(h: Hub, row: WorkspaceRow, path: TreePath): Promise<Response> {
  if (!(await h.ask('statInside', row.root, path)))
    throw new AppError('not-found', `${path} is not there any more.`);
  return thumbnail(`${row.root}/${path}`, await listAllowed(h.db, h.who?.role));
}

/** A frame of a moving picture. */
export async function frameOf(h: Hub, row: WorkspaceRow, path: TreePath, side: number): Promise<Response> {
  if (!(await h.ask('statInside', row.root, path)))
    throw new AppError('not-found', `${path} is not there any more.`);
  return thumbnail(`${row.root}/${path}`, await listAllowed(h.db, h.who?.role), side, undefined, 'frame');
}

// One white pixel, for what cannot be shown.
const blank = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR4nGP4////fwAJ+wP9KobjigAAAABJRU5ErkJggg==',
  'base64',
);

/** A picture of the target, of a sequence that of its first file; outside the root only where that is allowed. `blank`: one white pixel rather than an error. */
export async function previewOf(
  h: Hub,
  row: WorkspaceRow,
  of: { scene: string; at: string; side: number; blank: boolean },
): Promise<Response> {
  try {
    const r = await findRow(h, row, of);
    const file =
      r.target === null
        ? null
        : r.targets === 1
          ? r.target
          : await firstOf(h, row.root, r.inside ? r.target : await allowedPath(h, r.target), r.inside);
    if (file === null) throw new AppError('unsupported', 'There is no picture of this file.');
    const at = r.inside ? `${row.root}/${file}` : await allowedPath(h, file);
    return await thumbnail(at, await listAllowed(h.db, h.who?.role), of.side);
  } catch (cause) {
    if (!of.blank) throw cause;
    return new Response(blank, { headers: { 'content-type': 'image/png', 'cache-control': 'no-store' } });
  }
}

/** The first file of a sequence or set of tiles, by number; a path as the target is. */
async function firstOf(h: Hub, root: string, target: string, isInside: boolean): Promise<string | null> {
  const pattern = sequencePattern(nameOf(target));
  const folder = folderOf(target);
  const entries = (await h.ask('listFolder', isInside ? `${root}/${folder}` : folder)) ?? [];
  const numbered = entries.flatMap((e) => {
    const n = pattern?.numberOf(e.name) ?? null;
    return n === null ? [] : [[n, e.name] as const];
  });
  const first = numbered.sort((a, b) => a[0] - b[0])[0];
  return first ? `${folder === '' ? '' : `${folder}/`}${first[1]}` : null;
}
