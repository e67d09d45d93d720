// Undo in any order: whatever plans were applied, each that nothing later stands on can be undone by itself, and once all are undone every byte is as it
// was; what is said to stand in the way does stand in the way, and is what has to go first.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { apply } from './apply';
import { laterPlans, touched, touches } from './depends';
import { applying, holdingIn, recordsIn, undoing } from './testing/contexts';
import type { Plan, Step } from './plan';

const users = (tree: MemoryTree) =>
  Object.fromEntries(
    [...tree.files]
      .filter(([p]) => !p.startsWith('.satchel/'))
      .map(([p, f]) => [p, new TextDecoder().decode(f.bytes)])
      .sort(),
  );

type Act = { do: 'write' | 'remove' | 'move' | 'folder'; a: number; b: number };
const names = ['a/1', 'a/2', 'b/1', 'c'];

/** A plan of one act on what lies there now; null where it cannot be. */
async function planOf(tree: MemoryTree, act: Act, n: number): Promise<Plan | null> {
  const path = treePath(names[act.a % names.length]!);
  const state = async (p: typeof path) => {
    const stat = await tree.stat(p);
    return stat && { size: stat.size, modified: stat.modified, digest: await tree.digest(p) };
  };
  const here = await state(path);
  let steps: Step[] = [];
  if (act.do === 'write') {
    const text = `${n}:${act.b}`;
    steps = [
      {
        do: 'put',
        path,
        before: here,
        size: text.length,
        modified: null,
        from: { from: 'bytes', latin1: text },
      },
    ];
    if (path.includes('/') && (await tree.kind(treePath(path.slice(0, 1)))) === null) return null;
  } else if (act.do === 'remove' && here) steps = [{ do: 'remove', path, before: here }];
  else if (act.do === 'move' && here) {
    const to = treePath(names[act.b % names.length]!);
    if (
      (await tree.kind(to)) !== null ||
      (to.includes('/') && (await tree.kind(treePath(to.slice(0, 1)))) === null)
    )
      return null;
    steps = [{ do: 'move', path, to, content: here }];
  } else if (
    act.do === 'folder' &&
    (await tree.kind(treePath('a'))) === 'folder' &&
    (await tree.kind(treePath('d'))) === null
  )
    steps = [{ do: 'move-folder', path: treePath('a'), to: treePath('d') }];
  return steps.length === 0
    ? null
    : { kind: 'move', title: `plan ${n}`, steps, notes: [], paths: [], readiness: null };
}

test('any plans, undone in any order that is allowed', async () => {
  const acts = fc.array(
    fc.record({
      do: fc.constantFrom('write' as const, 'remove' as const, 'move' as const, 'folder' as const),
      a: fc.nat(9),
      b: fc.nat(9),
    }),
    { minLength: 1, maxLength: 9 },
  );
  await fc.assert(
    fc.asyncProperty(acts, fc.infiniteStream(fc.nat(1000)), async (list, choices) => {
      const tree = new MemoryTree({ 'a/1': 'one', 'a/2': 'two', 'b/1': 'three', c: 'four' });
      const before = users(tree);
      const id = (
        (n) => () =>
          String(++n).padStart(5, '0')
      )(0);
      for (const [n, act] of list.entries()) {
        const plan = await planOf(tree, act, n);
        if (plan) await apply(tree, plan, applying(id()));
      }
      for (;;) {
        const all = await holdingIn(tree);
        const records = await recordsIn(tree);
        const inForce = records.filter((r) => r.plan.kind !== 'undo' && all.some((a) => a.id === r.id));
        if (inForce.length === 0) break;
        const later = laterPlans(all);
        // The latest of all never waits for another.
        expect(later.get(inForce.at(-1)!.id)).toEqual([]);
        const free = inForce.filter((r) => later.get(r.id)!.length === 0);
        const one = free[choices.next().value! % free.length]!;
        const undo = await undoing(tree, one);
        expect(undo.notes).toEqual([]);
        await apply(tree, undo, applying(id()));
      }
      expect(users(tree)).toEqual(before);
    }),
    { numRuns: 150 },
  );
});

test('a folder that moved concerns what lies in it', () => {
  const plan = { steps: [{ do: 'move-folder' as const, path: treePath('a'), to: treePath('d') }] };
  expect(['a', 'a/x/y', 'd/x', 'ab', 'x'].map((p) => touches(touched(plan), p))).toEqual([
    true,
    true,
    true,
    false,
    false,
  ]);
});

test('undone out of their order: a folder that was taken away since is made again; one in which something lies now stays, and that is said', async () => {
  const tree = new MemoryTree({ 'refs/a': 'A', 'refs/b': 'B' });
  const content = { size: 1, modified: (await tree.stat(treePath('refs/a')))!.modified, digest: null };
  const move = (a: string, b: string): Step => ({ do: 'move', path: treePath(a), to: treePath(b), content });
  const plan = (title: string, ...steps: Step[]): Plan => ({
    kind: 'move',
    title,
    steps,
    notes: [],
    paths: [],
    readiness: null,
  });
  await apply(
    tree,
    plan('one', { do: 'make-folder', path: treePath('new') }, move('refs/a', 'new/a')),
    applying('1'),
  );
  await apply(
    tree,
    plan('two', move('refs/b', 'new/b'), { do: 'remove-folder', path: treePath('refs') }),
    applying('2'),
  );
  const [one, two] = await recordsIn(tree);
  const undo = await undoing(tree, one!);
  expect(undo.notes.map((n) => [n.code, n.path])).toEqual([['folder-stays', 'new']]);
  await apply(tree, undo, applying('3'));
  expect(users(tree)).toEqual({ 'refs/a': 'A', 'new/b': 'B' });
  await apply(tree, await undoing(tree, two!), applying('4'));
  expect(users(tree)).toEqual({ 'refs/a': 'A', 'refs/b': 'B' });
});
