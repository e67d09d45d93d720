// Apply, putting back, recovery and undo on the real disk, with a disk that fails or a program that dies at each single call: afterwards all is
// as before or as meant, or what is said to be neither is named, and is put back as soon as the disk works again.

import { afterAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { apply, type ApplyContext } from '@/core/changes/apply';
import type { Plan, Step } from '@/core/changes/plan';
import { applying, ledgerIn, recordsIn, recovering, undoing } from '@/core/changes/testing/contexts';
import { AppError } from '@/core/errors';
import { isDeep, strideOf } from '@/core/files/testing/depth';
import { treePath as p } from '@/core/files/treePath';
import { planMove } from '@/core/plans/planMove';
import { diskOutside } from '../disk/diskOutside';
import { DiskTree } from '../disk/diskTree';
import { failingDisk, type Fault } from '../disk/testing/failingDisk';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-failing-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
let n = 0;
// Every single call at night (SATCHEL_EVERY=1), every so-manieth otherwise; each fault begins at another.
const every = strideOf(9, 36);

const scene = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });

/** A small workspace with millisecond times, links, modes; and a file outside. */
function lay(): string {
  const root = path.join(base, String(++n), 'w');
  const put = (at: string, content: string, mode = 0o644) => {
    const file = path.join(root, at);
    fs.mkdirSync(path.dirname(file), { recursive: true });
    fs.writeFileSync(file, content, { mode });
    fs.chmodSync(file, mode);
    fs.utimesSync(file, 1764137428.123 + n, 1764137428.457 + at.length / 7);
  };
  put(
    'scenes/boat ü.gltf',
    scene('../textures/hull.png', '../textures/latest.png', '../props/rope.png'),
    0o640,
  );
  put('scenes/pier.gltf', scene('../textures/hull.png', 'gone.png'));
  put('textures/hull.png', 'HULL', 0o600);
  put('props/rope.png', 'ROPE');
  put('old/a.txt', 'A');
  put('../from/new.png', 'NEW');
  fs.symlinkSync('hull.png', path.join(root, 'textures', 'latest.png'));
  fs.chmodSync(path.join(root, 'old'), 0o750);
  return root;
}

/** Moves with what they entail, and every other kind of step. */
async function planFor(root: string): Promise<Plan> {
  const tree = new DiskTree(root);
  const file = {
    format: 1 as const,
    name: 'w',
    created: '',
    layout: '',
    folders: [],
    homes: {},
    libraries: [],
    places: [],
  };
  const moved = await planMove({ root, tree, outside: diskOutside, file }, [
    { path: 'textures/hull.png', to: 'textures/hull_base.png' },
    { path: 'props', to: 'models' },
  ]);
  const from = path.join(path.dirname(root), 'from', 'new.png');
  const stat = fs.statSync(from);
  const old = await tree.stat(p('old/a.txt'));
  const more: Step[] = [
    { do: 'make-folder', path: p('fresh') },
    {
      do: 'put',
      path: p('fresh/new.png'),
      before: null,
      size: 3,
      modified: stat.mtimeMs,
      from: {
        from: 'outside',
        path: from,
        state: { size: 3, modified: stat.mtimeMs, digest: null },
        pieces: null,
      },
    },
    { do: 'remove', path: p('old/a.txt'), before: { size: 1, modified: old!.modified, digest: null } },
    { do: 'remove-folder', path: p('old') },
  ];
  return { ...moved, steps: [...moved.steps, ...more] };
}

/** Temporary files that are left, but for that of a last word which was cut off: the next change writes that. */
const leftIn = (root: string) =>
  fs
    .readdirSync(root, { recursive: true })
    .filter((f) => String(f).includes('.satchel-part') && !String(f).startsWith('.satchel/journal/'));

const context = (root: string, id: string): ApplyContext => ({
  ...applying(`20261126-000000-000000${id}`),
  outside: diskOutside,
  root: '/memory',
});

async function outcome(work: Promise<unknown>): Promise<AppError | 'done'> {
  try {
    await work;
    return 'done';
  } catch (cause) {
    return cause instanceof AppError ? cause : new AppError('apply-failed', String(cause), 'who knows');
  }
}

/** The disk as it is, not waited for. */
const unsynced = failingDisk(0, 'dies').calls;

/** The state after, and the number of calls a sound run makes. */
async function dryRun(): Promise<{ calls: number; after: Record<string, string> }> {
  const root = lay();
  const disk = failingDisk(0, 'dies');
  const plan = await planFor(root);
  await apply(new DiskTree(root, disk.calls), plan, context(root, 'b'));
  return { calls: disk.made(), after: wholeDisk(root, { times: false }) };
}

const withoutTimes = (d: Record<string, string>) =>
  Object.fromEntries(Object.entries(d).map(([k, v]) => [k, v.replace(/^(file \d+) \d+/, '$1')]));
const plain = (d: Record<string, string>) =>
  Object.fromEntries(Object.entries(d).map(([k, v]) => [k, v.replace(/^(file \d+) {2}/, '$1 ')]));

describe('the disk fails or the program dies at each call', () => {
  const faults: [string, Fault][] = [
    ['full, once', { code: 'ENOSPC', lasts: false }],
    ['failing once', { code: 'EIO', lasts: false }],
    ['no access from then on', { code: 'EACCES', lasts: true }],
    ['full from then on', { code: 'ENOSPC', lasts: true }],
    ['dead', 'dies'],
  ];
  test.each(faults)(
    '%s: all as before or all as meant, and what is not is named',
    async (_, fault) => {
      const { calls, after } = await dryRun();
      expect(calls).toBeGreaterThan(150);
      let [whole, back, stuck] = [0, 0, 0];
      for (let at = 1 + (faults.findIndex(([, f]) => f === fault) % every); at <= calls; at += every) {
        const root = lay();
        const before = wholeDisk(root);
        const plan = await planFor(root);
        const told = await outcome(
          apply(new DiskTree(root, failingDisk(at, fault).calls), plan, context(root, 'a')),
        );
        const now = wholeDisk(root);
        if (told === 'done') whole++;
        else if (/every file is as before|Nothing was changed/.test(told.unchanged)) {
          expect([at, told.unchanged, sameDisk(before, now)]).toEqual([at, told.unchanged, []]);
          back++;
        } else if (fault === 'dies') stuck++;
        else {
          // What is not as before is named.
          const named = told.details.join('\n') + told.unchanged;
          const wrong = Object.keys(before).filter((k) => before[k] !== now[k] && !k.endsWith('/'));
          stuck++;
          expect([
            at,
            wrong.filter(
              (k) => !named.includes(Buffer.from(k, 'latin1').toString()) && !named.includes('props'),
            ),
          ]).toEqual([at, []]);
        }
        // The disk works again: what is open is settled, and then it is one or the other.
        const tree = new DiskTree(root, unsynced);
        const settled = await recovering(tree, diskOutside);
        expect([at, settled.filter((s) => s.left.length + s.stuck.length > 0)]).toEqual([at, []]);
        const state = (await ledgerIn(tree))[0]?.state;
        if (told === 'done') expect([at, state]).toEqual([at, 'applied']);
        const end = wholeDisk(root);
        if (state === 'applied') expect([at, withoutTimes(end)]).toEqual([at, plain(after)]);
        else expect([at, sameDisk(before, end)]).toEqual([at, []]);
        const left = leftIn(root);
        expect([at, left]).toEqual([at, []]);
        if (state === 'applied') {
          const [record] = await recordsIn(tree);
          await apply(tree, await undoing(tree, record!), context(root, 'c'));
          expect([at, sameDisk(before, wholeDisk(root))]).toEqual([at, []]);
        }
        fs.rmSync(path.dirname(root), { recursive: true });
      }
      expect(whole + back + stuck).toBeGreaterThan(0);
      expect(back).toBeGreaterThan(fault === 'dies' || !isDeep ? -1 : 3);
    },
    600_000,
  );

  test('the program dies, and again while it is put back: the third start has all as before', async () => {
    const { calls, after } = await dryRun();
    for (let at = 20; at <= calls; at += 7 * every) {
      for (let again = 1; again < 90; again += 11 * every) {
        const root = lay();
        const before = wholeDisk(root);
        const plan = await planFor(root);
        await outcome(apply(new DiskTree(root, failingDisk(at, 'dies').calls), plan, context(root, 'a')));
        await recovering(new DiskTree(root, failingDisk(again, 'dies').calls), diskOutside).catch(
          () => undefined,
        );
        const tree = new DiskTree(root, unsynced);
        await recovering(tree, diskOutside);
        const state = (await ledgerIn(tree))[0]?.state;
        const end = wholeDisk(root);
        if (state === 'applied') expect([at, again, withoutTimes(end)]).toEqual([at, again, plain(after)]);
        else expect([at, again, sameDisk(before, end)]).toEqual([at, again, []]);
        fs.rmSync(path.dirname(root), { recursive: true });
      }
    }
  }, 600_000);
});
