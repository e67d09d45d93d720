// Random histories over everything that keeps old states: versions, compacted versions, autosaves, checkpoints, snapshots, plain copies and archives, with
// renames, undo, cleaning of the store, pruning of snapshots, a clock that jumps, and crashes in the middle of any of them. After every action, every state
// that was promised can be read to the byte.

import { afterAll, expect, jest, test } from '@jest/globals';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import { howMany } from '@/core/files/testing/depth';
import { treePath, type TreePath } from '@/core/files/treePath';
import { readLayout } from '@/core/layouts/layout';
import { planDrop } from '@/core/plans/planBack';
import { planCompact, planSpread } from '@/core/plans/planCompact';
import { planMove } from '@/core/plans/planMove';
import { planSave } from '@/core/plans/planSave';
import { readNote } from '@/core/plans/versionFiles';
import { blockers, type Plan } from '@/core/changes/plan';
import { openContent } from '@/core/store/store';
import { sceneNets, usualNet } from '@/core/versions/net';
import { onFailingDisk } from '../disk/testing/failingCalls';
import { applyPlan, openEntries, recordsIn, settle, withLock } from '../workspaces/changing';
import { makeCheckpoint, readCheckpoints } from '../workspaces/checkpoints';
import { planUndoOf, readLedger } from '../workspaces/ledger';
import { netLines, netRound, type NetClock } from '../workspaces/net';
import { createWorkspace, readWorkspace } from '../workspaces/open';
import { sweepStore } from '../workspaces/storeOwners';
import { archiveTo, bringBack, stubOf } from './archive';
import { isBackupFolder, openBackups, readSnapshots } from './backupFolder';
import { byRule, clearSnapshots, planClearing } from './clear';
import { giveBack } from './giveBack';
import { mirrorTo } from './mirror';
import { takeSnapshot } from './takeSnapshot';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-history-')));
const realNow = Date.now.bind(Date);
let shift = 0;
const clock = jest.spyOn(Date, 'now').mockImplementation(() => realNow() + shift);
afterAll(() => {
  clock.mockRestore();
  fs.rmSync(base, { recursive: true, force: true });
});

/** Numbers from 0 up to 1 that depend only on the seed (mulberry32, public domain). */
function randomOf(seed: number): () => number {
  return () => {
    seed = (seed + 0x6d2b79f5) | 0;
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

const hashOf = (bytes: Uint8Array | string) => createHash('sha256').update(bytes).digest('hex').slice(0, 16);

type Files = Record<string, string>;

/** Hash of every file of the user, by path. */
function filesOf(root: string): Files {
  const found: Files = {};
  const walk = (folder: string) => {
    for (const e of fs.readdirSync(path.join(root, folder), { withFileTypes: true })) {
      const at = folder === '' ? e.name : `${folder}/${e.name}`;
      if (at === '.satchel') continue;
      if (e.isDirectory()) walk(at);
      else if (e.isFile()) found[at] = hashOf(fs.readFileSync(path.join(root, at)));
    }
  };
  walk('');
  return found;
}

class History {
  readonly random: () => number;
  readonly backups: string;
  readonly copies: string;
  root = '';
  /** Actions, for the message of a failure. */
  readonly log: string[] = [];
  private readonly checkpoints = new Map<string, Files>();
  private readonly snapshots = new Map<string, Files>();
  private readonly removed = new Map<string, Files>();
  private readonly versions = new Map<string, string>();
  private readonly autosaves = new Map<Digest, string>();
  private count = 0;

  constructor(
    seed: number,
    private readonly at: string,
  ) {
    this.random = randomOf(seed);
    this.backups = path.join(at, 'backups');
    this.copies = path.join(at, 'copies');
  }

  private pick<T>(of: readonly T[]): T | undefined {
    return of[Math.floor(this.random() * of.length)];
  }

  private write(name: string, size = 300): void {
    const text = `${name} ${++this.count} `.padEnd(size + Math.floor(this.random() * 3000), `${this.count} `);
    const file = path.join(this.root, name);
    fs.mkdirSync(path.dirname(file), { recursive: true });
    fs.writeFileSync(
      file,
      name.endsWith('.gltf')
        ? JSON.stringify({
            asset: { version: '2.0' },
            images: [{ uri: '../textures/wood.png' }],
            extras: text,
          })
        : text,
    );
  }

  async begin(): Promise<void> {
    fs.mkdirSync(this.copies, { recursive: true });
    const layout = readLayout('scenes = scene\ntextures = texture\nbackups = backup\n', 'test', 'test')!;
    ({ root: this.root } = await createWorkspace({ parent: this.at, name: 'boat', layout, without: [] }));
    for (const name of [
      'scenes/boat_v001.gltf',
      'scenes/pier_v001.gltf',
      'textures/wood.png',
      'textures/ü é.png',
    ])
      this.write(name);
  }

  private scenes(): string[] {
    return Object.keys(filesOf(this.root)).filter((f) => f.endsWith('.gltf'));
  }

  private async apply(plan: Plan): Promise<void> {
    if (blockers(plan).length === 0 && plan.steps.length > 0) await applyPlan(this.root, plan);
  }

  private netClock(): NetClock {
    return { now: () => Date.now(), wait: () => Promise.resolve(), run: { id: 'test', from: Date.now() } };
  }

  /** Each action may be interrupted at any call of the disk; afterwards it was done, or not begun, or is finished by the next. */
  private readonly actions: Record<string, () => Promise<void>> = {
    edit: () => {
      this.write(this.pick(Object.keys(filesOf(this.root)))!);
      return Promise.resolve();
    },
    save: async () => {
      const scene = this.pick(this.scenes());
      if (scene === undefined) return;
      const now = new Date(Date.now()).toISOString();
      await this.apply(
        await planSave(await readWorkspace(this.root), { scenes: [treePath(scene)], note: '', now }),
      );
    },
    autosave: async () => void (await netRound(this.root, usualNet, this.netClock())),
    checkpoint: async () =>
      void (await makeCheckpoint(await readWorkspace(this.root), { name: 'c', scope: [] })),
    compact: async () => {
      const version = this.pick(this.scenes().slice(0, -1));
      if (version === undefined) return;
      const now = new Date(Date.now()).toISOString();
      await this.apply(
        await planCompact(await readWorkspace(this.root), { versions: [treePath(version)], now }),
      );
    },
    expand: async () => {
      const version = this.pick(await this.compacted());
      if (version !== undefined)
        await this.apply(await planSpread(await readWorkspace(this.root), [version]));
    },
    rename: async () => {
      const file = this.pick(Object.keys(filesOf(this.root)).filter((f) => f.startsWith('textures/')));
      if (file === undefined) return;
      const to = `textures/renamed ${++this.count}.png`;
      await this.apply(await planMove(await readWorkspace(this.root), [{ path: file, to }]));
    },
    undo: async () => {
      const [last] = (await readLedger(recordsIn(this.root))).filter(
        (e) => e.state === 'applied' && e.undoes === null && e.kind !== 'create',
      );
      if (last) await this.apply(await planUndoOf(recordsIn(this.root), last.id));
    },
    dropCheckpoint: async () => {
      const id = this.pick([...this.checkpoints.keys()]);
      if (id === undefined) return;
      await this.apply(await planDrop(await readWorkspace(this.root), id, 'c'));
    },
    clean: async () => {
      await withLock(this.root, ({ tree }) => sweepStore({ root: this.root, tree }));
    },
    snapshot: async () => void (await takeSnapshot(this.root, this.backups)),
    prune: async () => {
      if (!isBackupFolder(this.backups)) return;
      const backups = await openBackups(this.backups);
      const rule = byRule({ all: 0, days: 2, weeks: 0, months: 0 }, Date.now());
      const { going } = await planClearing(backups, rule);
      await clearSnapshots(
        backups,
        going.map((s) => s.id),
      );
    },
    copy: async () => {
      await mirrorTo(this.root, this.copies);
      expect(filesOf(path.join(this.copies, 'boat'))).toMatchObject(filesOf(this.root));
    },
    archive: async () => void (await archiveTo(this.root, this.backups)),
    clockJumps: () => {
      shift += (this.random() - 0.4) * 10 * 86_400_000;
      return Promise.resolve();
    },
  };

  private async compacted(): Promise<TreePath[]> {
    const workspace = await readWorkspace(this.root);
    const found: TreePath[] = [];
    for (const version of this.versions.keys())
      if ((await readNote(workspace, treePath(version)))?.compact) found.push(treePath(version));
    return found;
  }

  /** Does a random action, perhaps interrupted, then finishes or undoes what it left, as the next start does. */
  async step(): Promise<void> {
    const name = this.pick(Object.keys(this.actions))!;
    const dies = this.random() < 0.4 && name !== 'edit' && name !== 'clockJumps';
    const call = dies ? 1 + Math.floor(this.random() * 250) : 0;
    this.log.push(dies ? `${name} interrupted at call ${call}` : name);
    const before = filesOf(this.root);
    const known = await this.promised();
    const { error, calls } = await onFailingDisk(call, 'EIO', this.actions[name]!, { forGood: true });
    const isDead = dies && calls >= call;
    if (error !== null && !isDead && !(error instanceof AppError)) throw error;
    if (isDead)
      for (const at of [this.root, this.backups, path.join(this.copies, '.satchel-copies')])
        for (const lock of [path.join(at, '.satchel/lock'), path.join(at, 'lock')])
          fs.rmSync(lock, { force: true });
    if ((await stubOf(this.root)) !== null) {
      // Archived, perhaps in part: restored before anything else.
      if (this.random() < 0.5) await archiveTo(this.root, this.backups);
      await bringBack(this.root);
      expect(filesOf(this.root)).toEqual(before);
    }
    await settle(recordsIn(this.root));
    expect(await openEntries(recordsIn(this.root))).toEqual([]);
    await this.learn(known);
    await this.check();
  }

  /** Ids of what is listed. */
  private async promised() {
    const { tree } = await readWorkspace(this.root);
    const snapshots = isBackupFolder(this.backups)
      ? (await readSnapshots(await openBackups(this.backups))).all
      : [];
    return {
      checkpoints: new Set((await readCheckpoints(tree)).map((c) => c.id)),
      snapshots: new Set(snapshots.map((s) => s.id)),
    };
  }

  /** Notes the promises of the last action: what is new in a list holds the present state; what left a list was given up by name. */
  private async learn(before: { checkpoints: Set<string>; snapshots: Set<string> }): Promise<void> {
    const now = await this.promised();
    const files = filesOf(this.root);
    for (const [list, seen, old] of [
      [now.checkpoints, this.checkpoints, before.checkpoints],
      [now.snapshots, this.snapshots, before.snapshots],
    ] as const) {
      // A checkpoint returns with the undo of its removal.
      for (const id of list) if (!old.has(id) && !seen.has(id)) seen.set(id, this.removed.get(id) ?? files);
      const mayGo = /dropCheckpoint|prune|undo/.test(this.log.at(-1)!);
      for (const id of [...seen.keys()])
        if (!list.has(id)) {
          expect([id, 'gone', mayGo]).toEqual([id, 'gone', true]);
          this.removed.set(id, seen.get(id)!);
          seen.delete(id);
        }
    }
    // A saved version is a file that nobody edits here, except by `edit` itself.
    for (const [at, hash] of Object.entries(files)) if (at.endsWith('.gltf')) this.versions.set(at, hash);
    const { tree } = await readWorkspace(this.root);
    for (const net of sceneNets(await netLines(tree)).values())
      for (const state of net.states)
        for (const f of state.files) if (!this.autosaves.has(f.digest)) this.autosaves.set(f.digest, f.path);
  }

  private async read(digest: Digest): Promise<string> {
    const { tree } = await readWorkspace(this.root);
    const hash = createHash('sha256');
    for await (const part of openContent(tree, digest)) hash.update(part);
    return hash.digest('hex').slice(0, 16);
  }

  private async check(): Promise<void> {
    const workspace = await readWorkspace(this.root);
    for (const c of await readCheckpoints(workspace.tree)) {
      const promised = this.checkpoints.get(c.id)!;
      for (const [at, , , , digest] of c.files)
        if (!at.startsWith('.satchel/'))
          expect([c.id, at, await this.read(digest)]).toEqual([c.id, at, promised[at]]);
      expect(c.files.filter((f) => !f[0].startsWith('.satchel/'))).toHaveLength(Object.keys(promised).length);
    }
    for (const net of sceneNets(await netLines(workspace.tree)).values())
      for (const state of net.states) for (const f of state.files) await this.read(f.digest);
    // A version is a file, or compacted with the same content, or its saving was undone.
    const here = filesOf(this.root);
    for (const [at, hash] of this.versions) {
      if (at in here) continue;
      const note = await readNote(workspace, treePath(at));
      const own = note?.compact?.at(-1);
      if (own) expect([at, await this.read(own.digest)]).toEqual([at, hash]);
      else expect([at, this.log.at(-1)]).toEqual([at, expect.stringContaining('undo')]);
      if (!own) this.versions.delete(at);
    }
  }

  /** Restores every snapshot in full. */
  async restoreAll(): Promise<number> {
    if (!isBackupFolder(this.backups)) return 0;
    const backups = await openBackups(this.backups);
    for (const [id, files] of this.snapshots) {
      const to = path.join(this.at, `restored ${id}`);
      expect((await giveBack(backups, id, [], to)).lost).toEqual([]);
      expect([id, filesOf(to)]).toEqual([id, files]);
      fs.rmSync(to, { recursive: true });
    }
    return this.snapshots.size;
  }
}

test('keeps every promised state through random histories with crashes', async () => {
  const many = howMany(150);
  const first = Number(process.env.SATCHEL_SEED ?? 1);
  let restored = 0;
  for (let seed = first; seed < first + many; seed++) {
    const at = path.join(base, `h${seed}`);
    fs.mkdirSync(at);
    const history = new History(seed, at);
    shift = 0;
    try {
      await history.begin();
      for (let n = 0; n < 12; n++) await history.step();
      restored += await history.restoreAll();
    } catch (cause) {
      throw new Error(`seed ${seed}: ${history.log.join(', ')}: ${(cause as Error).stack}`, { cause });
    }
    fs.rmSync(at, { recursive: true });
  }
  if (many >= 20) expect(restored).toBeGreaterThan(many / 4);
}, 20_000_000);
