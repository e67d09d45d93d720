// How a folder is told from its copies: by its number on the drive and its time of creation, which it keeps when it is renamed or moved on that drive.

import { createHash } from 'node:crypto';
import fs from 'node:fs';
import { toSystem } from '../disk/system';

/** The first 16 hex digits of a SHA-256 digest. */
export const shortDigest = (text: string) => createHash('sha256').update(text).digest('hex').slice(0, 16);

/** The id of a folder on its drive. Null: the drive gives none. */
export function folderIdOf(root: string): string | null {
  const stat = fs.statSync(toSystem(root), { throwIfNoEntry: false });
  return stat && stat.ino > 0 ? `${stat.ino}-${Math.floor(stat.birthtimeMs)}` : null;
}

/** The id as a digest, unique among machines by the millisecond of creation. Null: not known, as on a drive that records no such times. */
export function folderMark(root: string): string | null {
  const id = folderIdOf(root);
  return id === null || id.endsWith('-0') ? null : shortDigest(id);
}
