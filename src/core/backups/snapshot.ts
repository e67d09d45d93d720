// A snapshot: what lay in a workspace at one time. One file, `snapshots/<workspace>/<id>.json`, and a copy of it beside; what the files held lies in
// the store of the backup folder. The last line is a checksum of all before it: what was spoilt on the drive since is not taken for a snapshot.

import { treePath, type TreePath } from '../files/treePath';
import {
  bytesOf,
  isKeptFile,
  isKeptLink,
  isPackSize,
  isPathBelow,
  type FolderState,
  type PackSize,
} from '../versions/folderState';

export interface Snapshot extends FolderState {
  format: 1;
  id: string;
  /** `key`: the series, the same for all snapshots of one workspace; where it lay, on which machine; its folder there (absent before 0.2.0). */
  workspace: { key: string; name: string; root: string; host: string; folderId?: string | undefined };
  /** When it was begun: ISO 8601, UTC. */
  time: string;
  packs: PackSize[];
  /** Bytes that the store took for it. */
  added: number;
}

export const snapshotsFolder = treePath('snapshots');
export const snapshotPath = (key: string, id: string): TreePath =>
  treePath(`${snapshotsFolder}/${key}/${id}.json`);
export const snapshotCopyPath = (key: string, id: string): TreePath =>
  treePath(`${snapshotsFolder}/${key}/${id}.copy.json`);

/** The text of a snapshot. `sumOf`: the checksum of a text. */
export function writeSnapshot(snapshot: Snapshot, sumOf: (text: string) => string): string {
  const { files, links, folders, ...head } = snapshot;
  // A file a line: the record can be read without this application.
  const lines = [
    JSON.stringify(head),
    ...files.map((f) => JSON.stringify({ file: f })),
    ...links.map((l) => JSON.stringify({ link: l })),
    ...folders.map((f) => JSON.stringify({ folder: f })),
  ];
  const text = `${lines.join('\n')}\n`;
  return `${text}${JSON.stringify({ sum: sumOf(text) })}\n`;
}

const isText = (x: unknown): x is string => typeof x === 'string';
const isNumber = (x: unknown): x is number => typeof x === 'number' && Number.isFinite(x);
/** Reads one. Null: it is spoilt, or none; 'newer': of a newer application. */
export function readSnapshot(text: string, sumOf: (text: string) => string): Snapshot | 'newer' | null {
  const end = text.lastIndexOf('\n', text.length - 2) + 1;
  const body = text.slice(0, end);
  try {
    const { sum } = JSON.parse(text.slice(end)) as { sum?: unknown };
    // The last line is what was written, to the byte: no change of the record goes unseen, be it one that says the same.
    if (sum !== sumOf(body) || text.slice(end) !== `${JSON.stringify({ sum })}\n`) return null;
    const [first, ...rest] = body.slice(0, -1).split('\n');
    const head = JSON.parse(first!) as Omit<Snapshot, 'files' | 'links' | 'folders'>;
    if (isNumber(head.format) && head.format > 1) return 'newer';
    if (!isHead(head)) return null;
    const snapshot: Snapshot = { ...head, files: [], links: [], folders: [] };
    for (const line of rest) {
      const { file, link, folder } = JSON.parse(line) as { file?: unknown; link?: unknown; folder?: unknown };
      if (isKeptFile(file)) snapshot.files.push(file);
      else if (isKeptLink(link)) snapshot.links.push(link);
      else if (isPathBelow(folder)) snapshot.folders.push(folder);
      else return null;
    }
    return snapshot;
  } catch {
    return null;
  }
}

function isHead(head: Omit<Snapshot, 'files' | 'links' | 'folders'>): boolean {
  const { workspace } = head;
  return (
    head.format === 1 &&
    /^[\w-]+$/.test(head.id) &&
    !Number.isNaN(Date.parse(head.time)) &&
    typeof workspace === 'object' &&
    [workspace.key, workspace.name, workspace.root, workspace.host].every(isText) &&
    /^[\w-]+$/.test(workspace.key) &&
    Array.isArray(head.packs) &&
    head.packs.every(isPackSize) &&
    Array.isArray(head.unread) &&
    head.unread.every(isText) &&
    isNumber(head.added)
  );
}

/** A snapshot as it is listed. Bytes of its files; `added`: what the store took for it. */
export interface SnapshotMade {
  id: string;
  key: string;
  name: string;
  root: string;
  host: string;
  time: string;
  files: number;
  bytes: number;
  added: number;
  unread: number;
}

/**
 * The time in an id, in ms. Ids grow with each snapshot of a backup folder, also where the clock was set back: their order is that in which snapshots
 * were taken, the newest last. NaN: it is no id.
 */
export function orderOf(id: string): number {
  const m = /^(\d{4})(\d\d)(\d\d)-(\d\d)(\d\d)(\d\d)/.exec(id);
  if (!m) return NaN;
  const [year, month, day, hour, minute, second] = m.slice(1).map(Number) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  return Date.UTC(year, month - 1, day, hour, minute, second);
}

/** The beginning of an id taken at `now` (ms) that comes after all of `ids`. */
export function nextOrder(now: number, ids: Iterable<string>): string {
  let most = 0;
  for (const id of ids) most = Math.max(most, orderOf(id) || 0);
  const time = new Date(now > most ? now : most + 1000).toISOString();
  return time.replace(/[-:]/g, '').replace('T', '-').slice(0, 15);
}

export const summaryOf = (s: Snapshot): SnapshotMade => ({
  id: s.id,
  key: s.workspace.key,
  name: s.workspace.name,
  root: s.workspace.root,
  host: s.workspace.host,
  time: s.time,
  files: s.files.length,
  bytes: bytesOf(s),
  added: s.added,
  unread: s.unread.length,
});
