// Workspaces anywhere below a folder, those inside others named as such.

import type { CancelSignal } from '@/core/files/fileTree';
import { ownFolder, markerPath } from '@/core/files/records';
import fs from 'node:fs';
import path from 'node:path';
import { isWithin } from '@/core/files/treePath';
import { parseWorkspaceFile } from '@/wire/workspace';

import { toSystem } from '../disk/system';

export interface FoundWorkspace {
  root: string;
  name: string;
  /** Root of the workspace it lies in; null: in none. */
  inside: string | null;
  /** What is wrong with its marker; null: nothing. */
  problem: string | null;
}

/** Walks below `place`, links not followed. Folders that may not be read are passed by. */
export async function findWorkspaces(
  place: string,
  signal: CancelSignal,
  onFolder: (done: number, folder: string) => void,
): Promise<FoundWorkspace[]> {
  const found: FoundWorkspace[] = [];
  const waiting = [place];
  let done = 0;
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    signal.throwIfAborted();
    onFolder(++done, at);
    if (done % 200 === 0) await new Promise((next) => setImmediate(next));
    let listed: fs.Dirent[];
    try {
      listed = fs.readdirSync(toSystem(at), { withFileTypes: true });
    } catch {
      continue;
    }
    const base = at === '/' ? '' : at;
    for (const e of listed) {
      if (!e.isDirectory()) continue;
      if (e.name !== ownFolder) waiting.push(`${base}/${e.name}`);
      else if (fs.existsSync(path.join(toSystem(at), markerPath))) found.push(read(at));
    }
  }
  found.sort((a, b) => (a.root < b.root ? -1 : 1));
  for (const f of found)
    f.inside = found.filter((o) => o !== f && isWithin(f.root, o.root)).at(-1)?.root ?? null;
  return found;
}

function read(root: string): FoundWorkspace {
  const name = root.slice(root.lastIndexOf('/') + 1);
  try {
    return {
      root,
      name: parseWorkspaceFile(fs.readFileSync(path.join(toSystem(root), markerPath), 'utf8'), root).name,
      inside: null,
      problem: null,
    };
  } catch (cause) {
    return { root, name, inside: null, problem: cause instanceof Error ? cause.message : String(cause) };
  }
}
