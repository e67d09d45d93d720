// Plans above the workspaces and on nested ones: references are kept across workspaces, undo gives back the same bytes.

import { markerPath } from '../files/records';
import { describe, expect, test } from '@jest/globals';
import { parseJournalLine } from '../../wire/plan';
import { parseWorkspaceFile } from '../../wire/workspace';
import { apply } from '../changes/apply';
import { planUndo } from '../changes/invert';
import { readJournals } from '../changes/journal';
import type { Plan } from '../changes/plan';
import { applying, recovering } from '../changes/testing/contexts';
import { crashing } from '../changes/testing/crashingTree';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { recordsElsewhere } from '../files/recordsElsewhere';
import { treeSuite } from '../files/testing/treeSuite';
import { join, treePath } from '../files/treePath';
import { shippedLayouts } from '../layouts/layout';
import { writeWorkspaceFile, type WorkspaceFile } from '../layouts/workspace';
import { scan } from '../references/scan';
import { newWorkspaceFile } from './planCreate';
import { planNested } from './planNested';
import { planCreateMany } from './planCreateMany';
import { planRelocate, type Shelved } from './planRelocate';
import { settingOf, type Workspace } from './workspace';

const now = () => '2026-11-25T10:00:00.000Z';
const layout = shippedLayouts[0]!;
const marker = (name: string, more: Partial<WorkspaceFile> = {}): WorkspaceFile => ({
  ...newWorkspaceFile({ name, layout, without: [], created: now() }),
  ...more,
});
const gltf = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
const decode = (b: Uint8Array) => new TextDecoder().decode(b);

treeSuite(async () => recordsElsewhere(new MemoryTree(), new MemoryTree()));

function shelfOf(files: Record<string, string>) {
  const inner = new MemoryTree(files);
  const records = new MemoryTree();
  const tree = recordsElsewhere(inner, records);
  const shelf: Workspace = {
    root: '/work',
    tree,
    outside: memoryOutside({}),
    file: { homes: {}, libraries: [], places: [] },
  };
  const all = () => Object.fromEntries([...inner.files].map(([p, f]) => [p, decode(f.bytes)]).sort());
  return { shelf, inner, records, tree, all };
}
const states = async (w: Workspace) => {
  const out: string[] = [];
  for await (const r of scan(w.tree, settingOf(w)))
    for (const x of r.references)
      out.push(
        `${x.state} ${x.target === null ? '' : w.tree instanceof MemoryTree || x.inside ? decode(await w.tree.read(treePath(x.target))) : ''}`,
      );
  return out;
};

describe('several at once', () => {
  test('thirty alike, and none of them left after undo', async () => {
    const { tree, all, inner } = shelfOf({ 'other/x.txt': 'x' });
    const names = Array.from({ length: 30 }, (_, i) => `2026-11 Class ${String(i + 1).padStart(2, '0')}`);
    const plan = await planCreateMany(tree, {
      names,
      layout,
      without: ['backups'],
      category: 'teaching',
      created: now(),
    });
    await apply(tree, plan, applying('1'));
    expect(Object.keys(all()).length).toBe(31);
    for (const n of names)
      expect(parseWorkspaceFile(decode(inner.files.get(join(n, markerPath))!.bytes), n)).toMatchObject({
        name: n,
        category: 'teaching',
      });
    expect([
      inner.folders.has(`${names[0]}/textures/work`),
      inner.folders.has(`${names[0]}/backups`),
      inner.folders.has('.satchel'),
    ]).toEqual([true, false, false]);
    const [record] = await readJournals(tree, parseJournalLine);
    await apply(tree, await planUndo(tree, record!), applying('2'));
    expect(Object.keys(all())).toEqual(['other/x.txt']);
    expect([...inner.folders].sort()).toEqual(['', 'other']);
  });
  test('a name that is there, twice, in other letters, or illegal stops all', async () => {
    const { tree } = shelfOf({ 'Boat/x.txt': 'x' });
    const plan = await planCreateMany(tree, {
      names: ['boat', 'a:b', 'Quay', 'Quay', 'fine'],
      layout,
      without: [],
      created: now(),
    });
    expect([plan.steps, plan.notes.map((n) => n.path)]).toEqual([[], ['boat', 'a:b', 'Quay']]);
  });
});

describe('moving whole workspaces', () => {
  const pier = marker('Old Pier');
  const lantern = marker('Lantern', { libraries: [{ name: 'pier', path: '/work/Old Pier/textures' }] });
  const files = {
    [`Old Pier/${markerPath}`]: writeWorkspaceFile(pier),
    'Old Pier/scenes/p.gltf': gltf(
      '../textures/wood.png',
      '/work/Old Pier/textures/wood.png',
      '../../Lantern/textures/l.png',
    ),
    'Old Pier/textures/wood.png': 'WOOD',
    [`Lantern/${markerPath}`]: writeWorkspaceFile(lantern),
    'Lantern/scenes/l.gltf': gltf('../../Old%20Pier/textures/wood.png', '../textures/l.png'),
    'Lantern/textures/l.png': 'L',
    'stray/s.gltf': gltf('../Lantern/textures/l.png'),
  };
  const known: Shelved[] = [
    { root: treePath('Old Pier'), file: pier },
    { root: treePath('Lantern'), file: lantern },
  ];
  const move = { path: treePath('Old Pier'), to: treePath('client/2026 Pier') };
  test('everything that led into it, out of it and within it still does; the library moves along', async () => {
    const { shelf, tree, all } = shelfOf(files);
    const before = all();
    const found = (await states(shelf)).sort();
    const plan = await planRelocate(shelf, { moves: [move], known });
    expect(plan.notes.map((n) => [n.level, n.code])).toEqual([['info', 'other-workspace']]);
    await apply(tree, plan, applying('1'));
    expect(all()['Lantern/scenes/l.gltf']).toBe(
      gltf('../../client/2026%20Pier/textures/wood.png', '../textures/l.png'),
    );
    expect(all()['client/2026 Pier/scenes/p.gltf']).toBe(
      gltf(
        '../textures/wood.png',
        '/work/client/2026 Pier/textures/wood.png',
        '../../../Lantern/textures/l.png',
      ),
    );
    expect(JSON.parse(all()[`Lantern/${markerPath}`]!).libraries).toEqual([
      { name: 'pier', path: '/work/client/2026 Pier/textures' },
    ]);
    expect(JSON.parse(all()[`client/2026 Pier/${markerPath}`]!).name).toBe('2026 Pier');
    expect((await states(shelf)).sort()).toEqual(found);
    const [record] = await readJournals(tree, parseJournalLine);
    await apply(tree, await planUndo(tree, record!), applying('2'));
    expect(all()).toEqual(before);
  });
  test('not into another workspace, not over what is there', async () => {
    const { shelf } = shelfOf(files);
    expect(
      (await planRelocate(shelf, { moves: [{ ...move, to: treePath('Lantern/inside') }], known })).notes.map(
        (n) => n.code,
      ),
    ).toContain('inside-workspace');
    expect(
      (await planRelocate(shelf, { moves: [{ ...move, to: treePath('stray') }], known })).notes.map(
        (n) => n.code,
      ),
    ).toContain('exists');
  });
  test('a crash at any write leaves all or nothing', async () => {
    for (let n = 1; ; n++) {
      const { shelf, tree, all } = shelfOf(files);
      const before = all();
      const plan = await planRelocate(shelf, { moves: [move], known });
      const done = await apply(crashing(tree, n, 'torn'), plan, applying('1')).then(
        () => true,
        () => false,
      );
      await recovering(tree);
      if (done) break;
      if ((await readJournals(tree, parseJournalLine))[0]?.end?.how !== 'applied')
        expect([n, all()]).toEqual([n, before]);
    }
  });
});

describe('a workspace inside a workspace', () => {
  const outer = marker('Outer');
  const inner = marker('Inner', { libraries: [{ name: 'kit', path: '/kits' }] });
  const files = {
    [markerPath]: writeWorkspaceFile(outer),
    'scenes/o.gltf': gltf('inner/../../inner/textures/t.png'),
    'textures/t.png': 'OUTER T',
    [`inner/${markerPath}`]: writeWorkspaceFile(inner),
    'inner/scenes/i.gltf': gltf('../textures/t.png'),
    'inner/textures/t.png': 'INNER T',
    'inner/notes.txt': 'hi',
    'inner/.satchel/versions/scenes/i.gltf.json': '{}',
    'inner/.satchel/journal/x.jsonl': '',
  };
  const open = () => ({
    root: '/work/outer',
    tree: new MemoryTree(files),
    outside: memoryOutside({}),
    file: outer,
  });
  const run = async (w: ReturnType<typeof open>, plan: Plan) => {
    await apply(w.tree, plan, applying('z1', { outside: w.outside }));
    const after = Object.keys(Object.fromEntries(w.tree.files))
      .filter((p) => !/^\.satchel\/(journal|store)/.test(p))
      .sort();
    return after;
  };
  test.each(['unmark', 'merge'] as const)(
    '%s keeps every reference and gives the notes to the outer one; undone to the same',
    async (how) => {
      const w = open();
      const before = Object.fromEntries([...w.tree.files].map(([p, f]) => [p, decode(f.bytes)]));
      const found = (await states(w)).sort();
      const after = await run(w, await planNested(w, { inner: treePath('inner'), file: inner, how }));
      expect(after).not.toContain(`inner/${markerPath}`);
      expect(after).toContain('inner/notes.txt');
      expect(after.includes('textures/t(2).png')).toBe(how === 'merge');
      expect(after).toContain(how === 'merge' ? 'scenes/i.gltf' : 'inner/scenes/i.gltf');
      expect(after).toContain('.satchel/versions/inner/scenes/i.gltf.json');
      expect(JSON.parse(decode(w.tree.files.get(markerPath)!.bytes)).libraries).toEqual([
        { name: 'kit', path: '/kits' },
      ]);
      expect((await states(w)).sort()).toEqual(found);
      const record = (await readJournals(w.tree, parseJournalLine)).find((r) => r.id === 'z1');
      await apply(w.tree, await planUndo(w.tree, record!), applying('z2', { outside: w.outside }));
      for (const [p, content] of Object.entries(before))
        expect([p, decode(w.tree.files.get(p)!.bytes)]).toEqual([p, content]);
    },
  );
});
