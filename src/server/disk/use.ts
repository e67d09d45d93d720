// How much of the disk a folder takes.

import fs from 'node:fs';
import type { OverviewView } from '@/wire/views';
import { DiskTree } from './diskTree';
import { toSystem } from './system';

/** Files and bytes of a root, free bytes of its drive, and its largest top folders. The workspace's own records are not counted. */
export async function diskUse(root: string): Promise<OverviewView['disk']> {
  const byFolder = new Map<string, number>();
  let files = 0;
  let bytes = 0;
  for await (const f of new DiskTree(root).list()) {
    if (f.path.startsWith('.satchel/')) continue;
    files++;
    bytes += f.size;
    const top = f.path.includes('/') ? f.path.slice(0, f.path.indexOf('/')) : '';
    byFolder.set(top, (byFolder.get(top) ?? 0) + f.size);
  }
  const disk = fs.statfsSync(toSystem(root));
  const largest = [...byFolder].map(([folder, b]) => ({ folder, bytes: b })).sort((a, b) => b.bytes - a.bytes).slice(0, 3);
  return { files, bytes, free: Number(disk.bavail) * Number(disk.bsize), largest };
}
