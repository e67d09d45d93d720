// One reference in full, and a picture of its target where that is safe to show.

import { AppError } from '@/core/errors';
import { extensionOf, folderOf, nameOf, treePath } from '@/core/files/treePath';
import type { ReferenceDetail } from '@/wire/views';
import { findReference, listUsers, type ReferenceRow, type WorkspaceRow } from '../database/queries';
import { diskOutside, DiskTree } from '../disk/diskTree';
import { toSystem } from '../disk/system';
import { allowedPath, type Hub } from '../hub';
import { referenceView } from './referenceView';

const pictures: Record<string, string> = { '.png': 'image/png', '.jpg': 'image/jpeg', '.jpeg': 'image/jpeg', '.webp': 'image/webp', '.gif': 'image/gif', '.bmp': 'image/bmp', '.avif': 'image/avif' };
const pictureUpTo = 64 * 1024 * 1024;

async function find(h: Hub, row: WorkspaceRow, of: { scene: string; at: string }): Promise<ReferenceRow> {
  const found = await findReference(h.db, row.id, of.scene, of.at);
  if (!found) throw new AppError('not-found', 'This reference is not there any more; the scene was changed.');
  return found;
}

function adviceFor(r: ReferenceRow): string {
  switch (r.state) {
    case 'missing': return 'Nothing lies where the path points. Put the file back, or make the path point to where it is now.';
    case 'offline': return 'Its drive or share is not connected. Connect it and read the workspace again.';
    case 'case': return 'Found only when letter case is ignored. On Linux, and on many servers, the model will be black.';
    case 'outside': return 'Found, but outside the root: it stays behind when the workspace travels.';
    case 'absolute': return 'Found inside the root, but written from the top of this drive: another machine has another top.';
    case 'remote': return 'A web address: it opens only with the network.';
    case 'library': return 'Found in a shared library. It travels only when the library is there too.';
    default: if (r.gaps !== '') return `It travels, but frames or tiles are missing between the first and the last: ${r.gaps.split(' ').slice(0, 20).join(', ')}${r.gaps.split(' ').length > 20 ? ' …' : ''}.`;
      return r.oddities === '' ? 'It travels: found inside the root, by a relative path.' : 'Found, but spelt in a way not every program understands.';
  }
}

/** A reference with its surroundings. */
export async function detailOf(h: Hub, row: WorkspaceRow, of: { scene: string; at: string }): Promise<ReferenceDetail> {
  const r = await find(h, row, of);
  const tree = new DiskTree(row.root);
  const users = r.target === null ? [] : await listUsers(h.db, row.id, r.target);
  const parents = (await listUsers(h.db, row.id, r.scene)).map((u) => u.scene);
  const neighbours = r.target !== null && r.inside ? ((await tree.entries(folderOf(r.target))) ?? []).filter((e) => e.kind === 'file' && e.name !== nameOf(r.target!)).map((e) => e.name).slice(0, 8) : [];
  return {
    reference: referenceView(r), fullTarget: r.target === null ? null : toSystem(r.inside ? `${row.root}/${r.target}` : r.target),
    chain: [...parents.slice(0, 1), r.scene], users: users.filter((u) => u.scene !== r.scene || u.at !== r.at), neighbours,
    preview: r.target !== null && r.targets === 1 && extensionOf(r.target) in pictures && (r.size ?? Infinity) <= pictureUpTo, advice: adviceFor(r),
  };
}

/** The target's bytes as a picture. Only kinds a browser shows without running anything; outside the root only where allowed. */
export async function previewOf(h: Hub, row: WorkspaceRow, of: { scene: string; at: string }): Promise<Response> {
  const r = await find(h, row, of);
  const type = r.target === null ? undefined : pictures[extensionOf(r.target)];
  if (r.target === null || type === undefined || (r.size ?? Infinity) > pictureUpTo) throw new AppError('unsupported', 'There is no picture of this file.');
  const bytes = r.inside ? await new DiskTree(row.root).read(treePath(r.target)) : await diskOutside.read(await allowedPath(h, r.target));
  return new Response(new Uint8Array(bytes), { headers: { 'content-type': type, 'x-content-type-options': 'nosniff', 'content-security-policy': "default-src 'none'; sandbox", 'cache-control': 'private, max-age=60' } });
}
