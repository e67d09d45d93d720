// What is written down about a version, `.satchel/versions/<its path>.json`: the user's note, what it was made from, what it held, the way back to
// the bytes the scene had at its own place, and where it lies when it is kept compact. Fields of a newer application are passed over.

import type { Digest } from '../files/digest';
import { isTreePath, treePath, type TreePath } from '../files/treePath';
import { versionsFolder } from '../files/records';

/** Bytes of the version's file, or bytes as one character each, that give the scene as it was. */
export type BackPiece = { copy: [number, number] } | { latin1: string };

/** A file in the store: its path when it was on the disk, content id, size in bytes, and time in ms. */
export interface StoredFile {
  path: TreePath;
  digest: Digest;
  size: number;
  modified: number;
  /** Permission bits, where they were known. */
  mode?: number | undefined;
  /** `FileStat.changed`, where it was known. */
  changed?: number | undefined;
}

/** One file that a version was made of: what it was called beside the scene and is called beside the version, what it held and holds. */
export interface VersionPart {
  from: string;
  to: string;
  content: Digest;
  made: Digest;
  /** How the version's file gives back what it was made from; absent: it is the same. */
  back?: BackPiece[] | undefined;
}

export interface VersionNote {
  note: string;
  /** The file it was made from. */
  from: string;
  /** ISO 8601, UTC. */
  saved: string;
  /** The name of who saved it, where several work there. */
  by?: string | undefined;
  /** What it was made of: what belongs to the scene alone (its buffer, its material library), and the scene. */
  parts?: VersionPart[] | undefined;
  /** The files that lie in the store and no more on the disk. */
  compact?: StoredFile[] | undefined;
}

/** Where the note about a version is written. */
export function versionNotePath(version: TreePath): TreePath {
  return treePath(`${versionsFolder}/${version}.json`);
}

const isText = (x: unknown): x is string => typeof x === 'string';
const isObject = (x: unknown): x is Record<string, unknown> =>
  typeof x === 'object' && x !== null && !Array.isArray(x);
const isDigest = (x: unknown): x is Digest => isText(x) && /^[0-9a-f]{64}$/.test(x);
const isCount = (x: unknown): x is number => typeof x === 'number' && Number.isFinite(x);

function isPiece(x: unknown): x is BackPiece {
  if (!isObject(x)) return false;
  if (isText(x.latin1)) return true;
  return Array.isArray(x.copy) && x.copy.length === 2 && x.copy.every(isCount);
}

const isName = (x: unknown): x is string => isText(x) && x !== '' && !x.includes('/');

function isPart(x: unknown): x is VersionPart {
  if (!isObject(x) || !isName(x.from) || !isName(x.to) || !isDigest(x.content) || !isDigest(x.made))
    return false;
  return x.back === undefined || (Array.isArray(x.back) && x.back.every(isPiece));
}

function isStored(x: unknown): x is StoredFile {
  if (!isObject(x) || !isText(x.path) || !isTreePath(x.path)) return false;
  return (
    isDigest(x.digest) && isCount(x.size) && isCount(x.modified) && (x.mode === undefined || isCount(x.mode))
  );
}

/** A list all of which is as it should be; undefined where it is not, or empty. */
function listOf<T>(x: unknown, is: (x: unknown) => x is T): T[] | undefined {
  return Array.isArray(x) && x.length > 0 && x.every(is) ? x : undefined;
}

/** A note read; null where it is none. What is wrong in it is left out. */
export function readVersionNote(text: string): VersionNote | null {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return null;
  }
  if (!isObject(value) || !isText(value.note) || !isText(value.from) || !isText(value.saved)) return null;
  return {
    note: value.note,
    from: value.from,
    saved: value.saved,
    by: isText(value.by) ? value.by : undefined,
    parts: listOf(value.parts, isPart),
    compact: listOf(value.compact, isStored),
  };
}

/**
 * The contents that a note's version needs of the store; null where it cannot be told: the note is damaged, or says in a way that is not known here
 * where its files are.
 */
export function storedBy(text: string): Digest[] | null {
  const note = readVersionNote(text);
  if (!note) return null;
  const says = (JSON.parse(text) as { compact?: unknown }).compact;
  if (says !== undefined && note.compact === undefined) return null;
  return (note.compact ?? []).map((f) => f.digest);
}

/** The version that a note is about; null for another file. */
export function versionOfNote(path: TreePath): TreePath | null {
  const below = path.startsWith(`${versionsFolder}/`) ? path.slice(versionsFolder.length + 1) : '';
  return below.endsWith('.json') && below.length > 5 ? treePath(below.slice(0, -5)) : null;
}

/** A note as it is written. */
export function writeVersionNote(note: VersionNote): string {
  return `${JSON.stringify(note, null, 2)}\n`;
}
