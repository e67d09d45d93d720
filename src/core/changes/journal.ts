// What is written down about a plan, so that a crash at any moment can be repaired and every change undone later.
// One file per applied plan, `.satchel/journal/<id>.jsonl`; each line is `\n<digest> <json>`: the newline comes first, so a
// torn line spoils only itself, and the digest (of the JSON bytes) tells a whole line from a torn one.

import { digestOf, type Digest } from '../files/digest';
import type { FileTree, WritableFileTree } from '../files/fileTree';
import { treePath, type TreePath } from '../files/treePath';
import { utf8, decodeText } from '../text/bytes';
import type { Plan } from './plan';

export const journalFolder = treePath('.satchel/journal');
export const storeFolder = treePath('.satchel/store');

/** One line. Times are ISO 8601 in UTC. */
export type JournalLine =
  | { line: 'plan'; id: string; time: string; plan: Plan }
  /** Step `step` is about to be made: digest of the new content, digest under which the old was kept; `skip`: it need not be made. */
  | { line: 'about'; step: number; digest: Digest | null; kept: Digest | null; skip?: boolean }
  | { line: 'applied'; time: string }
  /** All that was done is undone again; `left` names files that were in neither state and were not touched. */
  | { line: 'put-back'; time: string; because: string; left: string[] };

/** What the journal says of a step that was begun: content after it, content kept from before it, whether there was nothing to do. */
export interface About {
  digest: Digest | null;
  kept: Digest | null;
  skip: boolean;
}

/** A journal as read: the plan, and how far it went. */
export interface JournalRecord {
  id: string;
  time: string;
  plan: Plan;
  about: Map<number, About>;
  end:
    | { how: 'applied'; time: string }
    | { how: 'put-back'; time: string; because: string; left: string[] }
    | null;
}

/** Path of a plan's journal. */
export function journalPath(id: string): TreePath {
  return treePath(`${journalFolder}/${id}.jsonl`);
}

/** Path under which content is kept. */
export function storePath(digest: Digest): TreePath {
  return treePath(`${storeFolder}/${digest.slice(0, 2)}/${digest}`);
}

/** Bytes of one line. */
export function encodeLine(line: JournalLine): Uint8Array {
  const json = JSON.stringify(line);
  return utf8(`\n${digestOf(utf8(json))} ${json}`);
}

/** Adds a line; it is safe when this resolves. */
export async function writeLine(tree: WritableFileTree, id: string, line: JournalLine): Promise<void> {
  await tree.append(journalPath(id), encodeLine(line));
}

/** Whole lines of a journal, torn ones left out. `parse` checks the shape of a line and returns null for what it does not know. */
export function decodeLines(bytes: Uint8Array, parse: (value: unknown) => JournalLine | null): JournalLine[] {
  const lines: JournalLine[] = [];
  for (const text of decodeText(bytes).text.split('\n')) {
    const space = text.indexOf(' ');
    if (space !== 64) continue;
    const json = text.slice(space + 1);
    if (digestOf(utf8(json)) !== text.slice(0, space)) continue;
    const line = parse(JSON.parse(json));
    if (line) lines.push(line);
  }
  return lines;
}

/** Lines as a record; null when not even the plan was written whole (then nothing was touched). */
export function recordOf(lines: readonly JournalLine[]): JournalRecord | null {
  const first = lines.find((l) => l.line === 'plan');
  if (!first) return null;
  const record: JournalRecord = {
    id: first.id,
    time: first.time,
    plan: first.plan,
    about: new Map(),
    end: null,
  };
  for (const l of lines) {
    if (l.line === 'about')
      record.about.set(l.step, { digest: l.digest, kept: l.kept, skip: l.skip === true });
    else if (l.line === 'applied') record.end = { how: 'applied', time: l.time };
    else if (l.line === 'put-back')
      record.end = { how: 'put-back', time: l.time, because: l.because, left: l.left };
  }
  return record;
}

export type ParseLine = (value: unknown) => JournalLine | null;

/** Every journal of a tree, oldest first. */
export async function readJournals(tree: FileTree, parse: ParseLine): Promise<JournalRecord[]> {
  const records: JournalRecord[] = [];
  for (const entry of (await tree.entries(journalFolder)) ?? []) {
    if (entry.kind !== 'file' || !entry.name.endsWith('.jsonl')) continue;
    const record = recordOf(decodeLines(await tree.read(treePath(`${journalFolder}/${entry.name}`)), parse));
    if (record) records.push(record);
  }
  return records.sort((a, b) => (a.id < b.id ? -1 : 1));
}

/** One line of the ledger. */
export interface LedgerEntry {
  id: string;
  time: string;
  kind: Plan['kind'];
  title: string;
  state: 'applied' | 'undone' | 'put back' | 'unfinished';
  undoes: string | null;
  /** Files and folders the plan touches, and written paths it changes. */
  files: number;
  paths: number;
  /** Files that were left as they are because they were in neither state. */
  left: string[];
}

/** The ledger, newest first. A plan counts as undone when an applied plan that turns it round is not itself undone. */
export function ledgerOf(records: readonly JournalRecord[]): LedgerEntry[] {
  const undone = new Set<string>();
  for (const record of [...records].reverse()) {
    if (record.end?.how === 'applied' && record.plan.undoes && !undone.has(record.id))
      undone.add(record.plan.undoes);
  }
  return records
    .map((r): LedgerEntry => ({
      id: r.id,
      time: r.time,
      kind: r.plan.kind,
      title: r.plan.title,
      undoes: r.plan.undoes ?? null,
      state:
        r.end === null
          ? 'unfinished'
          : r.end.how === 'put-back'
            ? 'put back'
            : undone.has(r.id)
              ? 'undone'
              : 'applied',
      files: r.plan.steps.filter(
        (s) => s.do === 'put' || s.do === 'move' || s.do === 'remove' || s.do === 'move-folder',
      ).length,
      paths: r.plan.paths.length,
      left: r.end?.how === 'put-back' ? r.end.left : [],
    }))
    .reverse();
}
