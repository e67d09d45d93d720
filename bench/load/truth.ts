// What has to be so afterwards: nothing lost, nothing twice, every ledger true. Read from the disk and from the journals, not from the server.

import fs from 'node:fs';
import path from 'node:path';
import { readJournals } from '@/core/changes/journal';
import { settingOf } from '@/core/plans/workspace';
import { scan } from '@/core/references/scan';
import { parseJournalLine } from '@/wire/plan';
import { DiskTree } from '@/server/disk/diskTree';
import { readWorkspace } from '@/server/workspaces/open';
import { openEntries, recordsIn } from '@/server/workspaces/changing';
import type { Told } from './artist';
import type { Place } from './world';

function filesOf(root: string): Map<string, Buffer> {
  const found = new Map<string, Buffer>();
  for (const e of fs.readdirSync(root, { recursive: true, withFileTypes: true })) {
    const full = path.join(e.parentPath, e.name);
    const inside = path.relative(root, full).replaceAll('\\', '/');
    if (e.isFile() && !inside.startsWith('.satchel/')) found.set(inside, fs.readFileSync(full));
  }
  return found;
}

/** What is wrong in one workspace; empty: nothing. */
export async function wrongIn(place: Place, told: readonly Told[]): Promise<string[]> {
  const wrong: string[] = [];
  const say = (what: string) => wrong.push(`${place.root}: ${what}`);
  const tree = new DiskTree(place.root);
  const files = filesOf(place.root);
  for (const open of await openEntries(recordsIn(place.root))) say(`“${open.title}” is ${open.why}`);

  // Nothing lost: each texture is there once, whatever it is called by now.
  const held = new Map<string, string[]>();
  for (const [name, content] of files)
    if (name.endsWith('.png')) held.set(content.toString(), [...(held.get(content.toString()) ?? []), name]);
  for (const content of place.contents) {
    const at = held.get(content) ?? [];
    if (at.length !== 1) say(`“${content}” is there ${at.length} times: ${at.join(', ')}`);
    held.delete(content);
  }
  for (const [content, at] of held) say(`nobody made ${at.join(', ')}: ${content.slice(0, 40)}`);

  // Every ledger true: what its entries say, one after the other, comes to what lies there.
  const journals = await readJournals(tree, parseJournalLine);
  const expected = new Set([
    ...place.contents.map((_, t) => `textures/t${t}.png`),
    ...['scenes/harbour_v001.gltf', 'scenes/boat_v001.gltf'],
  ]);
  for (const { plan, end, damaged, id } of journals) {
    if (damaged) say(`the record ${id} is damaged`);
    if (end?.how !== 'applied') continue;
    for (const s of plan.steps) {
      if (s.do === 'put') expected.add(s.path);
      else if (s.do === 'move' && expected.delete(s.path)) expected.add(s.to);
      else if (s.do === 'remove') expected.delete(s.path);
    }
  }
  const inside = [...expected].filter((p) => !p.startsWith('.satchel/'));
  for (const p of inside) if (!files.has(p)) say(`${p} is not there, though the ledger says so`);
  for (const p of files.keys())
    if (!expected.has(p)) say(`${p} is there, though the ledger says nothing of it`);

  // What was told as done stands in the ledger, once; what was told as not done does not.
  const byId = new Map(journals.map((j) => [j.id, j]));
  const notes = new Map<string, number>();
  for (const { plan, end } of journals)
    if (end?.how === 'applied' && plan.undoes === undefined)
      for (const [note] of JSON.stringify(plan).matchAll(/Artist \d+, the \d+\./g))
        notes.set(note, (notes.get(note) ?? 0) + 1);
  for (const t of told) {
    if (t.how === 'done' && byId.get(t.entry!)?.end?.how !== 'applied')
      say(`${t.what} ${t.entry} was told as done and is not in the ledger`);
    if (t.what !== 'save' && t.what !== 'verb') continue;
    const n = notes.get(t.note) ?? 0;
    if (n > 1) say(`${t.note} is there ${n} times`);
    if (t.how === 'done' && n !== 1) say(`${t.note} was told as done, and is there ${n} times`);
    if (t.how === 'not done' && n !== 0) say(`${t.note} was told as not done, and is there`);
  }

  // Every scene still finds what it found.
  const workspace = await readWorkspace(place.root);
  for await (const report of scan(workspace.tree, settingOf(workspace)))
    for (const r of report.references) if (r.target === null) say(`${report.path} lost ${r.written}`);
  for (const name of fs.readdirSync(path.join(place.root, '.satchel')))
    if (/^lock|\.part$|\.new$/.test(name) && !name.includes('lock.')) say(`.satchel/${name} was left`);
  return wrong;
}
