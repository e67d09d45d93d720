// Layouts as text: reading, refusing, round trip.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { fileKinds, homeOf } from './homes';
import { changeFolder, folderAt, insertFolder, moveFolder, removeFolder } from './editing';
import {
  checkFolderName,
  checkTree,
  eachFolder,
  flowOf,
  layoutOfFolders,
  newFolder,
  readLayout,
  readLayoutText,
  shippedLayouts,
  writeLayout,
  type LayoutFolder,
  type LayoutTree,
} from './layout';
import { findRoot } from './workspace';

test('nesting by indent, by tab and by slash; homes; comments', () => {
  const l = readLayout(
    '# ours\nscenes = scene\ntextures = texture, reference\n  work\n\t\traw\r\nrenders/stills = render\n\n',
    'x',
    'X',
  );
  expect(l.folders).toEqual([
    'scenes',
    'textures',
    'textures/work',
    'textures/work/raw',
    'renders',
    'renders/stills',
  ]);
  expect(l.homes).toEqual({
    scene: 'scenes',
    texture: 'textures',
    reference: 'textures',
    render: 'renders/stills',
  });
});

test.each([
  ['a:b', 'Line 1'],
  ['ok\nCON', 'Line 2'],
  ['x = chairs', 'no kind'],
  ['Tex\ntex', 'letter case'],
  ['', 'no folder'],
  ['.satchel', 'kept for'],
  ['a/../b', 'Line 1'],
])('%j is refused with its place', (text, says) => {
  expect(() => readLayout(text, 'x', 'X')).toThrow(says);
});

test('what is written is read back to the same (property)', () => {
  const name = fc
    .stringMatching(/^[a-z][a-z0-9 _]{0,8}[a-z0-9]$/)
    .filter((n) => !/^(con|prn|aux|nul|com\d|lpt\d)$/.test(n));
  fc.assert(
    fc.property(
      fc.uniqueArray(
        fc.array(name, { minLength: 1, maxLength: 3 }).map((p) => p.join('/')),
        { minLength: 1, maxLength: 8 },
      ),
      (paths) => {
        const once = readLayout(paths.join('\n'), 'x', 'X');
        const again = readLayout(writeLayout(once), 'x', 'X');
        expect([again.folders, again.homes]).toEqual([once.folders, once.homes]);
      },
    ),
  );
});

test('every shipped layout gives every kind a home', () => {
  for (const l of shippedLayouts)
    for (const kind of fileKinds) expect(l.folders).toContain(homeOf(kind, l.homes));
});

test('the root is found from any depth, on drives too', async () => {
  const at = (root: string) => async (folder: string) => folder === root;
  expect(await findRoot('/w/own/boat/scenes/x', at('/w/own/boat'))).toBe('/w/own/boat');
  expect(await findRoot('D:/work/boat/scenes', at('D:/work/boat'))).toBe('D:/work/boat');
  expect(await findRoot('/a/b', at('/none'))).toBeNull();
});

describe('what a layout says of its folders', () => {
  const text =
    ':name Ours\n:about Props.\n:top _\n# where the work is\nscenes = scene : top\ntextures = texture : keep\n  work\nrenders = render : output, bottom\n';
  test('pins, flow, keep and notes; names on disk carry the prefix', () => {
    const l = readLayout(text, 'x', 'X');
    expect([l.name, l.about, l.folders, l.kept]).toEqual([
      'Ours',
      'Props.',
      ['_scenes', 'textures', 'textures/work', 'zz_renders'],
      ['textures'],
    ]);
    expect(l.homes).toEqual({ scene: '_scenes', texture: 'textures', render: 'zz_renders' });
    expect(l.tree.folders.map((f) => [f.name, flowOf(f), f.note])).toEqual([
      ['scenes', 'input', 'where the work is'],
      ['textures', 'input', ''],
      ['renders', 'output', ''],
    ]);
    expect([...l.folders].sort()[0]).toBe('_scenes');
    expect(writeLayout(l)).toBe(text);
  });
  test.each([
    ['a : odd', 'cannot be said'],
    [':x y', 'not known'],
    ['a = scene\nb = scene', 'already'],
    [':top a/b\nx : top', 'cannot stand'],
  ])('%j is refused', (wrong, says) => {
    expect(() => readLayout(wrong, 'x', 'X')).toThrow(says);
  });
});

const folder: fc.Arbitrary<LayoutFolder> = fc.letrec<{ folder: LayoutFolder }>((tie) => ({
  folder: fc.record({
    name: fc
      .stringMatching(/^[A-Za-zÄ-ü(_][A-Za-z0-9 _()=#'-]{0,10}[A-Za-z0-9)]$/)
      .filter((n) => checkFolderName(n, true).length === 0),
    kinds: fc.constant<LayoutFolder['kinds']>([]),
    flow: fc.constantFrom(null, 'input' as const, 'output' as const),
    keep: fc.boolean(),
    pin: fc.constantFrom(null, 'top' as const, 'bottom' as const),
    note: fc
      .array(fc.stringMatching(/^[a-z:=.]([a-z:=. ]{0,8}[a-z.])?$/), { maxLength: 2 })
      .map((l) => l.map((s) => s.replace(/ +/g, ' ')).join('\n')),
    folders: fc.oneof(
      { maxDepth: 3 },
      fc.constant<LayoutFolder[]>([]),
      fc.array(tie('folder'), { maxLength: 3 }),
    ),
  }),
})).folder;
const tree: fc.Arbitrary<LayoutTree> = fc
  .record({
    top: fc.constantFrom('', '00_', '_', '!'),
    bottom: fc.constantFrom('', 'zz_', '~'),
    folders: fc.array(folder, { minLength: 1, maxLength: 5 }),
  })
  .chain((t) =>
    fc.array(fc.nat(20), { minLength: fileKinds.length, maxLength: fileKinds.length }).map((at) => {
      // Each kind to one folder or to none.
      let n = 0;
      const withKinds = (folders: readonly LayoutFolder[]): LayoutFolder[] =>
        folders.map((f) => {
          const own = n++;
          return { ...f, kinds: fileKinds.filter((_, i) => at[i] === own), folders: withKinds(f.folders) };
        });
      return { ...t, folders: withKinds(t.folders) };
    }),
  )
  .filter((t) => checkTree(t).length === 0);

test('every tree, written and read, is the same tree (property)', () => {
  fc.assert(
    fc.property(tree, fc.string(), (t, about) => {
      const again = readLayoutText(writeLayout({ tree: t, name: 'N', about }));
      expect(again.problems).toEqual([]);
      expect(again.tree).toEqual(t);
      expect(writeLayout({ ...again })).toBe(writeLayout({ tree: t, name: 'N', about }));
    }),
  );
});

test('editing: a folder moved anywhere is still there once, with all in it (property)', () => {
  fc.assert(
    fc.property(tree, fc.nat(), fc.nat(), fc.nat(5), (t, a, b, at) => {
      const places: string[] = [''];
      const walk = (folders: readonly LayoutFolder[], place: string) =>
        folders.forEach((f, i) => {
          const p = place === '' ? String(i) : `${place}.${i}`;
          places.push(p);
          walk(f.folders, p);
        });
      walk(t.folders, '');
      const from = places[1 + (a % (places.length - 1))]!;
      const parent = places[b % places.length]!;
      const list = parent === '' ? t.folders : folderAt(t, parent)!.folders;
      const moved = moveFolder(t, from, parent, Math.min(at, list.length));
      const names = (x: LayoutTree) => [...eachFolder(x)].map((f) => f.folder.name).sort();
      if (moved === null) expect(parent === from || parent.startsWith(`${from}.`)).toBe(true);
      else {
        expect(names(moved)).toEqual(names(t));
        expect([...eachFolder(moved)].map((f) => f.folder)).toContainEqual(folderAt(t, from));
      }
      expect(
        names(
          removeFolder(
            insertFolder(t, parent, 0, newFolder('brand new')),
            parent === '' ? '0' : `${parent}.0`,
          ),
        ),
      ).toEqual(names(t));
      expect(folderAt(changeFolder(t, from, { name: 'renamed' }), from)?.name).toBe('renamed');
    }),
  );
});

test('a layout made of folders that exist has them and their kinds', () => {
  const t = layoutOfFolders(['b/c', 'a', 'b'], { texture: 'b/c' });
  expect([...eachFolder(t)].map((f) => [f.path, f.folder.kinds])).toEqual([
    ['a', []],
    ['b', []],
    ['b/c', ['texture']],
  ]);
});
