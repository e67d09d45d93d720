// Proof that every byte of a backup folder is still right: each content that a snapshot needs is read and held against its id. It goes on where it was
// left, can be of one workspace only, and its results stay in the folder with their dates. What is spoilt is named with the files it belongs to.

import { z } from 'zod';
import type { Snapshot } from '@/core/backups/snapshot';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import { once, type CancelSignal } from '@/core/files/fileTree';
import { treePath } from '@/core/files/treePath';
import { packIndex, packPath, packSizes, type PackIndex } from '@/core/store/packIndex';
import { StoreReading } from '@/core/store/reading';
import { asItLies } from '@/core/store/store';
import { decodeText, utf8 } from '@/core/text/bytes';
import { readSnapshots, withBackupLock, type BackupFolder, type Snapshots } from './backupFolder';

const proofsFolder = treePath('proofs');
const proofLog = treePath('proofs/log.jsonl');
const runningFile = treePath('proofs/running.json');

const spoiltSchema = z.object({
  digest: z.string(),
  size: z.number(),
  /** The files of the store it lies in. */
  packs: z.array(z.string()),
  /** missing: the store does not tell of it any more. */
  how: z.enum(['spoilt', 'missing']),
  /** Files that held it, the first few, and how many in all snapshots. */
  files: z.array(z.object({ workspace: z.string(), path: z.string() })),
  count: z.number(),
});
/** A content that is not right any more. */
export type Spoilt = z.infer<typeof spoiltSchema>;

const proofSchema = z.object({
  started: z.string(),
  ended: z.string(),
  /** Of one workspace (its key); null: of all. */
  only: z.string().nullable(),
  contents: z.number(),
  bytes: z.number(),
  spoilt: z.array(spoiltSchema),
  /** Records of snapshots that are spoilt in both copies. */
  records: z.array(z.string()),
});
/** What a proof found. Sizes in bytes, times ISO 8601. */
export type Proof = z.infer<typeof proofSchema>;

const runningSchema = proofSchema.omit({ ended: true, records: true }).extend({
  at: z.tuple([z.number(), z.number(), z.string()]),
  packs: z.array(z.tuple([z.number(), z.number()])),
});
type Running = z.infer<typeof runningSchema>;

export interface ProveOptions {
  /** Only what snapshots of this workspace need. */
  only?: string | undefined;
  /** Begins anew, also where one was left half way. */
  anew?: boolean | undefined;
  /** Ends after so many ms, to be gone on with later; absent: at the end. */
  budget?: number | undefined;
  signal?: CancelSignal | undefined;
  onProgress?:
    | ((done: { files: number; filesTotal: number; bytes: number; bytesTotal: number; path: string }) => void)
    | undefined;
}

export interface Proving {
  /** Null: it was left half way, and goes on from there the next time. */
  proof: Proof | null;
  /** How far it is: bytes of all. */
  bytes: number;
  bytesTotal: number;
  /** Why the result could not be kept with the backups: the drive is full, or can only be read. Null: it was. */
  unkept: string | null;
}

interface Wanted {
  digest: Digest;
  size: number;
  /** Where it begins; of what is missing [-1, 0]. */
  at: [pack: number, offset: number];
  packs: string[];
  files: Spoilt['files'];
  count: number;
}

const filesNamed = 5;

/** Where a content comes in turn: many may begin at one place. */
type InTurn = [pack: number, offset: number, digest: string];
const placeOf = ({ at, digest }: Wanted): InTurn => [...at, digest];
const order = (a: InTurn, b: InTurn) =>
  a[0] - b[0] || a[1] - b[1] || (a[2] < b[2] ? -1 : a[2] > b[2] ? 1 : 0);

/** Every content that snapshots need, in the order in which it lies. */
export function contentsOf(snapshots: readonly Snapshot[], index: PackIndex): Wanted[] {
  const wanted = new Map<Digest, Wanted>();
  for (const s of snapshots)
    for (const [path, size, , , digest] of s.files) {
      let w = wanted.get(digest);
      if (!w) {
        const extents = asItLies(index, index.contents.get(digest)?.extents ?? []);
        const isKept = index.contents.has(digest);
        w = {
          digest,
          size,
          at: extents[0] ? [extents[0].pack, extents[0].offset] : [isKept ? 0 : -1, 0],
          packs: [...new Set(extents.map((e) => packPath(e.pack) as string))],
          files: [],
          count: 0,
        };
        wanted.set(digest, w);
      }
      w.count++;
      if (w.files.length < filesNamed && !w.files.some((f) => f.path === path))
        w.files.push({ workspace: s.workspace.name, path });
    }
  return [...wanted.values()].sort((a, b) => order(placeOf(a), placeOf(b)));
}

/** Proves. Findings are in the answer; thrown is only what keeps it from being done. */
export async function proveBackups(backups: BackupFolder, options: ProveOptions = {}): Promise<Proving> {
  let begun = false;
  try {
    return await withBackupLock(backups, () => {
      begun = true;
      return prove(backups, options);
    });
  } catch (cause) {
    // Where nothing can be written nobody else writes: it is read all the same.
    if (begun || !isUnwritable(cause)) throw cause;
    return prove(backups, options);
  }
}

const isUnwritable = (cause: unknown): cause is AppError =>
  cause instanceof AppError && (cause.code === 'disk-full' || cause.code === 'no-access');

async function prove(backups: BackupFolder, options: ProveOptions): Promise<Proving> {
  const { tree } = backups;
  const snapshots = await readSnapshots(backups, options.only);
  const index = await packIndex(tree);
  const reading = await StoreReading.of(tree);
  const wanted = contentsOf(snapshots.all, index);
  const bytesTotal = wanted.reduce((sum, w) => sum + w.size, 0);
  const running = (options.anew ? null : await readRunning(backups, options.only)) ?? {
    started: new Date().toISOString(),
    only: options.only ?? null,
    contents: 0,
    bytes: 0,
    spoilt: [],
    at: [-2, 0, ''],
    packs: await packSizes(tree),
  };
  const rest = wanted.filter((w) => order(placeOf(w), running.at) > 0);
  const until = options.budget === undefined ? Infinity : performance.now() + options.budget;
  let written = performance.now();
  let unkept: string | null = null;
  // What was found is said, also where it cannot be written down there.
  const keep = async (work: () => Promise<void>) => {
    try {
      await work();
    } catch (cause) {
      if (!isUnwritable(cause)) throw cause;
      unkept = cause.message;
    }
  };
  for (const w of rest) {
    if (options.signal?.aborted || performance.now() > until) {
      await keep(() => writeRunning(backups, running));
      options.signal?.throwIfAborted();
      return { proof: null, bytes: running.bytes, bytesTotal, unkept };
    }
    const how = await howIs(reading, tree, w, options.signal);
    if (how !== 'right')
      running.spoilt.push({
        digest: w.digest,
        size: w.size,
        packs: w.packs,
        how,
        files: w.files,
        count: w.count,
      });
    running.contents++;
    running.bytes += w.size;
    running.at = placeOf(w);
    options.onProgress?.({
      files: running.contents,
      filesTotal: wanted.length,
      bytes: running.bytes,
      bytesTotal,
      path: w.files[0]?.path ?? '',
    });
    if (performance.now() - written > 5_000) {
      await keep(() => writeRunning(backups, running));
      written = performance.now();
    }
  }
  const proof: Proof = {
    started: running.started,
    ended: new Date().toISOString(),
    only: running.only,
    contents: running.contents,
    bytes: running.bytes,
    spoilt: running.spoilt,
    records: recordsOf(snapshots),
  };
  await keep(async () => {
    await makeProofs(backups);
    await tree.append(proofLog, utf8(`${JSON.stringify(proof)}\n`));
    if ((await tree.kind(runningFile)) === 'file') await tree.remove(runningFile);
  });
  return { proof, bytes: running.bytes, bytesTotal, unkept };
}

const recordsOf = ({ damaged }: Snapshots) => damaged.filter((d) => !d.newer).map((d) => d.path);

async function howIs(
  reading: StoreReading,
  tree: BackupFolder['tree'],
  { digest, at }: Wanted,
  signal: CancelSignal | undefined,
): Promise<'right' | Spoilt['how']> {
  const hash = tree.startHash();
  try {
    for await (const part of reading.open(digest)) {
      signal?.throwIfAborted();
      hash.update(part);
    }
  } catch (cause) {
    if (!(cause instanceof AppError)) throw cause;
    return at[0] < 0 || cause.code === 'not-found' ? 'missing' : 'spoilt';
  }
  return hash.digest() === digest ? 'right' : 'spoilt';
}

async function makeProofs({ tree }: BackupFolder): Promise<void> {
  if ((await tree.kind(proofsFolder)) === null) await tree.makeFolder(proofsFolder);
}

async function writeRunning(backups: BackupFolder, running: Running): Promise<void> {
  await makeProofs(backups);
  await backups.tree.write(runningFile, once(utf8(JSON.stringify(running))), { replace: true, tag: 't' });
}

/** One that was left half way, as long as the store it looked at only grew since; else null. */
async function readRunning({ tree }: BackupFolder, only: string | undefined): Promise<Running | null> {
  if ((await tree.kind(runningFile)) !== 'file') return null;
  try {
    const running = runningSchema.parse(JSON.parse(decodeText(await tree.read(runningFile)).text));
    const now = new Map(await packSizes(tree));
    const isSame =
      running.only === (only ?? null) && running.packs.every(([n, size]) => (now.get(n) ?? -1) >= size);
    return isSame ? running : null;
  } catch {
    return null;
  }
}

/** Proofs that were done, the latest first; lines that cannot be read are passed over. */
export async function readProofs({ tree }: BackupFolder): Promise<Proof[]> {
  if ((await tree.kind(proofLog)) !== 'file') return [];
  const found: Proof[] = [];
  for (const line of decodeText(await tree.read(proofLog)).text.split('\n')) {
    if (line === '') continue;
    try {
      found.push(proofSchema.parse(JSON.parse(line)));
    } catch {
      // Torn when the drive went away, or spoilt since: one proof less is known.
    }
  }
  return found.reverse();
}

/** When the next proof is due: ISO; null: nothing lies there. */
export function proofDue(proof: Proof | undefined, days: number, oldest: string | undefined): string | null {
  const from = proof?.ended ?? oldest;
  return from === undefined ? null : new Date(Date.parse(from) + days * 86_400_000).toISOString();
}

/** How a folder of backups stands: when it is to be proven again (null: nothing lies in it), and how many contents the last proof found spoilt. */
export async function proofState(backups: BackupFolder): Promise<{ due: string | null; spoilt: number }> {
  const [proofs, { all }] = [await readProofs(backups), await readSnapshots(backups)];
  return {
    due: proofDue(proofs[0], backups.marker.proveEvery, all.at(-1)?.time),
    spoilt: proofs[0]?.spoilt.length ?? 0,
  };
}
