// What is written down about a plan, so that a crash at any moment can be repaired and every change undone later.
// One file per applied plan, `.satchel/journal/<id>.jsonl`; each line is
//
//     \n<digest> <json>
//
// The newline comes first, so a torn line spoils only itself. From format 2 on the digest is that of the line before and the JSON: a line
// that was lost or changed breaks the chain, while one that was torn at writing never was part of it. What ends at a whole line but without
// its end is told from a lost tail by what lies on the disk (recover.ts) and by the summary beside it (summary.ts).

import { digestOf, type Digest } from '../files/digest';
import type { FileTree, WritableFileTree } from '../files/fileTree';
import { journalFolder } from '../files/records';
import { treePath, type TreePath } from '../files/treePath';
import { utf8, decodeText } from '../text/bytes';
import type { Plan } from './plan';

/** The newest format that is written and understood here. */
export const journalFormat = 2;

/** Who began a plan: an installation's name, a seal that only this installation can make (see `sealOf`), and the person's name where several work there. */
export interface Author {
  installation: string;
  seal: string;
  name?: string | undefined;
}

/** What a step found and what it makes. */
export interface AboutLine {
  line: 'about';
  step: number;
  /** Content id of what will lie there. */
  digest: Digest | null;
  /** Content id under which what lies there now was kept. */
  kept: Digest | null;
  /** It need not be made. */
  skip?: boolean | undefined;
  /** Time of what will lie there, ms. */
  modified?: number | undefined;
  /** Time and permission bits of what lies there now. */
  was?: { modified: number; mode?: number | undefined } | undefined;
}

/** One line. Times are ISO 8601 in UTC. */
export type JournalLine =
  | {
      line: 'plan';
      id: string;
      time: string;
      plan: Plan;
      format?: number;
      seq?: number;
      by?: Author | undefined;
    }
  /** A step is about to be made. */
  | AboutLine
  | { line: 'applied'; time: string }
  /** From here on steps are undone, the last first: that the last one shows on the disk says nothing any more. */
  | { line: 'putting-back' }
  /** All that was done is undone again; `left` names files that were in neither state and were not touched. */
  | { line: 'put-back'; time: string; because: string; left: string[] };

/** What the journal says of a step that was begun. */
export type About = Omit<AboutLine, 'line' | 'step' | 'skip'> & { skip: boolean };

export type Ending =
  { how: 'applied'; time: string } | { how: 'put-back'; time: string; because: string; left: string[] };

/** A journal as read: the plan, and how far it went. */
export interface JournalRecord {
  id: string;
  /** The order in which plans were begun in this workspace; 0 in journals that did not count yet. */
  seq: number;
  time: string;
  plan: Plan;
  by: Author | null;
  about: Map<number, About>;
  /** Putting back was begun. */
  isBeingPutBack: boolean;
  end: Ending | null;
  /** A line was lost or changed: what it says cannot be relied on. */
  damaged: boolean;
  /** Digest of the last whole line, which the next one carries on. */
  last: string;
}

/** A file that lies among journals and cannot be used: its plan is damaged, or it was written by a newer version. */
export interface UnreadJournal {
  id: string;
  why: 'damaged' | 'newer';
}

/** Path of a plan's journal. */
export function journalPath(id: string): TreePath {
  return treePath(`${journalFolder}/${id}.jsonl`);
}

/** A plan as JSON with sorted keys: the same text before it is written and after it was read, whatever order a parser gives its keys. */
export const planText = (plan: Plan): string =>
  JSON.stringify(plan, (_, value: unknown) =>
    typeof value === 'object' && value !== null && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
      : value,
  );

interface Sealed {
  id: string;
  seq: number;
  plan: Plan;
}

const sealWith = (root: string, { id, seq }: Sealed, text: string) =>
  `${root}\n${id}\n${seq}\n${digestOf(utf8(text))}`;

/** The text that a seal signs: the plan, its place in the ledger, and the folder it was begun in. */
export const sealOf = (root: string, of: Sealed): string => sealWith(root, of, planText(of.plan));

/** All texts that a seal of this record may have signed. Earlier versions signed the plan with its keys in the order they were written. */
export const sealsOf = (root: string, of: Sealed): string[] => [
  sealOf(root, of),
  sealWith(root, of, JSON.stringify(of.plan)),
];

/** Bytes of one line, and its digest. `last`: digest of the line before; '' for the first. */
export function encodeLine(line: JournalLine, last: string): { bytes: Uint8Array; digest: string } {
  const json = JSON.stringify(line);
  const digest = digestOf(utf8(last + json));
  return { bytes: utf8(`\n${digest} ${json}`), digest };
}

/** Adds a line to a record's journal; it is safe when this resolves. */
export async function writeLine(
  tree: WritableFileTree,
  record: Pick<JournalRecord, 'id' | 'last'>,
  line: JournalLine,
): Promise<void> {
  const { bytes, digest } = encodeLine(line, record.last);
  await tree.append(journalPath(record.id), bytes);
  record.last = digest;
}

export type ParseLine = (value: unknown) => JournalLine | null;

type ReadLine = { how: 'whole'; value: unknown; digest: string } | { how: 'torn' | 'broken' };

/**
 * A line's JSON where its digest is right, by the chain or, in older journals, by itself. 'torn': it ends in the middle, as a write that was cut
 * off does. 'broken': it is whole but not what was written, or a line before it was lost.
 */
function lineOf(text: string, last: string): ReadLine {
  const [digest, json] = [text.slice(0, 64), text.slice(65)];
  let value: unknown;
  try {
    value = JSON.parse(json);
  } catch {
    return { how: 'torn' };
  }
  const isRight = digestOf(utf8(last + json)) === digest || digestOf(utf8(json)) === digest;
  return isRight && text[64] === ' ' ? { how: 'whole', value, digest } : { how: 'broken' };
}

/** A journal's bytes as a record. Null: not even the plan was written whole, so nothing was touched. */
export function readRecord(
  id: string,
  bytes: Uint8Array,
  parse: ParseLine,
): JournalRecord | UnreadJournal | null {
  const [before, ...texts] = decodeText(bytes).text.split('\n');
  if (texts.length === 0) return null;
  const first = lineOf(texts[0]!, '');
  if (first.how !== 'whole' || before !== '')
    return first.how === 'torn' && texts.length === 1 ? null : { id, why: 'damaged' };
  const format = (first.value as { format?: unknown } | null)?.format;
  if (typeof format === 'number' && format > journalFormat) return { id, why: 'newer' };
  const plan = parse(first.value);
  if (plan?.line !== 'plan') return { id, why: 'damaged' };
  const record = begin(plan, first.digest);
  let torn = false;
  for (const text of texts.slice(1)) {
    const read = lineOf(text, record.last);
    if (read.how !== 'whole') {
      torn = true;
      record.damaged ||= read.how === 'broken';
      continue;
    }
    const line = parse(read.value);
    // A torn line is none of the chain; in older journals, which had no chain, nobody can tell.
    if (!line || (torn && record.seq === 0)) record.damaged = true;
    else add(record, line);
    record.last = read.digest;
  }
  return record;
}

function begin(line: JournalLine & { line: 'plan' }, digest: string): JournalRecord {
  return {
    id: line.id,
    seq: line.seq ?? 0,
    time: line.time,
    plan: line.plan,
    by: line.by ?? null,
    about: new Map(),
    isBeingPutBack: false,
    end: null,
    damaged: false,
    last: digest,
  };
}

function add(record: JournalRecord, line: JournalLine): void {
  if (line.line === 'about') {
    const { step, digest, kept, skip, modified, was } = line;
    record.about.set(step, { digest, kept, skip: skip === true, modified, was });
  } else if (line.line === 'putting-back') record.isBeingPutBack = true;
  else if (line.line === 'applied') record.end = { how: 'applied', time: line.time };
  else if (line.line === 'put-back')
    record.end = { how: 'put-back', time: line.time, because: line.because, left: line.left };
  else record.damaged = true;
}

/** Ids of all journals of a tree. */
export async function journalIds(tree: FileTree): Promise<string[]> {
  return ((await tree.entries(journalFolder)) ?? []).flatMap((e) =>
    e.kind === 'file' && e.link === undefined && e.name.endsWith('.jsonl') ? [e.name.slice(0, -6)] : [],
  );
}

/** One journal; null where there is none, or nothing came of it. */
export async function readJournal(
  tree: FileTree,
  id: string,
  parse: ParseLine,
): Promise<JournalRecord | UnreadJournal | null> {
  const path = journalPath(id);
  return (await tree.kind(path)) === 'file' ? readRecord(id, await tree.read(path), parse) : null;
}

/** Whether a reading is a record. */
export function isRecord(read: JournalRecord | UnreadJournal | null): read is JournalRecord {
  return read !== null && 'plan' in read;
}

/** Orders by when plans were begun: by their number where they have one, older journals first, by their ids. */
export function byOrder(a: Pick<JournalRecord, 'seq' | 'id'>, b: Pick<JournalRecord, 'seq' | 'id'>): number {
  return a.seq - b.seq || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);
}

/** Every journal of a tree that can be read, oldest first. */
export async function readJournals(tree: FileTree, parse: ParseLine): Promise<JournalRecord[]> {
  const records: JournalRecord[] = [];
  for (const id of await journalIds(tree)) {
    const read = await readJournal(tree, id, parse);
    if (isRecord(read)) records.push(read);
  }
  return records.sort(byOrder);
}
