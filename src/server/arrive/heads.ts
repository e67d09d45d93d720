// Path heads of other machines, and what they are here: asked once, remembered by the application on this machine, used at every arrival.

import fs from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import { isUnderHead } from '@/core/references/elsewhere';
import type { WorkspaceFile } from '@/core/layouts/workspace';
import { toSystem } from '../disk/system';
import { keepFile, setAside } from '../keptFile';

const headsFile = z.object({
  format: z.literal(1),
  heads: z.array(z.object({ from: z.string().min(1), to: z.string().min(1) })),
});
/** A head of another machine, and the folder that it is here. */
export interface HeadMap {
  from: string;
  to: string;
}

const fileIn = (dataFolder: string) => path.join(dataFolder, 'heads.json');
const tidy = (head: string) => head.replaceAll('\\', '/').replace(/(?<=[^:/])\/+$/, '');

/** What is remembered; nothing where it cannot be read. */
export const rememberedHeads = (dataFolder: string): HeadMap[] => read(dataFolder) ?? [];

function read(dataFolder: string): HeadMap[] | null {
  try {
    return headsFile.parse(JSON.parse(fs.readFileSync(fileIn(dataFolder), 'utf8'))).heads;
  } catch {
    return null;
  }
}

/** Remembers; a head that is known already is what was said last. */
export function rememberHeads(dataFolder: string, heads: readonly HeadMap[]): HeadMap[] {
  const before = read(dataFolder);
  // Keep an unreadable file under another name.
  if (before === null) setAside(fileIn(dataFolder));
  const all = new Map((before ?? []).map((h) => [h.from, h.to]));
  for (const { from, to } of heads) all.set(tidy(from), tidy(to));
  const list = [...all].map(([from, to]) => ({ from, to }));
  keepFile(fileIn(dataFolder), `${JSON.stringify({ format: 1, heads: list }, null, 2)}\n`);
  return list;
}

/** A path of another machine as it is here; null: no head says. The longest head counts. */
export function hereOf(given: string, heads: readonly HeadMap[]): string | null {
  const at = tidy(given);
  const head = heads
    .filter((h) => isUnderHead(`${at}/`, h.from))
    .sort((a, b) => b.from.length - a.from.length)[0];
  if (!head) return null;
  const rest = at.slice(head.from.replace(/\/$/, '').length).replace(/^\//, '');
  return rest === '' ? head.to : `${head.to.replace(/\/$/, '')}/${rest}`;
}

/** Folders outside that a workspace knows and that are not here: of libraries, and of places none of whose heads is a folder here. */
export function unknownHeads(
  file: Pick<WorkspaceFile, 'libraries' | 'places'>,
  heads: readonly HeadMap[],
): { name: string; path: string }[] {
  const isHere = (p: string) => fs.existsSync(toSystem(p)) || hereOf(p, heads) !== null;
  return [
    ...file.libraries.filter((l) => !isHere(l.path)),
    ...file.places
      .filter((p) => p.heads.length > 0 && !p.heads.some(isHere))
      .map((p) => ({ name: p.name, path: p.heads[0]! })),
  ];
}

/** What a workspace's description says once heads of the sending machine are read as they are here; null: it says the same. */
export function mapped(file: WorkspaceFile, heads: readonly HeadMap[]): WorkspaceFile | null {
  const libraries = file.libraries.map((l) => {
    const here = fs.existsSync(toSystem(l.path)) ? null : hereOf(l.path, heads);
    return here === null ? l : { ...l, path: here };
  });
  // A library's old path stays known as a place: scenes may name it.
  const moved = file.libraries
    .filter((l, i) => libraries[i] !== l)
    .map((l) => ({ name: l.name, from: l.path }));
  const places = file.places.map((p) => {
    const here = p.heads.flatMap((h) => hereOf(h, heads) ?? []).filter((h) => !p.heads.includes(h));
    return here.length === 0 ? p : { ...p, heads: [...p.heads, ...new Set(here)] };
  });
  for (const { name, from } of moved) {
    if (places.some((p) => p.heads.includes(from))) continue;
    places.push({ name, heads: [from, hereOf(from, heads)!] });
  }
  const after = { ...file, libraries, places };
  return JSON.stringify(after) === JSON.stringify(file) ? null : after;
}
