// How much of the disk a workspace takes.

import fs from 'node:fs';
import type { FileTree } from '@/core/files/fileTree';
import { ownFolder } from '@/core/references/scan';
import { toSystem } from './system';

/** Files and bytes of a tree, and its three largest top folders. The workspace's own records are not counted. */
export async function diskUse(tree: Pick<FileTree, 'list'>): Promise<{ files: number; bytes: number; largest: { folder: string; bytes: number }[] }> {
  const byFolder = new Map<string, number>();
  let files = 0;
  let bytes = 0;
  for await (const f of tree.list()) {
    if (f.path.startsWith(`${ownFolder}/`)) continue;
    files++;
    bytes += f.size;
    const top = f.path.includes('/') ? f.path.slice(0, f.path.indexOf('/')) : '';
    byFolder.set(top, (byFolder.get(top) ?? 0) + f.size);
  }
  const largest = [...byFolder].map(([folder, b]) => ({ folder, bytes: b })).sort((a, b) => b.bytes - a.bytes).slice(0, 3);
  return { files, bytes, largest };
}

/** Bytes free on the drive a folder lies on. */
export function freeBytes(folder: string): number {
  const disk = fs.statfsSync(toSystem(folder));
  return Number(disk.bavail) * Number(disk.bsize);
}
