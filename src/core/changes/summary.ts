// A ledger entry in short, `.satchel/journal/<id>.json`, written when a plan has ended: the ledger is read from these, a plan's body only when
// it is asked for. A journal without one is unfinished, older than they are, or lost its summary; then the journal itself says.

import type { FileTree, WritableFileTree } from '../files/fileTree';
import { once } from '../files/fileTree';
import { journalFolder } from '../files/records';
import { treePath, type TreePath } from '../files/treePath';
import { decodeText, utf8 } from '../text/bytes';
import { touched } from './depends';
import { byOrder, isRecord, readJournal, type Ending, type JournalRecord, type ParseLine } from './journal';
import type { PathChange, Plan } from './plan';

/** So many touched paths and changed references are named in a summary. */
export const mostNamed = 200;

export interface Summary {
  format: 2;
  id: string;
  seq: number;
  time: string;
  kind: Plan['kind'];
  title: string;
  undoes: string | null;
  end: Ending;
  /** How many files and folders the plan touches, and written paths it changes. */
  files: number;
  paths: number;
  /** The first of each, and the folders that moved. */
  touched: readonly string[];
  folders: readonly string[];
  changes: readonly PathChange[];
  /** The name of who did it, where several work there. */
  by?: string | undefined;
}

/** An entry whose plan did not end, or cannot be read. */
export interface OpenEntry {
  id: string;
  title: string | null;
  time: string | null;
  why: 'unfinished' | 'damaged' | 'newer';
}

export function summaryPath(id: string): TreePath {
  return treePath(`${journalFolder}/${id}.json`);
}

/** The summary of a record that has ended. */
export function summarise(record: JournalRecord, end: Ending): Summary {
  const { id, seq, time, plan, by } = record;
  const { paths, folders } = touched(plan);
  return {
    format: 2,
    id,
    seq,
    time,
    kind: plan.kind,
    title: plan.title,
    undoes: plan.undoes ?? null,
    end,
    files: paths.length,
    paths: plan.paths.length,
    touched: paths.slice(0, mostNamed),
    folders: folders.slice(0, mostNamed),
    changes: plan.paths.slice(0, mostNamed),
    ...(by?.name === undefined ? {} : { by: by.name }),
  };
}

export async function writeSummary(tree: WritableFileTree, summary: Summary): Promise<void> {
  await tree.write(summaryPath(summary.id), once(utf8(JSON.stringify(summary))), {
    replace: true,
    tag: `${summary.id}-0`,
  });
}

export type ParseSummary = (value: unknown) => Summary | null;

/** Everything the ledger knows: ended plans, oldest first, and what is open. */
export interface LedgerRead {
  ended: Summary[];
  open: OpenEntry[];
}

// Summaries made of journals that have none, so that these are read once: by path, as long as the file is the same.
const made = new Map<string, { size: number; modified: number; read: Summary | OpenEntry | null }>();
const mostMade = 2000;

/** Reads the ledger. `key` tells trees apart. */
export async function readLedgerOf(
  tree: FileTree,
  key: string,
  parseLine: ParseLine,
  parseSummary: ParseSummary,
): Promise<LedgerRead> {
  const names = new Set(((await tree.entries(journalFolder)) ?? []).map((e) => e.name));
  const found: LedgerRead = { ended: [], open: [] };
  for (const name of names) {
    if (!name.endsWith('.jsonl')) continue;
    const id = name.slice(0, -6);
    const read =
      (names.has(`${id}.json`) ? await readSummary(tree, id, parseSummary) : null) ??
      (await summaryOfJournal(tree, key, id, parseLine));
    if (read && 'end' in read) found.ended.push(read);
    else if (read) found.open.push(read);
  }
  found.ended.sort(byOrder);
  return found;
}

const mostTried = 5;

/** The plan that was applied last, by what ids begin with, the time: cheap, however long the ledger is. Null: none, or none of the newest can be read. */
export async function readLatest(tree: FileTree, parseSummary: ParseSummary): Promise<Summary | null> {
  const ids = ((await tree.entries(journalFolder)) ?? [])
    .flatMap((e) => (e.name.endsWith('.json') ? [e.name.slice(0, -5)] : []))
    .sort();
  for (const id of ids.reverse().slice(0, mostTried)) {
    const read = await readSummary(tree, id, parseSummary);
    if (read?.end.how === 'applied') return read;
  }
  return null;
}

/** What is open, from the journals alone that have no summary: cheap, where nothing is. */
export async function readOpen(tree: FileTree, key: string, parseLine: ParseLine): Promise<OpenEntry[]> {
  const names = new Set(((await tree.entries(journalFolder)) ?? []).map((e) => e.name));
  const open: OpenEntry[] = [];
  for (const name of names) {
    if (!name.endsWith('.jsonl') || names.has(`${name.slice(0, -6)}.json`)) continue;
    const read = await summaryOfJournal(tree, key, name.slice(0, -6), parseLine);
    if (read && !('end' in read)) open.push(read);
  }
  return open;
}

async function readSummary(tree: FileTree, id: string, parse: ParseSummary): Promise<Summary | null> {
  try {
    return parse(JSON.parse(decodeText(await tree.read(summaryPath(id))).text));
  } catch {
    return null;
  }
}

async function summaryOfJournal(
  tree: FileTree,
  key: string,
  id: string,
  parseLine: ParseLine,
): Promise<Summary | OpenEntry | null> {
  const path = treePath(`${journalFolder}/${id}.jsonl`);
  const stat = await tree.stat(path);
  if (!stat) return null;
  const at = `${key}\0${id}`;
  const known = made.get(at);
  if (known && known.size === stat.size && known.modified === stat.modified) return known.read;
  const record = await readJournal(tree, id, parseLine);
  const read = !isRecord(record)
    ? record && { id, title: null, time: null, why: record.why }
    : record.damaged || record.end === null
      ? {
          id,
          title: record.plan.title,
          time: record.time,
          why: record.damaged ? ('damaged' as const) : ('unfinished' as const),
        }
      : summarise(record, record.end);
  // An open one changes while it is being worked on, within the grain of a clock.
  if (read && 'end' in read) made.set(at, { size: stat.size, modified: stat.modified, read });
  if (made.size > mostMade) made.delete(made.keys().next().value!);
  return read;
}

/** One line of the ledger. */
export interface LedgerEntry {
  id: string;
  time: string;
  kind: Plan['kind'];
  title: string;
  state: 'applied' | 'undone' | 'put back' | 'unfinished' | 'damaged' | 'newer';
  undoes: string | null;
  files: number;
  paths: number;
  /** Files that were left as they are because they were in neither state. */
  left: string[];
  /** The name of who did it, where several work there; null: it is not said. */
  by: string | null;
  /** The first files it touches, which tell alike entries apart. */
  touched: readonly string[];
}

/** Ids of plans that were undone: by an applied plan that turns them round and is not itself undone. */
export function undoneIds(ended: readonly Pick<Summary, 'id' | 'end' | 'undoes'>[]): Set<string> {
  const undone = new Set<string>();
  for (const s of ended.toReversed())
    if (s.end.how === 'applied' && s.undoes && !undone.has(s.id)) undone.add(s.undoes);
  return undone;
}

/** The ledger, newest first; what is open comes first of all. */
export function ledgerOf({ ended, open }: LedgerRead): LedgerEntry[] {
  const undone = undoneIds(ended);
  const lines = ended.map((s): LedgerEntry => ({
    id: s.id,
    time: s.time,
    kind: s.kind,
    title: s.title,
    undoes: s.undoes,
    state: s.end.how === 'put-back' ? 'put back' : undone.has(s.id) ? 'undone' : 'applied',
    files: s.files,
    paths: s.paths,
    left: s.end.how === 'put-back' ? s.end.left : [],
    by: s.by ?? null,
    touched: s.touched.slice(0, 5),
  }));
  const unfinished = open.map((o): LedgerEntry => ({
    id: o.id,
    time: o.time ?? '',
    kind: 'undo',
    title: o.title ?? 'An entry that cannot be read',
    undoes: null,
    state: o.why,
    files: 0,
    paths: 0,
    left: [],
    by: null,
    touched: [],
  }));
  return [...lines, ...unfinished].reverse();
}
