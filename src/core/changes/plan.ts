// A plan: a change worked out but not made. It is a list of small steps, each of which says what was there and what will be,
// so that it can be shown, checked before it is made, written down, and turned round.

import type { Making } from '../convert/made';
import type { Digest } from '../files/digest';
import type { TreePath } from '../files/treePath';
import type { Span } from '../problem';
import type { Piece } from '../text/edits';
import { latin1 } from '../text/bytes';

/** A file as it was seen: size in bytes, modified in ms since 1970 UTC. With a digest, that alone counts; else size and time. */
export interface FileState {
  size: number;
  modified: number;
  digest: Digest | null;
  /** The text of a link, which then is all that counts. */
  link?: string | undefined;
}

/** A piece of new content, as it can be written down: bytes of the source, or new bytes as one character each. */
export type PlanPiece = { copy: Span } | { latin1: string };

/** Where new content comes from. `pieces` null: the whole of it, unchanged. */
export type Source =
  | { from: 'outside'; path: string; state: FileState; pieces: PlanPiece[] | null }
  | { from: 'tree'; path: TreePath; state: FileState; pieces: PlanPiece[] | null }
  | { from: 'store'; digest: Digest; pieces?: PlanPiece[] | null }
  | { from: 'bytes'; latin1: string }
  /** Made of a file by a rule; `digest`: of what comes of it. `outside`: the file by its absolute path. */
  | { from: 'made'; path: string; outside?: boolean; state: FileState; making: Making; digest: Digest }
  /** Put together of several files. */
  | { from: 'files'; files: PieceFile[]; pieces: FilesPiece[] };

/** A file that pieces are taken from: of the tree, or, `outside`, by its absolute path. */
export interface PieceFile {
  path: string;
  state: FileState;
  outside?: boolean | undefined;
}

/** Bytes of one of several files, by its number; or new bytes as one character each. */
export type FilesPiece = { file: number; copy: Span } | { latin1: string };

export type Step =
  /** Writes a file. `before` null: there is none yet. `size` is that of the new content; `modified` null: now. `mode`: permission bits of a new one. */
  | {
      do: 'put';
      path: TreePath;
      before: FileState | null;
      size: number;
      modified: number | null;
      mode?: number | undefined;
      from: Source;
    }
  | { do: 'move'; path: TreePath; to: TreePath; content: FileState }
  /** Renames a folder with all that is in it, whatever that is. */
  | { do: 'move-folder'; path: TreePath; to: TreePath }
  | { do: 'remove'; path: TreePath; before: FileState }
  /** Makes, changes or takes away a link: its text before and after, null where there is none. */
  | { do: 'link'; path: TreePath; before: string | null; after: string | null }
  /** Makes a folder; one that is there already serves, unless `fresh`: then somebody else's is in the way. */
  | { do: 'make-folder'; path: TreePath; mode?: number | undefined; fresh?: boolean | undefined }
  | { do: 'remove-folder'; path: TreePath };

/** A blocker prevents apply; a warning is something left as it is; information just tells. */
export interface Note {
  level: 'blocker' | 'warning' | 'info';
  code: string;
  message: string;
  path?: string;
}

/** One written path, before and after, for showing. `scene` is the path of the file after the plan. */
export interface PathChange {
  scene: string;
  at: string;
  before: string;
  after: string;
}

export const planKinds = [
  'create',
  'adopt',
  'tidy',
  'move',
  'homes',
  'settings',
  'layout',
  'nested',
  'relocate',
  'intake',
  'take',
  'bin',
  'merge',
  'bring',
  'travel',
  'repath',
  'relink',
  'save',
  'restore',
  'habit',
  'compact',
  'back',
  'drop',
  'convert',
  'take-out',
  'passes',
  'collect',
  'carry',
  'carry-nodes',
  'embed',
  'extract',
  'take-over',
  'fit',
  'bundle',
  'apart',
  'arrive',
  'undo',
] as const;
export type PlanKind = (typeof planKinds)[number];

/** What a plan rests on without changing it: it is stale when that is not so any more. */
export interface Basis {
  /** Every scene there was, where a plan had to know all: path, size, time. Another one, or one saved since, may name what moves. */
  scenes?: readonly (readonly [path: string, size: number, modified: number])[] | undefined;
  /** Scenes and folders that could not be read then. */
  unread?: readonly string[] | undefined;
  /** Files it uses as they are: a copy that is there already, what a reference is pointed to. Outside: by absolute path. */
  files?: readonly { path: string; outside: boolean; state: FileState }[] | undefined;
}

export interface Plan {
  kind: PlanKind;
  /** Short, in the imperative, for buttons and the ledger: 'Make 11 references travel'. */
  title: string;
  steps: readonly Step[];
  notes: readonly Note[];
  paths: readonly PathChange[];
  /** How many references are ready before and after, of all that the plan looked at; null where that is not the question. */
  readiness: { before: number; after: number; of: number } | null;
  /** Id of the ledger entry that this plan turns round. */
  undoes?: string | undefined;
  basis?: Basis | undefined;
}

/** The step that writes bytes at hand. `before` null: there is no file yet. */
export function putBytes(path: TreePath, bytes: Uint8Array, before: FileState | null = null) {
  return {
    do: 'put',
    path,
    before,
    size: bytes.length,
    modified: null,
    from: { from: 'bytes', latin1: latin1(bytes) },
  } satisfies Step;
}

/** Pieces as they are written down. */
export function planPieces(pieces: readonly Piece[]): PlanPiece[] {
  return pieces.map((p) => ('copy' in p ? { copy: p.copy } : { latin1: latin1(p.bytes) }));
}

/** Bytes that pieces make. */
export const sizeOfWritten = (pieces: readonly (PlanPiece | FilesPiece)[]): number =>
  pieces.reduce((sum, p) => sum + ('latin1' in p ? p.latin1.length : p.copy[1] - p.copy[0]), 0);

/** The step that writes a file put together of others. `before` null: there is none yet. */
export function putFiles(
  path: TreePath,
  files: PieceFile[],
  pieces: FilesPiece[],
  before: FileState | null = null,
) {
  return {
    do: 'put',
    path,
    before,
    size: sizeOfWritten(pieces),
    modified: null,
    from: { from: 'files', files, pieces },
  } satisfies Step;
}

/** Files outside the tree that a source copies from, by absolute path. */
export function outsideFilesOf(source: Source): string[] {
  if (source.from === 'outside' || (source.from === 'made' && source.outside)) return [source.path];
  return source.from === 'files' ? source.files.flatMap((f) => (f.outside ? [f.path] : [])) : [];
}

/** Bytes a plan will write. */
export function bytesToWrite(plan: Pick<Plan, 'steps'>): number {
  return plan.steps.reduce((sum, s) => sum + (s.do === 'put' ? s.size : 0), 0);
}

/** Notes that prevent the plan. */
export function blockers(plan: Pick<Plan, 'notes'>): Note[] {
  return plan.notes.filter((n) => n.level === 'blocker');
}

/** Bytes that the store may come to hold: of all that is replaced or taken away. */
export function bytesToKeep(plan: Pick<Plan, 'steps'>): number {
  return plan.steps.reduce(
    (sum, s) => sum + ((s.do === 'put' || s.do === 'remove') && s.before ? s.before.size : 0),
    0,
  );
}

/** The longest run of missing parent folders of `path`, outermost first, as steps; `has` tells what is there or planned. */
export function foldersFor(
  path: string,
  has: (folder: string) => boolean,
): { do: 'make-folder'; path: TreePath }[] {
  const steps: { do: 'make-folder'; path: TreePath }[] = [];
  const parts = path.split('/').slice(0, -1);
  for (let i = 1; i <= parts.length; i++) {
    const folder = parts.slice(0, i).join('/');
    if (!has(folder)) steps.push({ do: 'make-folder', path: folder as TreePath });
  }
  return steps;
}
