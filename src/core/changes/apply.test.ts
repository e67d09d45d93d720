// Apply, undo and recovery, with a crash at every write: afterwards every file is as before or as after, never between.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { parseJournalLine } from '../../wire/plan';
import { AppError } from '../errors';
import { digestOf } from '../files/digest';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { apply } from './apply';
import { packPath } from '../store/packIndex';
import { latin1 } from '../text/bytes';
import { planUndo } from './invert';
import { readJournals } from './journal';
import type { Plan, Step } from './plan';
import { applying, ledgerIn, recovering } from './testing/contexts';
import { crashing, type CrashKind } from './testing/crashingTree';
import { memoryOutside } from './testing/memoryOutside';
import { strideOf } from '../files/testing/depth';

const text = (s: string) => new TextEncoder().encode(s);
const p = treePath;
let tick = 0;
const now = () => new Date(++tick * 1000).toISOString();
const outside = memoryOutside({ '/dl/rope.png': 'ROPE', '/dl/big.bin': 'x'.repeat(5000) });
const state = (s: string) => ({ size: text(s).length, modified: 0, digest: digestOf(text(s)) });

const start = {
  'scenes/a.gltf': '{"old":1}',
  'scenes/b.gltf': 'BBBB',
  'textures/t.png': 'TTT',
  'old/gone.txt': 'GONE',
  'props/c.obj': 'CC',
  'props/lamp/e.obj': 'E',
};
const steps: Step[] = [
  { do: 'make-folder', path: p('caches') },
  {
    do: 'put',
    path: p('textures/rope.png'),
    before: null,
    size: 4,
    modified: 1000,
    from: {
      from: 'outside',
      path: '/dl/rope.png',
      state: { size: 4, modified: 1000, digest: null },
      pieces: null,
    },
  },
  {
    do: 'put',
    path: p('scenes/a.gltf'),
    before: state('{"old":1}'),
    size: 9,
    modified: null,
    from: {
      from: 'tree',
      path: p('scenes/a.gltf'),
      state: state('{"old":1}'),
      pieces: [{ copy: [0, 2] }, { latin1: 'new' }, { copy: [5, 9] }],
    },
  },
  { do: 'move', path: p('scenes/b.gltf'), to: p('caches/b.gltf'), content: state('BBBB') },
  { do: 'remove', path: p('old/gone.txt'), before: state('GONE') },
  { do: 'remove-folder', path: p('old') },
  { do: 'move-folder', path: p('props'), to: p('models') },
  { do: 'move', path: p('models/c.obj'), to: p('models/d.obj'), content: { ...state('CC'), digest: null } },
];
const plan: Plan = {
  kind: 'travel',
  title: 'All kinds of steps',
  steps,
  notes: [],
  paths: [],
  readiness: null,
};
const context = (id: string) => applying(id, { now, outside });
const states = async (tree: MemoryTree) => (await ledgerIn(tree)).map((e) => e.state);

/** Users' files of a tree: everything but our own records. */
function files(tree: MemoryTree): Record<string, string> {
  return Object.fromEntries(
    [...tree.files]
      .filter(([path]) => !path.startsWith('.satchel/'))
      .map(([path, f]) => [path, new TextDecoder().decode(f.bytes)])
      .sort(),
  );
}
const folders = (tree: MemoryTree) => [...tree.folders].filter((f) => !f.startsWith('.satchel')).sort();
const after = {
  'scenes/a.gltf': '{"new":1}',
  'caches/b.gltf': 'BBBB',
  'textures/t.png': 'TTT',
  'textures/rope.png': 'ROPE',
  'models/d.obj': 'CC',
  'models/lamp/e.obj': 'E',
};

describe('apply', () => {
  test('makes every kind of step, and undo brings back the same bytes and folders', async () => {
    const tree = new MemoryTree(start);
    const [before, foldersBefore] = [files(tree), folders(tree)];
    await apply(tree, plan, context('1'));
    expect(files(tree)).toEqual(Object.fromEntries(Object.entries(after).sort()));
    expect(tree.folders.has('old')).toBe(false);
    const [record] = await readJournals(tree, parseJournalLine);
    await apply(tree, await planUndo(tree, record!), context('2'));
    expect(files(tree)).toEqual(before);
    expect(folders(tree)).toEqual(foldersBefore);
    expect(await states(tree)).toEqual(['applied', 'undone']);
    // Redo is undoing the undo.
    const records = await readJournals(tree, parseJournalLine);
    await apply(tree, await planUndo(tree, records[1]!), context('3'));
    expect(files(tree)).toEqual(Object.fromEntries(Object.entries(after).sort()));
    expect(await states(tree)).toEqual(['applied', 'undone', 'applied']);
  });

  test('refuses a plan whose file was changed since, and changes nothing', async () => {
    const tree = new MemoryTree(start);
    tree.set('scenes/a.gltf', '{"own":2}');
    const before = files(tree);
    await expect(apply(tree, plan, context('1'))).rejects.toMatchObject({ code: 'stale-plan' });
    expect(files(tree)).toEqual(before);
  });

  test('refuses to write over a file that has appeared', async () => {
    const tree = new MemoryTree({ ...start, 'textures/rope.png': 'MINE' });
    await expect(apply(tree, plan, context('1'))).rejects.toMatchObject({ code: 'stale-plan' });
    expect(files(tree)['textures/rope.png']).toBe('MINE');
  });

  test('a blocker prevents it', async () => {
    const tree = new MemoryTree(start);
    const blocked: Plan = { ...plan, notes: [{ level: 'blocker', code: 'x', message: 'No.' }] };
    await expect(apply(tree, blocked, context('1'))).rejects.toBeInstanceOf(AppError);
    expect(files(tree)).toEqual(Object.fromEntries(Object.entries(start).sort()));
  });

  test('cancel puts back what was done', async () => {
    const tree = new MemoryTree(start);
    const signal = new AbortController();
    await expect(
      apply(tree, plan, {
        ...context('1'),
        signal: signal.signal,
        onProgress: (d) => {
          if (d.steps === 4) signal.abort();
        },
      }),
    ).rejects.toMatchObject({ code: 'cancelled' });
    expect(files(tree)).toEqual(Object.fromEntries(Object.entries(start).sort()));
    expect(tree.folders.has('caches')).toBe(false);
  });

  test('undo is blocked by a later change, which is named', async () => {
    const tree = new MemoryTree(start);
    await apply(tree, plan, context('1'));
    tree.set('scenes/a.gltf', 'later');
    const [record] = await readJournals(tree, parseJournalLine);
    const undo = await planUndo(tree, record!);
    expect(undo.notes).toContainEqual(
      expect.objectContaining({ level: 'blocker', code: 'changed-since', path: 'scenes/a.gltf' }),
    );
    await expect(apply(tree, undo, context('2'))).rejects.toMatchObject({ code: 'blocked-plan' });
    expect(files(tree)['scenes/a.gltf']).toBe('later');
  });

  test('content of the store that was spoilt is not trusted', async () => {
    const tree = new MemoryTree(start);
    await apply(tree, plan, context('1'));
    const pack = tree.files.get(packPath(1))!;
    expect(latin1(pack.bytes)).toContain('{"old":1}');
    tree.files.set(packPath(1), { ...pack, bytes: pack.bytes.slice() });
    tree.files
      .get(packPath(1))!
      .bytes.set(new TextEncoder().encode('{"bad":1}'), latin1(pack.bytes).indexOf('{"old":1}'));
    const before = files(tree);
    const [record] = await readJournals(tree, parseJournalLine);
    await expect(apply(tree, await planUndo(tree, record!), context('2'))).rejects.toMatchObject({
      code: 'disk-error',
    });
    expect(files(tree)).toEqual(before);
  });
});

describe('a crash at every write', () => {
  const kinds: CrashKind[] = ['lost', 'torn', 'unreported'];
  test.each(kinds)(
    'apply, write %s: recovery brings back the state before, or the plan was whole',
    async (kind) => {
      const dry = crashing(new MemoryTree(start), 0, kind);
      await apply(dry, plan, context('1'));
      const total = dry.writes();
      const done = Object.fromEntries(Object.entries(after).sort());
      expect(total).toBeGreaterThan(20);
      for (let n = 1; n <= total; n++) {
        const tree = new MemoryTree(start);
        await apply(crashing(tree, n, kind), plan, context('1')).then(
          // Done all the same: only that it is done could not be written down any more.
          () => expect([n > total - 3, files(tree)]).toEqual([true, done]),
          () => undefined,
        );
        await recovering(tree, outside);
        const whole = (await ledgerIn(tree))[0]?.state === 'applied';
        expect([n, files(tree)]).toEqual([
          n,
          Object.fromEntries(Object.entries(whole ? after : start).sort()),
        ]);
        if (!whole) expect(tree.folders.has('caches')).toBe(false);
        expect((await recovering(tree, outside)).length).toBe(0);
      }
    },
  );

  test.each(kinds)('recovery itself cut off, write %s: the next one finishes', async (kind) => {
    for (let n = 8; n <= 30; n += strideOf(1, 5)) {
      for (let m = 1; m <= 14; m++) {
        const tree = new MemoryTree(start);
        await apply(crashing(tree, n, 'lost'), plan, context('1')).catch(() => {});
        await recovering(crashing(tree, m, kind), outside).catch(() => {});
        await recovering(tree, outside);
        const whole = (await ledgerIn(tree))[0]?.state === 'applied';
        expect([n, m, files(tree)]).toEqual([
          n,
          m,
          Object.fromEntries(Object.entries(whole ? after : start).sort()),
        ]);
      }
    }
  });

  test('a file that somebody changed after the crash is left and named', async () => {
    let tree = new MemoryTree(start);
    // Cut off in the middle: the scene is changed, the folder has not moved yet.
    for (let n = 1; files(tree)['scenes/a.gltf'] !== '{"new":1}' || tree.folders.has('models'); n++) {
      tree = new MemoryTree(start);
      await apply(crashing(tree, n, 'lost'), plan, context('1')).catch(() => {});
    }
    tree.set('scenes/a.gltf', 'edited after the crash');
    const [repaired] = await recovering(tree, outside);
    expect(repaired?.left).toEqual(['scenes/a.gltf']);
    expect(files(tree)['scenes/a.gltf']).toBe('edited after the crash');
    expect(files(tree)['scenes/b.gltf']).toBe('BBBB');
  });
});

test('any plan of puts and removes, undone, leaves identical bytes (property)', async () => {
  const name = fc.constantFrom('a', 'b', 'c', 'd/e', 'd/f');
  await fc.assert(
    fc.asyncProperty(
      fc.dictionary(name, fc.string(), { minKeys: 1 }),
      fc.dictionary(name, fc.option(fc.string()), { minKeys: 1 }),
      async (have, want) => {
        const tree = new MemoryTree(have);
        tree.folders.add('d');
        const before = files(tree);
        const made: Step[] = [];
        for (const [path, content] of Object.entries(want)) {
          const old = have[path];
          if (content !== null)
            made.push({
              do: 'put',
              path: p(path),
              before: old === undefined ? null : state(old),
              size: text(content).length,
              modified: null,
              from: { from: 'bytes', latin1: String.fromCharCode(...text(content)) },
            });
          else if (old !== undefined) made.push({ do: 'remove', path: p(path), before: state(old) });
        }
        await apply(tree, { ...plan, steps: made }, context('1'));
        for (const [path, content] of Object.entries(want))
          expect(files(tree)[path]).toBe(content ?? undefined);
        const [record] = await readJournals(tree, parseJournalLine);
        await apply(tree, await planUndo(tree, record!), context('2'));
        expect(files(tree)).toEqual(before);
      },
    ),
    { numRuns: 60 },
  );
});
