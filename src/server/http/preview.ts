// What a picture of a scene in the browser is made from: the scene's own bytes, the references of it and of the files it leads to, and the bytes
// behind one reference. Only files of the workspace, and outside it only where that is allowed.

import { Readable } from 'node:stream';
import { AppError } from '@/core/errors';
import { treePath } from '@/core/files/treePath';
import { formatOfName } from '@/core/formats/formats';
import { readAgainFormats } from '@/core/formats/inSpace';
import type { PreviewView } from '@/wire/views';
import { type WorkspaceRow } from '../database/queries';
import { listAllowed } from '../database/allowedQueries';
import { Bounds, openWithin } from '../disk/bounds';
import { readAgain } from '../facts/secondReader';
import { type Hub } from '../hub';
import { allowedPath } from '../allowed';
import { sheetOf } from '../sheets';
import { findRow } from './detail';

const mostFiles = 200;
const noStore = {
  'content-type': 'application/octet-stream',
  'cache-control': 'no-store',
};

/** A scene with all references of it and of what it leads to inside the root. */
export async function scenePreview(h: Hub, row: WorkspaceRow, scene: string): Promise<PreviewView> {
  const { format, size, units, grid } = await h.ask('sceneUnits', row.root, scene);
  const byScene = new Map<string, PreviewView['references']>();
  for (const r of (await sheetOf(h, row)).rows) {
    const own = byScene.get(r.scene);
    if (own) own.push(r);
    else byScene.set(r.scene, [r]);
  }
  const files = new Set([scene]);
  for (const at of files)
    for (const r of byScene.get(at) ?? [])
      if (
        r.target !== null &&
        r.inside &&
        r.targets === 1 &&
        formatOfName(r.target) &&
        files.size < mostFiles
      )
        files.add(r.target);
  return {
    scene,
    format,
    size,
    files: [...files],
    references: [...files].flatMap((f) => byScene.get(f) ?? []),
    units,
    grid,
  };
}

/** A scene as binary glTF, by the second reader, with the files in the root that it is made of. */
export async function contentAgain(h: Hub, row: WorkspaceRow, scene: string): Promise<Response> {
  const { format } = await h.ask('sceneUnits', row.root, treePath(scene));
  if (!format || !readAgainFormats.has(format))
    throw new AppError('unsupported', `There is no second reader for ${scene}.`);
  const parts = (await sheetOf(h, row)).rows.filter(
    (r) => r.scene === scene && r.kind !== 'texture' && r.inside && r.target !== null && r.targets === 1,
  );
  const glb = await readAgain({
    path: `${row.root}/${treePath(scene)}`,
    format,
    allowed: await listAllowed(h.db, h.who?.role),
    beside: parts.slice(0, mostFiles).map((r) => ({ written: r.written, path: `${row.root}/${r.target}` })),
  });
  return new Response(new Uint8Array(glb), {
    headers: { ...noStore, 'content-length': String(glb.length) },
  });
}

/** The bytes of a scene file of the workspace, or with `at` of what one of its references leads to. */
export async function contentOf(
  h: Hub,
  row: WorkspaceRow,
  of: { scene: string; at?: string | undefined },
): Promise<Response> {
  let absolute = `${row.root}/${treePath(of.scene)}`;
  if (of.at !== undefined) {
    const r = await findRow(h, row, { scene: of.scene, at: of.at });
    if (r.target === null || r.targets !== 1)
      throw new AppError('not-found', `${r.written} leads to no file.`);
    absolute = r.inside ? `${row.root}/${r.target}` : await allowedPath(h, r.target);
    if (r.inside && !(await h.ask('statInside', row.root, r.target)))
      throw new AppError('not-found', `${r.target} is not there any more.`);
  } else if (!formatOfName(of.scene) || !(await h.ask('statInside', row.root, of.scene)))
    throw new AppError('not-found', `${of.scene} is no scene of this workspace.`);
  const { handle, size } = await openWithin(absolute, new Bounds(await listAllowed(h.db, h.who?.role)));
  return new Response(Readable.toWeb(handle.createReadStream()) as ReadableStream, {
    headers: { ...noStore, 'content-length': String(size) },
  });
}
