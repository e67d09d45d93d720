// A journal that was damaged is seen as damaged, whatever the damage; one that a crash cut off is not.

import { expect, test } from '@jest/globals';
import { parseJournalLine } from '../../wire/plan';
import { MemoryTree } from '../files/memoryTree';
import { treePath as p } from '../files/treePath';
import type { WorkspaceFile } from '../layouts/workspace';
import { planMove } from '../plans/planMove';
import { apply } from './apply';
import { memoryOutside } from './testing/memoryOutside';
import { isRecord, journalPath, readRecord } from './journal';
import type { Plan } from './plan';
import { summaryPath } from './summary';
import { applying, ledgerIn, recordsIn, recovering, undoing } from './testing/contexts';

const plan: Plan = {
  kind: 'move',
  title: 'Rename',
  steps: ['a', 'b', 'c'].map((n) => ({
    do: 'move',
    path: p(n),
    to: p(`${n}2`),
    content: { size: 1, modified: 0, digest: null },
  })),
  notes: [],
  paths: [],
  readiness: null,
};
const decode = (b: Uint8Array) => new TextDecoder('latin1').decode(b);
const encode = (s: string) => Uint8Array.from(s, (c) => c.charCodeAt(0));

async function applied(): Promise<{ tree: MemoryTree; journal: string }> {
  const tree = new MemoryTree({ a: 'A', b: 'B', c: 'C' });
  await apply(tree, plan, applying('j'));
  return { tree, journal: decode(tree.files.get(journalPath('j'))!.bytes) };
}
const files = (tree: MemoryTree) => [...tree.files.keys()].filter((f) => !f.startsWith('.satchel/')).sort();
const lines = (journal: string) => journal.split('\n').slice(1);
const join = (ls: readonly string[]) => ls.map((l) => `\n${l}`).join('');

const damages: [string, (journal: string) => string][] = [
  ['one line lost', (j) => join(lines(j).filter((_, i) => i !== 2))],
  [
    'one line changed',
    (j) => join(lines(j).map((l, i) => (i === 2 ? l.replace('"step":1', '"step":2') : l))),
  ],
  [
    'one letter spoilt',
    (j) => join(lines(j).map((l, i) => (i === 2 ? `${l.slice(0, 90)}\x01${l.slice(91)}` : l))),
  ],
  ['line ends of another system', (j) => j.replaceAll('\n', '\r\n')],
  [
    'two lines in other order',
    (j) => join(lines(j).map((l, i, all) => (i === 1 ? all[2]! : i === 2 ? all[1]! : l))),
  ],
  ['its plan spoilt', (j) => join(lines(j).map((l, i) => (i === 0 ? l.replace('Rename', 'Rewrite') : l)))],
  ['something before it', (j) => `x${j}`],
];

test.each(damages)('%s: it is damaged, nothing is undone or put back on its word', async (_, damage) => {
  for (const hasSummary of [true, false]) {
    const { tree, journal } = await applied();
    tree.set(journalPath('j'), encode(damage(journal)));
    if (!hasSummary) await tree.remove(summaryPath('j'));
    const read = readRecord('j', tree.files.get(journalPath('j'))!.bytes, parseJournalLine);
    if (isRecord(read)) {
      expect(read.damaged).toBe(true);
      await expect(undoing(tree, read)).rejects.toMatchObject({ code: 'undo-conflict' });
    } else expect(read?.why).toBe('damaged');
    const recovered = await recovering(tree);
    expect(recovered.filter((r) => r.how !== 'damaged')).toEqual([]);
    expect(files(tree)).toEqual(['a2', 'b2', 'c2']);
    expect((await ledgerIn(tree))[0]!.state).toBe(hasSummary ? 'applied' : 'damaged');
  }
});

test('a lost tail of an applied plan: it is not taken back, wherever it was cut', async () => {
  const { journal } = await applied();
  const all = lines(journal);
  for (let kept = 1; kept < all.length; kept++) {
    const { tree } = await applied();
    await tree.remove(summaryPath('j'));
    tree.set(journalPath('j'), encode(join(all.slice(0, kept))));
    await recovering(tree);
    expect([kept, files(tree)]).toEqual([kept, ['a2', 'b2', 'c2']]);
  }
});

test('a line torn by a crash is none of the chain; a newer journal is named and left; an empty one is nothing', async () => {
  const { tree, journal } = await applied();
  const [plans, first] = lines(journal);
  const torn = encode(join([plans!, first!, lines(journal)[2]!.slice(0, 80)]));
  const read = readRecord('j', torn, parseJournalLine);
  expect(isRecord(read) && [read.damaged, read.about.size, read.end]).toEqual([false, 1, null]);
  expect(readRecord('j', new Uint8Array(), parseJournalLine)).toBeNull();
  expect(readRecord('j', encode(`\n${plans!.slice(0, 50)}`), parseJournalLine)).toBeNull();
  const newer = new MemoryTree();
  await apply(newer, { ...plan, steps: [] }, applying('n'));
  await newer.remove(summaryPath('n'));
  newer.set(
    journalPath('n'),
    await (async () => {
      const { digestOf } = await import('../files/digest');
      const json = '{"line":"plan","format":3,"whatever":1}';
      return encode(`\n${digestOf(encode(json))} ${json}`);
    })(),
  );
  expect((await recovering(newer)).map((r) => r.how)).toEqual(['newer']);
  expect((await ledgerIn(newer))[0]!.state).toBe('newer');
  expect((await recordsIn(tree)).length).toBe(1);
});

test('a lost tail of scenes that were written: never half of them put back, wherever it was cut', async () => {
  const scene = (uri: string) => JSON.stringify({ images: [{ uri }] });
  const file = { homes: {}, libraries: [], places: [], created: '' } as unknown as WorkspaceFile;
  const made = async () => {
    const tree = new MemoryTree({
      't/a.png': 'A',
      ...Object.fromEntries([1, 2, 3].map((n) => [`s${n}.gltf`, scene('t/a.png')])),
    });
    const rename = await planMove({ root: '/w', tree, outside: memoryOutside({}), file }, [
      { path: 't/a.png', to: 't/b.png' },
    ]);
    await apply(tree, rename, applying('j'));
    return { tree, all: lines(decode(tree.files.get(journalPath('j'))!.bytes)) };
  };
  const { all } = await made();
  expect(all).toHaveLength(6);
  for (let kept = 1; kept < all.length; kept++) {
    const { tree, all: own } = await made();
    await tree.remove(summaryPath('j'));
    tree.set(journalPath('j'), encode(join(own.slice(0, kept))));
    const [settled] = await recovering(tree);
    const named = [1, 2, 3].map((n) => /t\/(\w)/.exec(decode(tree.files.get(p(`s${n}.gltf`))!.bytes))![1]);
    expect([kept, settled!.how, named, files(tree)[3]]).toEqual([
      kept,
      kept === all.length - 1 ? 'done' : 'damaged',
      ['b', 'b', 'b'],
      't/b.png',
    ]);
  }
});
