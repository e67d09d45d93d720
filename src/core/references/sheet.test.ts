// The table in memory, against plain statements of what each question means.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  fieldOf,
  folderMeant,
  groupings,
  parseFilter,
  problemOf,
  Sheet,
  sortings,
  type SheetRow,
} from './sheet';

const row = (scene: string, ord: number, more: Partial<SheetRow> = {}): SheetRow => ({
  scene,
  ord,
  format: 'gltf',
  at: `/images/${ord}/uri`,
  kind: 'texture',
  written: `../textures/t${ord}.png`,
  state: 'travels',
  target: `textures/t${ord}.png`,
  ready: true,
  oddities: [],
  gaps: [],
  uses: ['hull › planks · base colour'],
  size: 10,
  ...more,
});
const none = parseFilter('');

test('what is typed', () => {
  expect(
    parseFilter(
      'state:missing,case kind:texture in:"old textures" scene:boat field:normal -draft Hull "two words"',
    ),
  ).toEqual({
    words: ['hull', 'two words'],
    without: ['draft'],
    states: ['missing', 'case'],
    kinds: ['texture'],
    scenes: ['boat'],
    folders: ['old textures'],
    fields: ['normal'],
  });
  expect(parseFilter('  ')).toEqual({
    words: [],
    without: [],
    states: [],
    kinds: [],
    scenes: [],
    folders: [],
    fields: [],
  });
  // A drive letter is no field, and half a quote is what has been typed so far.
  expect(parseFilter('c:/work "old t').words).toEqual(['c:/work', 'old t']);
});

test('what a reference is to its scene', () => {
  expect([
    fieldOf(row('a', 0)),
    fieldOf(row('a', 0, { uses: [] })),
    fieldOf(row('a', 0, { uses: ['newmtl oak / map_Kd'], at: 'newmtl oak / map_Kd' })),
    fieldOf(row('a', 0, { uses: [], at: '/Quay/WallPaint.inputs:file' })),
    fieldOf(row('a', 0, { uses: [], at: 'image boards / init_from' })),
  ]).toEqual(['base colour', 'image', 'map_Kd', 'inputs:file', 'init_from']);
  expect([
    folderMeant({ target: null, written: 'D:\\old\\a.png' }),
    problemOf({ state: 'travels', oddities: ['backslash'] }),
    problemOf({ state: 'library', oddities: [] }),
  ]).toEqual(['D:/old', 'backslash', '']);
});

test('groups: those that need a hand first; within them what needs it first, then as in the file', () => {
  const sheet = new Sheet([
    row('a', 0),
    row('a', 1, { ready: false, state: 'missing', target: null }),
    row('b', 0),
    row('c', 0, { ready: false, state: 'outside' }),
  ]);
  const { groups, order } = sheet.arrange(none, 'scene', 'need');
  expect(groups.map((g) => [g.key, g.rows, g.attention])).toEqual([
    ['a', 2, 1],
    ['c', 1, 1],
    ['b', 1, 0],
  ]);
  expect([...order]).toEqual([1, 0, 3, 2]);
  expect(sheet.arrange(none, 'state', 'need').groups.map((g) => g.key)).toEqual([
    'missing',
    'outside',
    'travels',
  ]);
});

const rows = fc
  .array(
    fc.record({
      scene: fc.constantFrom('s/a', 's/b', 'c'),
      kind: fc.constantFrom('texture', 'buffer'),
      state: fc.constantFrom('travels', 'missing', 'outside'),
      folder: fc.constantFrom('', 't', 't/x'),
      name: fc.constantFrom('Oak.png', 'elm.png', 'x y.png'),
      size: fc.option(fc.nat(100), { nil: null }),
    }),
    { maxLength: 60 },
  )
  .map((list) =>
    list.map((r, i) =>
      row(r.scene, i, {
        kind: r.kind,
        state: r.state,
        ready: r.state === 'travels',
        target: r.state === 'missing' ? null : `${r.folder}/${r.name}`,
        written: `${r.folder}/${r.name}`,
        size: r.size,
      }),
    ),
  );

test('whatever is asked: each row that fits once, none that does not, groups whole and in one piece', () => {
  fc.assert(
    fc.property(
      rows,
      fc.constantFrom(...groupings),
      fc.constantFrom(...sortings),
      fc.boolean(),
      fc.constantFrom('', 'oak', '-oak', 'kind:texture', 'state:missing,outside elm', 'in:t/x scene:s/'),
      (list, by, sort, down, text) => {
        const { order, groups } = new Sheet(list).arrange(parseFilter(text), by, sort, down);
        const fits = (r: SheetRow) => {
          const all = `${r.written}\n${r.scene}\n${r.target ?? ''}\n${r.uses.join('\n')}`.toLowerCase();
          switch (text) {
            case 'oak':
              return all.includes('oak');
            case '-oak':
              return !all.includes('oak');
            case 'kind:texture':
              return r.kind === 'texture';
            case 'state:missing,outside elm':
              return r.state !== 'travels' && all.includes('elm');
            case 'in:t/x scene:s/':
              return folderMeant(r).includes('t/x') && r.scene.includes('s/');
            default:
              return true;
          }
        };
        expect([...order].sort((a, b) => a - b)).toEqual(list.flatMap((r, i) => (fits(r) ? [i] : [])));
        expect(groups.reduce((s, g) => s + g.rows, 0)).toBe(order.length);
        let at = 0;
        for (const g of groups) {
          const part = [...order.subarray(at, at + g.rows)].map((i) => list[i]!);
          at += g.rows;
          expect(part.filter((r) => !r.ready)).toHaveLength(g.attention);
          const key = {
            scene: (r: SheetRow) => r.scene,
            state: (r: SheetRow) => r.state,
            kind: (r: SheetRow) => r.kind,
            folder: folderMeant,
            target: (r: SheetRow) => r.target ?? r.written,
            none: () => '',
          }[by];
          expect(part.every((r) => key(r) === g.key)).toBe(true);
          if (sort === 'size')
            expect(part.map((r) => r.size ?? -1)).toEqual(
              part.map((r) => r.size ?? -1).toSorted((a, b) => (down ? b - a : a - b)),
            );
        }
        expect(new Set(groups.map((g) => g.key)).size).toBe(groups.length);
      },
    ),
    { numRuns: 300 },
  );
});

test('likeness: rows that share the folder, the kind, the field or the problem of one', () => {
  const sheet = new Sheet([
    row('a', 0),
    row('a', 1, { state: 'missing', target: null, written: '../old/x.png' }),
    row('b', 0, { uses: ['deck › wood · normal'] }),
    row('b', 1, { kind: 'buffer', state: 'missing', target: null, written: '../old/y.bin' }),
  ]);
  const of = { scene: 'a', at: '/images/1/uri' };
  const keys = (how: Parameters<typeof sheet.like>[2], from = of) =>
    sheet.like(none, from, how)?.map((r) => `${r.scene}${r.ord}`);
  expect([
    keys('folder'),
    keys('kind'),
    keys('problem'),
    keys('field'),
    keys('scene'),
    keys('target'),
  ]).toEqual([['a1', 'b1'], ['a0', 'a1', 'b0'], ['a1', 'b1'], ['a0', 'a1', 'b1'], ['a0', 'a1'], ['a1']]);
  expect(keys('kind', { scene: 'gone', at: 'x' })).toBeUndefined();
});
