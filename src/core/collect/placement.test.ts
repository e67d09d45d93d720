// Where collected files will lie: rules, clashes, sets, and what a hand changed.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { foldName } from '../names/portable';
import type { FileKind } from '../layouts/homes';
import type { Closure, NeededFile } from './closure';
import type { HandStep } from './hand';
import { place, type Placing, type Rule } from './placement';

interface Said {
  from: string;
  kind?: FileKind;
  lies?: NeededFile['lies'];
  owner?: string;
  set?: string;
  below?: string;
  by?: string;
}

function closure(files: readonly Said[]): Pick<Closure, 'files' | 'sets'> {
  const sets = new Map<string, string[]>();
  for (const f of files) if (f.set) sets.set(f.set, [...(sets.get(f.set) ?? []), f.from]);
  return {
    files: new Map(
      files.map((f) => [
        f.from,
        {
          from: f.from,
          state: { size: 1, modified: 0, digest: null },
          kind: f.kind ?? 'texture',
          below: f.below ?? '',
          lies: f.lies ?? { in: f.from.startsWith('/w/') ? 'root' : 'outside' },
          chosen: false,
          owner: f.owner ?? null,
          neededBy: f.by ? [{ scene: f.by, at: '', written: '' }] : [],
          set: f.set ?? null,
          references: null,
          says: null,
        },
      ]),
    ),
    sets,
  };
}
const byKind: Rule = {
  by: 'kind',
  homes: { scene: 'scenes', texture: 'textures', cache: 'caches', other: 'other' },
};
const placed = (files: readonly Said[], rule: Rule, more: Partial<Placing> = {}) => {
  const p = place(closure(files), {
    root: '/w',
    libraries: [{ name: 'kit', path: '/barn/kits/harbour' }],
    rule,
    ...more,
  });
  return { ...p, to: Object.fromEntries([...p.files].map(([from, f]) => [from, f.to])) };
};

describe('by kind', () => {
  test('each to its home; what belongs to a scene beside it; what is filed keeps its folder below the home', () => {
    expect(
      placed(
        [
          { from: '/w/scenes/a.gltf', kind: 'scene' },
          { from: '/w/scenes/a.bin', kind: 'cache', owner: '/w/scenes/a.gltf' },
          { from: '/w/textures/boat/hull.png', below: 'boat' },
          { from: '/x/sky.hdr' },
          { from: '/y/font.ttf', kind: 'font' },
        ],
        byKind,
      ).to,
    ).toEqual({
      '/w/scenes/a.gltf': 'scenes/a.gltf',
      '/w/scenes/a.bin': 'scenes/a.bin',
      '/w/textures/boat/hull.png': 'textures/boat/hull.png',
      '/x/sky.hdr': 'textures/sky.hdr',
      '/y/font.ttf': 'other/font.ttf',
    });
  });
  test('a usual name comes in a folder of its scene', () => {
    expect(
      placed(
        [
          { from: '/x/boat.gltf', kind: 'scene' },
          { from: '/x/diffuse.png', by: '/x/boat.gltf' },
        ],
        byKind,
      ).to['/x/diffuse.png'],
    ).toBe('textures/boat/diffuse.png');
  });
  test('two of a name, also where only case or Unicode form differs', () => {
    const p = placed(
      [
        { from: '/a/Rope.png' },
        { from: '/b/rope.PNG' },
        { from: '/c/Stra\u00dfe e\u0301.png' },
        { from: '/d/Stra\u00dfe \u00e9.png' },
      ],
      byKind,
    );
    expect(p.to).toEqual({
      '/a/Rope.png': 'textures/Rope.png',
      '/b/rope.PNG': 'textures/rope(2).PNG',
      '/c/Stra\u00dfe e\u0301.png': 'textures/Stra\u00dfe e\u0301.png',
      '/d/Stra\u00dfe \u00e9.png': 'textures/Stra\u00dfe \u00e9(2).png',
    });
    expect(p.files.get('/b/rope.PNG')!.instead).toEqual({ name: 'rope.PNG', why: 'taken' });
  });
  test('names that are not legal everywhere, and those of the report', () => {
    const p = placed(
      [
        { from: '/a/what: is?.png' },
        { from: '/a/CON.png' },
        { from: '/b/what is in here.html', kind: 'other' },
      ],
      { by: 'tail', folders: 0 },
      { reserved: ['what is in here.html'] },
    );
    expect(p.to).toEqual({
      '/a/what: is?.png': 'what_ is_.png',
      '/a/CON.png': expect.not.stringMatching(/^CON\./),
      '/b/what is in here.html': 'what is in here(2).html',
    });
  });
  test('a set whose names are taken goes whole into a folder of its own', () => {
    const tile = (n: number, folder: string) => ({
      from: `${folder}/wall.${n}.png`,
      set: `${folder}/wall.<UDIM>.png`,
    });
    const p = placed([tile(1001, '/a'), tile(1002, '/a'), tile(1002, '/b'), tile(1003, '/b')], byKind);
    expect(p.to['/b/wall.1003.png']).toBe('textures/wall/wall.1003.png');
    expect([...p.sets]).toEqual([
      ['/a/wall.<UDIM>.png', 'textures/wall.<UDIM>.png'],
      ['/b/wall.<UDIM>.png', 'textures/wall/wall.<UDIM>.png'],
    ]);
  });
});

test('as it lies: the root, libraries by name, the rest below what it shares, each drive for itself', () => {
  expect(
    placed(
      [
        { from: '/w/scenes/day/a.gltf' },
        { from: '/barn/kits/harbour/iron/bollard.png', lies: { in: 'library', name: 'kit' } },
        { from: '/x/skies/storm/a.hdr' },
        { from: '/x/skies/calm/b.hdr' },
        { from: 'E:/stick/skies/c.hdr' },
        { from: '//barn/share/t/d.png' },
      ],
      { by: 'mirror' },
    ).to,
  ).toEqual({
    '/w/scenes/day/a.gltf': 'scenes/day/a.gltf',
    '/barn/kits/harbour/iron/bollard.png': 'libraries/kit/iron/bollard.png',
    '/x/skies/storm/a.hdr': 'outside/skies/storm/a.hdr',
    '/x/skies/calm/b.hdr': 'outside/skies/calm/b.hdr',
    'E:/stick/skies/c.hdr': 'outside/skies/c.hdr',
    '//barn/share/t/d.png': 'outside/t/d.png',
  });
});

test.each([
  [0, 'd.png'],
  [1, 'c/d.png'],
  [2, 'b/c/d.png'],
  [9, 'a/b/c/d.png'],
])('the last %i folders', (folders, to) => {
  expect(placed([{ from: 'E:/a/b/c/d.png' }], { by: 'tail', folders }).to).toEqual({ 'E:/a/b/c/d.png': to });
});

describe('by hand', () => {
  const files = [
    { from: '/x/a.png' },
    { from: '/y/a.png' },
    { from: '/z/w.1001.png', set: '/z/w.<UDIM>.png' },
    { from: '/z/w.1002.png', set: '/z/w.<UDIM>.png' },
  ];
  const hand = (to: Record<string, string>, folders: string[] = []) =>
    placed(files, byKind, {
      byHand: [
        ...Object.entries(to).map(([from, path]): HandStep => ({ do: 'put', from, to: path })),
        ...folders.map((path): HandStep => ({ do: 'make', path })),
      ],
    });
  test('stands first, and the rule goes around it', () => {
    const p = hand({ '/y/a.png': 'textures/a.png', '/z/w.<UDIM>.png': 'tiles/w.<UDIM>.png' }, ['refs/new']);
    expect(p.to).toEqual({
      '/y/a.png': 'textures/a.png',
      '/x/a.png': 'textures/a(2).png',
      '/z/w.1001.png': 'tiles/w.1001.png',
      '/z/w.1002.png': 'tiles/w.1002.png',
    });
    expect(p.files.get('/y/a.png')!.byHand).toBe(true);
    expect([p.folders, p.clashes]).toEqual([['refs/new'], []]);
  });
  test.each([
    [{ '/x/a.png': 'q/A.png', '/y/a.png': 'q/a.png' }, 'Another file will lie there.'],
    [{ '/x/a.png': 'q', '/y/a.png': 'q/a.png' }, 'q is a file.'],
    [{ '/x/a.png': 'q/a.png', '/y/a.png': 'q' }, 'A folder of this name will lie there.'],
    [{ '/x/a.png': '../a.png' }, 'It is no path below the folder.'],
    [{ '/x/a.png': 'con/a.png' }, expect.stringMatching(/Windows/)],
    [{ '/x/a.png': '.satchel/a.png' }, expect.stringMatching(/records/)],
    [{ '/z/w.<UDIM>.png': 'tiles/v.<UDIM>.png' }, expect.stringMatching(/keep their names/)],
  ])('%j cannot be, and is said', (to, why) => {
    const p = hand(to as Record<string, string>);
    expect(p.clashes).toMatchObject([{ why }]);
    expect(p.files.size).toBe(4);
  });
  test('what is not needed any more keeps its place for when it is again', () => {
    expect(hand({ '/gone/b.png': 'textures/a.png' }).to['/x/a.png']).toBe('textures/a.png');
  });
});

test('steps of a hand, one after the other: folders take along what lies in them, and what comes later', () => {
  const files: Said[] = [
    { from: '/w/scenes/a.gltf', kind: 'scene' },
    { from: '/w/scenes/a.bin', kind: 'cache', owner: '/w/scenes/a.gltf' },
    { from: '/x/hull.png', below: 'boat' },
    { from: '/x/rope.png' },
    { from: '/z/w.1001.png', set: '/z/w.<UDIM>.png' },
  ];
  const after = (steps: HandStep[], of = files) => placed(of, byKind, { byHand: steps });
  const steps: HandStep[] = [
    { do: 'put', from: '/x/rope.png', to: 'textures/boat/rope.png' },
    { do: 'folder', path: 'textures/boat', to: 'client/ship' },
    { do: 'make', path: 'client/ship/notes' },
    { do: 'folder', path: 'client', to: 'for the client' },
    { do: 'put', from: '/w/scenes/a.gltf', to: 'first.gltf' },
    { do: 'put', from: '/z/w.<UDIM>.png', to: 'tiles/w.<UDIM>.png' },
  ];
  const all = after(steps);
  expect(all.to).toEqual({
    '/w/scenes/a.gltf': 'first.gltf',
    // What belongs to a scene follows it.
    '/w/scenes/a.bin': 'a.bin',
    '/x/hull.png': 'for the client/ship/hull.png',
    '/x/rope.png': 'for the client/ship/rope.png',
    '/z/w.1001.png': 'tiles/w.1001.png',
  });
  expect([all.folders, all.clashes]).toEqual([['for the client/ship/notes'], []]);
  const mast: Said = { from: '/x/mast.png', below: 'boat' };
  expect(after(steps, [...files, mast]).to['/x/mast.png']).toBe('for the client/ship/mast.png');
  expect(after(steps, files.slice(0, 3)).to['/x/hull.png']).toBe('for the client/ship/hull.png');
  const back = after([
    ...steps,
    { do: 'rule-in', path: 'for the client' },
    { do: 'rule', from: '/w/scenes/a.gltf' },
  ]);
  expect(back.to).toEqual({ ...after([]).to, '/z/w.1001.png': 'tiles/w.1001.png' });
  expect(back.folders).toEqual([]);
});

test('whatever a hand does: what it says is no clash can be, and the rest goes around it', () => {
  const folder = fc.constantFrom('textures', 'textures/boat', 'scenes', 'a', 'a/b', 'CON', '..', 'b.png');
  const froms = ['/x/a.png', '/x/b.png', '/y/a.png', '/w/scenes/s.gltf', '/z/w.<UDIM>.png', '/gone.png'];
  const step = fc.oneof(
    fc.record({
      do: fc.constant('put' as const),
      from: fc.constantFrom(...froms),
      to: fc.constantFrom('a.png', 'a/a.png', 'textures/A.png', 'a', 'a/b/w.<UDIM>.png'),
    }),
    fc.record({ do: fc.constant('folder' as const), path: folder, to: folder }),
    fc.record({ do: fc.constant('make' as const), path: folder }),
    fc.record({ do: fc.constant('rule' as const), from: fc.constantFrom(...froms) }),
    fc.record({ do: fc.constant('rule-in' as const), path: folder }),
  );
  const files: Said[] = [
    { from: '/x/a.png' },
    { from: '/x/b.png', below: 'boat' },
    { from: '/y/a.png' },
    { from: '/w/scenes/s.gltf', kind: 'scene' },
    { from: '/w/scenes/s.bin', kind: 'cache', owner: '/w/scenes/s.gltf' },
    { from: '/z/w.1001.png', set: '/z/w.<UDIM>.png' },
    { from: '/z/w.1002.png', set: '/z/w.<UDIM>.png' },
  ];
  fc.assert(
    fc.property(fc.array(step, { maxLength: 12 }), (steps) => {
      const p = placed(files, byKind, { byHand: steps });
      expect(p.files.size).toBe(files.length);
      if (p.clashes.length > 0) return;
      const paths = [...p.files.values()].map((f) => foldName(f.to));
      expect(new Set(paths).size).toBe(paths.length);
      for (const path of [...paths, ...p.folders.map(foldName)])
        for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1))
          expect(paths).not.toContain(path.slice(0, at));
      for (const path of p.folders) expect(paths).not.toContain(foldName(path));
    }),
    { numRuns: 500 },
  );
});

test('whatever is needed: no two in one place, every name legal, no file where a folder is, sets together', () => {
  const part = fc.constantFrom('a', 'A', 'b', 'é', 'e\u0301', 'CON', 'x:y', 'textures', 'w', '.satchel');
  const said = fc.record({
    from: fc.array(part, { minLength: 1, maxLength: 4 }).map((p) => `/${p.join('/')}/n.png`),
    name: fc.constantFrom(
      'n.png',
      'N.PNG',
      'diffuse.png',
      'aux.png',
      'w.1001.png',
      'w.1002.png',
      'what is in here.html',
      'a',
    ),
    kind: fc.constantFrom<FileKind>('texture', 'scene', 'cache', 'other'),
  });
  const rule = fc.oneof(
    fc.constant(byKind),
    fc.constant<Rule>({ by: 'mirror' }),
    fc.nat(4).map((folders): Rule => ({ by: 'tail', folders })),
  );
  fc.assert(
    fc.property(fc.array(said, { maxLength: 40 }), rule, (all, r) => {
      const files = all.map(({ from, name, kind }): Said => {
        const path = from.replace(/n\.png$/, name);
        const tile = /w\.\d{4}\.png$/.test(name);
        return { from: path, kind, ...(tile ? { set: path.replace(/\d{4}/, '<UDIM>') } : {}) };
      });
      const p = placed(files, r, { reserved: ['what is in here.html'] });
      expect(p.files.size).toBe(new Set(files.map((f) => f.from)).size);
      const paths = [...p.files.values()].map((f) => foldName(f.to));
      expect(new Set(paths).size).toBe(paths.length);
      for (const path of paths)
        for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1))
          expect(paths).not.toContain(path.slice(0, at));
      expect(paths).not.toContain('what is in here.html');
      for (const [set, to] of p.sets)
        for (const member of closure(files).sets.get(set)!)
          expect(p.files.get(member)!.to.slice(0, p.files.get(member)!.to.lastIndexOf('/') + 1)).toBe(
            to.slice(0, to.lastIndexOf('/') + 1),
          );
    }),
    { numRuns: 300 },
  );
});
