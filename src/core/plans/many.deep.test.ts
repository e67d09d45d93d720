// Many at once: what was recursive or quadratic is neither. No times are tested here.

import { expect, test } from '@jest/globals';
import { planUndo } from '../changes/invert';
import type { JournalRecord } from '../changes/journal';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { newWorkspaceFile } from './planCreate';
import { planMove } from './planMove';
import { readLayout } from '../layouts/layout';

const file = newWorkspaceFile({
  name: 'w',
  layout: readLayout('textures = texture', 'x', 'x'),
  without: [],
  created: '',
});
const name = (n: number) => `f${String(n).padStart(5, '0')}`;

test('9,000 numbered files shifted by one, each to the next one’s place; and the undo of it', async () => {
  const files = Object.fromEntries(Array.from({ length: 9000 }, (_, i) => [name(i), String(i)]));
  const w = { root: '/w', tree: new MemoryTree(files), outside: memoryOutside({}), file };
  const plan = await planMove(
    w,
    Object.keys(files).map((f, i) => ({ path: f, to: name(i + 1) })),
  );
  expect(plan.notes.filter((n) => n.level === 'blocker')).toEqual([]);
  expect(plan.steps.slice(0, 2).map((s) => [s.path, s.do === 'move' && s.to])).toEqual([
    [name(8999), name(9000)],
    [name(8998), name(8999)],
  ]);
  const after = new MemoryTree(
    Object.fromEntries(Array.from({ length: 9000 }, (_, i) => [name(i + 1), String(i)])),
  );
  const record: JournalRecord = {
    id: 'x',
    seq: 1,
    time: '',
    plan,
    by: null,
    about: new Map(plan.steps.map((_, i) => [i, { digest: null, kept: null, skip: false }])),
    isBeingPutBack: false,
    end: { how: 'applied', time: '' },
    damaged: false,
    last: '',
  };
  const undo = await planUndo(after, record);
  expect([undo.notes, undo.steps.length]).toEqual([[], 9000]);
});

test('of 9,000 shifted by one the last must stay: all of them do, told at once', async () => {
  const files = Object.fromEntries(Array.from({ length: 9000 }, (_, i) => [name(i), String(i)]));
  const tree = new MemoryTree({
    ...files,
    'row.5000.png': '',
    'row.5001.png': '',
    's.usda': '#usda 1.0\ndef "A" { asset x = @row.<UDIM>.png@ }',
  });
  const w = { root: '/w', tree, outside: memoryOutside({}), file };
  const last = name(8999);
  const plan = await planMove(w, [
    ...Object.keys(files).map((f, i) => ({ path: f, to: f === last ? 'row.5000.png' : name(i + 1) })),
    { path: 'row.5000.png', to: 'other.png' },
  ]);
  expect([plan.steps.length, plan.notes.length, new Set(plan.notes.map((n) => n.code))]).toEqual([
    0,
    9001,
    new Set(['held']),
  ]);
});
