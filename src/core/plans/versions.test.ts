// Versions in both habits: whatever is saved, brought back, moved into another habit, kept compact and undone, every version gives back what the scene
// was, to the byte, and finds from where it lies what the scene found from its own place.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { apply } from '../changes/apply';
import { readJournals } from '../changes/journal';
import type { Plan } from '../changes/plan';
import { applying, undoing } from '../changes/testing/contexts';
import { crashing, type CrashKind } from '../changes/testing/crashingTree';
import { recovering } from '../changes/testing/contexts';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { treePath, type TreePath } from '../files/treePath';
import { followBack } from './followBack';
import { newWorkspaceFile } from './planCreate';
import { shippedLayouts } from '../layouts/layout';
import { scan } from '../references/scan';
import {
  usualPattern,
  checkVersionPattern,
  readVersionName,
  versionPath,
  type Habit,
} from '../versions/habit';
import { parseJournalLine } from '../../wire/plan';
import { parseWorkspaceFile } from '../../wire/workspace';
import type { MarkedWorkspace } from './marker';
import { planCompact, planSpread } from './planCompact';
import { planHabit } from './planHabit';
import { planMove } from './planMove';
import { planRestore } from './planRestore';
import { changedScenes, planSave } from './planSave';
import { readSeries } from './versionFiles';
import { settingOf } from './workspace';
import { howMany } from '../files/testing/depth';

const root = '/work/boat';
const scene = treePath('scenes/boat.gltf');
const folder: Habit = { kind: 'folder', pattern: usualPattern };
const numbered: Habit = { kind: 'numbered', pattern: usualPattern };
const now = '2026-11-26T10:00:00.000Z';
let count = 0;

type Held = MarkedWorkspace & { tree: MemoryTree };

function workspaceWith(files: Record<string, string>, habit?: Habit): Held {
  let time = 1000;
  const tree = new MemoryTree({}, () => time++);
  const file = newWorkspaceFile({ name: 'boat', created: now, layout: shippedLayouts[0]!, without: [] });
  const marker = habit ? { ...file, versions: { habit: habit.kind, pattern: habit.pattern } } : file;
  tree.set('.satchel/workspace.json', JSON.stringify(marker));
  for (const [path, content] of Object.entries(files)) tree.set(path, content);
  return at(tree);
}

/** The workspace as it says of itself now. */
function at(tree: MemoryTree): Held {
  const text = new TextDecoder().decode(tree.files.get('.satchel/workspace.json')!.bytes);
  return { root, tree, outside: memoryOutside({}), file: parseWorkspaceFile(text, 'marker') };
}

const said = (w: Held, path: string) => {
  const held = w.tree.files.get(path);
  return held && new TextDecoder().decode(held.bytes);
};
const carryOut = (w: Held, plan: Plan) => apply(w.tree, plan, applying(String(++count).padStart(6, '0')));
const filesOf = (w: Held) => [...w.tree.files.keys()].filter((p) => !p.startsWith('.satchel/')).sort();

/** What each reference of a scene leads to. */
async function targets(w: Held, of: string): Promise<(string | null)[]> {
  for await (const report of scan(w.tree, settingOf(w)))
    if (report.path === of) return report.references.filter((r) => r.kind === 'texture').map((r) => r.target);
  return [];
}

const textures = { 'textures/a b.png': 'A', 'scenes/near.png': 'N', 'textures/c.png': 'C' };
const gltf = (uris: readonly string[], buffer: string | null, indent = 0) =>
  JSON.stringify(
    {
      asset: { version: '2.0' },
      images: uris.map((uri) => ({ uri })),
      ...(buffer ? { buffers: [{ uri: buffer, byteLength: 1 }] } : {}),
    },
    null,
    indent,
  );

describe('one current file and a folder of versions', () => {
  test('a version lies deeper and opens from there, with what is the scene’s alone; back come the very bytes', async () => {
    const first = gltf(
      ['../textures/a%20b.png', './near.png', '..\\textures\\c.png', '../gone.png'],
      'boat.bin',
      1,
    );
    const w = workspaceWith({ ...textures, [scene]: first, 'scenes/boat.bin': 'ONE' }, folder);
    await carryOut(w, await planSave(w, { scenes: [scene], note: 'sail', now }));
    expect(filesOf(w).filter((p) => p.includes('versions/'))).toEqual([
      'scenes/versions/boat_v001.bin',
      'scenes/versions/boat_v001.gltf',
    ]);
    const version = JSON.parse(said(w, 'scenes/versions/boat_v001.gltf')!) as {
      images: { uri: string }[];
      buffers: { uri: string }[];
    };
    expect(version.images.map((i) => i.uri)).toEqual([
      '../../textures/a%20b.png',
      '../near.png',
      expect.stringMatching(/textures.c\.png$/),
      '../../gone.png',
    ]);
    expect(version.buffers[0]!.uri).toBe('boat_v001.bin');
    expect(await targets(w, 'scenes/versions/boat_v001.gltf')).toEqual(await targets(w, scene));
    expect(said(w, scene)).toBe(first);

    w.tree.set(scene, gltf(['near.png'], 'boat.bin'));
    w.tree.set('scenes/boat.bin', 'TWO');
    await carryOut(w, await planRestore(w, { scene, number: 1, note: '', now }));
    expect([said(w, scene), said(w, 'scenes/boat.bin')]).toEqual([first, 'ONE']);
    // What was there is a version now, and comes back as well.
    expect((await readSeries(w, scene)).versions.map((v) => v.number)).toEqual([1, 2]);
    await carryOut(w, await planRestore(w, { scene, number: 2, note: '', now }));
    expect([said(w, scene), said(w, 'scenes/boat.bin')]).toEqual([gltf(['near.png'], 'boat.bin'), 'TWO']);
    // Both were versions already: nothing was saved twice.
    expect((await readSeries(w, scene)).versions).toHaveLength(2);
  });

  test('a library of materials that lies deeper finds its textures too', async () => {
    const w = workspaceWith(
      {
        'textures/c.png': 'C',
        'scenes/boat.obj': 'mtllib boat.mtl\nv 0 0 0\n',
        'scenes/boat.mtl': 'newmtl a\nmap_Kd ../textures/c.png\n',
      },
      folder,
    );
    await carryOut(w, await planSave(w, { scenes: [treePath('scenes/boat.obj')], note: '', now }));
    expect(said(w, 'scenes/versions/boat_v001.obj')).toBe('mtllib boat_v001.mtl\nv 0 0 0\n');
    expect(said(w, 'scenes/versions/boat_v001.mtl')).toBe('newmtl a\nmap_Kd ../../textures/c.png\n');
  });

  test('a version whose paths were changed since comes back with paths for its own place', async () => {
    const w = workspaceWith({ ...textures, [scene]: gltf(['../textures/c.png'], null) }, folder);
    await carryOut(w, await planSave(w, { scenes: [scene], note: '', now }));
    await carryOut(w, await planMove(w, [{ path: 'textures/c.png', to: 'textures/new name.png' }]));
    w.tree.set(scene, gltf([], null));
    await carryOut(w, await planRestore(w, { scene, number: 1, note: '', now }));
    expect(await targets(w, scene)).toEqual(['textures/new name.png']);
  });
});

test('two versions that read alike are told apart', async () => {
  const w = workspaceWith({
    'scenes/mix_1.obj': 'v 1 1 1\n',
    'scenes/mix_01.obj': 'v 2 2 2\n',
    'scenes/mix_2.obj': 'v 3 3 3\n',
  });
  const back = (scene: string, version?: string) =>
    planRestore(w, {
      scene: treePath(scene),
      number: 1,
      version: version === undefined ? undefined : treePath(version),
      note: '',
      now,
    });
  await expect(back('scenes/mix_2.obj')).rejects.toMatchObject({
    code: 'bad-request',
    message: expect.stringMatching(/mix_01\.obj and mix_1\.obj both read as version 1/),
  });
  await expect(back('scenes/mix_2.obj', 'scenes/mix_001.obj')).rejects.toMatchObject({ code: 'not-found' });
  const titles = [
    (await back('scenes/mix_2.obj', 'scenes/mix_1.obj')).title,
    (await back('scenes/mix_2.obj', 'scenes/mix_01.obj')).title,
    (await back('scenes/mix_01.obj')).title,
  ].map((t) => t.split(' back')[0]);
  expect(titles).toEqual(['Bring mix_1.obj', 'Bring mix_01.obj', 'Bring mix_01.obj']);
  await carryOut(w, await back('scenes/mix_2.obj', 'scenes/mix_1.obj'));
  const newest = (await readSeries(w, treePath('scenes/mix_2.obj'))).scene;
  expect(said(w, newest)).toBe('v 1 1 1\n');
});

describe('several at once', () => {
  test('a set in one step; and all that changed since their last version, and no other', async () => {
    const w = workspaceWith({
      'scenes/a_v001.gltf': gltf([], null),
      'scenes/b_01.gltf': gltf([], 'b_01.bin'),
      'scenes/b_01.bin': '1',
      'scenes/c.obj': 'v 0 0 0\n',
    });
    const all = ['scenes/a_v001.gltf', 'scenes/b_01.gltf', 'scenes/c.obj'].map(treePath);
    await carryOut(w, await planSave(w, { scenes: all, note: 'evening', now }));
    expect(filesOf(w)).toEqual([
      'scenes/a_v001.gltf',
      'scenes/a_v002.gltf',
      'scenes/b_01.bin',
      'scenes/b_01.gltf',
      'scenes/b_02.bin',
      'scenes/b_02.gltf',
      'scenes/c.obj',
      'scenes/c_v001.obj',
    ]);
    expect(await readJournals(w.tree, parseJournalLine)).toHaveLength(1);
    expect(await changedScenes(w)).toEqual([]);
    expect((await planSave(w, { scenes: null, note: '', now })).steps).toEqual([]);
    w.tree.set('scenes/b_02.bin', '2'); // what belongs to it alone is it, too
    w.tree.set('scenes/a_v001.gltf', gltf(['x.png'], null)); // not what is worked on
    expect((await changedScenes(w)).map((s) => s.scene)).toEqual(['scenes/b_02.gltf']);
  });
});

describe('patterns', () => {
  test.each([
    ['versions/{scene}_v{number:3}', 'boat.gltf', 7, 'versions/boat_v007.gltf'],
    ['old/{number:4} {scene}', 'boat.x.obj', 12, 'old/0012 boat.x.obj'],
    ['a/b/{scene}.{number}', 'boat', 3, 'a/b/boat.3'],
  ])('%s', (pattern, name, number, path) => {
    expect(checkVersionPattern(pattern)).toEqual([]);
    expect(versionPath(pattern, name, number)).toBe(path);
    if (name.includes('.'))
      expect(readVersionName(pattern, path.slice(path.lastIndexOf('/') + 1))).toEqual({
        scene: name,
        number,
      });
  });
  test.each([
    '{scene}_{number}',
    'v/{scene}',
    'v/{number}/{scene}',
    '../{scene}{number}',
    'a:b/{scene}{number}',
    'v/{scene}{nr}{number}',
    '/{scene}{number}',
  ])('%s is told', (pattern) => expect(checkVersionPattern(pattern)).not.toEqual([]));
});

describe('kept compact', () => {
  test('files go into the store and come back byte for byte with their times; what is used stays', async () => {
    const w = workspaceWith({
      'scenes/boat_v001.gltf': gltf(['near.png'], 'boat_v001.bin'),
      'scenes/boat_v001.bin': 'ONE',
      'scenes/boat_v002.gltf': gltf([], null),
      'scenes/boat_v003.gltf': gltf([], null),
      'scenes/all.usda': '#usda 1.0\n(\n    subLayers = [@boat_v002.gltf@]\n)\n',
    });
    const before = [...w.tree.files].filter(([p]) => !p.startsWith('.satchel/'));
    const versions = [1, 2, 3].map((n) => treePath(`scenes/boat_v00${n}.gltf`));
    const plan = await planCompact(w, { versions, now });
    expect(plan.notes.map((n) => [n.code, n.path])).toEqual([
      ['in-use', 'scenes/boat_v002.gltf'],
      ['held', 'scenes/boat_v003.gltf'],
    ]);
    await carryOut(w, plan);
    expect(filesOf(w)).toEqual(['scenes/all.usda', 'scenes/boat_v002.gltf', 'scenes/boat_v003.gltf']);
    const series = await readSeries(w, treePath('scenes/boat_v003.gltf'));
    expect(series.versions.map((v) => [v.number, v.compact])).toEqual([
      [1, true],
      [2, undefined],
      [3, undefined],
    ]);
    await carryOut(w, await planSpread(w, [versions[0]!]));
    expect([...w.tree.files].filter(([p]) => !p.startsWith('.satchel/')).sort()).toEqual(before.sort());
  });

  test('one is brought back as a new version straight from the store', async () => {
    const w = workspaceWith({
      ...textures,
      'scenes/boat_v001.gltf': gltf(['near.png'], 'boat_v001.bin'),
      'scenes/boat_v001.bin': 'ONE',
      'scenes/boat_v002.gltf': gltf([], null),
    });
    await carryOut(w, await planCompact(w, { versions: [treePath('scenes/boat_v001.gltf')], now }));
    await carryOut(
      w,
      await planRestore(w, { scene: treePath('scenes/boat_v002.gltf'), number: 1, note: '', now }),
    );
    expect(said(w, 'scenes/boat_v003.gltf')).toBe(gltf(['near.png'], 'boat_v003.bin'));
    expect(said(w, 'scenes/boat_v003.bin')).toBe('ONE');
    expect(filesOf(w)).not.toContain('scenes/boat_v001.gltf');
  });
});

describe('another habit', () => {
  test('what is there is moved, every reference to a version kept, and back', async () => {
    const w = workspaceWith({
      ...textures,
      'scenes/boat_v001.gltf': gltf(['../textures/c.png'], 'boat_v001.bin'),
      'scenes/boat_v001.bin': 'ONE',
      'scenes/boat_v002.gltf': gltf(['../textures/c.png'], null),
      'scenes/all.usda': '#usda 1.0\ndef "a" (\n    references = @boat_v001.gltf@\n)\n{\n}\n',
    });
    await carryOut(w, await planHabit(w, folder));
    const then = at(w.tree);
    expect(filesOf(then)).toEqual([
      'scenes/all.usda',
      'scenes/boat.gltf',
      'scenes/near.png',
      'scenes/versions/boat_v001.bin',
      'scenes/versions/boat_v001.gltf',
      'textures/a b.png',
      'textures/c.png',
    ]);
    expect(said(then, 'scenes/all.usda')).toContain('@versions/boat_v001.gltf@');
    expect(await targets(then, 'scenes/versions/boat_v001.gltf')).toEqual(['textures/c.png']);
    expect((await readSeries(then, scene)).next.path).toBe('scenes/versions/boat_v002.gltf');
    await carryOut(then, await planHabit(then, numbered));
    const again = at(w.tree);
    expect(filesOf(again)).toEqual([
      'scenes/all.usda',
      'scenes/boat_v001.bin',
      'scenes/boat_v001.gltf',
      'scenes/boat_v002.gltf',
      'scenes/near.png',
      'textures/a b.png',
      'textures/c.png',
    ]);
    expect(said(again, 'scenes/boat_v001.gltf')).toBe(gltf(['../textures/c.png'], 'boat_v001.bin'));
  });
});

/** A step of a history. */
type Act =
  | { act: 'edit'; content: string; buffer: string }
  | { act: 'save' }
  | { act: 'restore'; which: number }
  | { act: 'habit' }
  | { act: 'compact'; which: number }
  | { act: 'spread' }
  | { act: 'undo' };

const uris = [
  '../textures/a%20b.png',
  './near.png',
  'near.png',
  '..\\textures\\c.png',
  '../gone.png',
  './/near.png',
  '../scenes/near.png',
];
const acts: fc.Arbitrary<Act> = fc.oneof(
  fc.record({
    act: fc.constant('edit' as const),
    content: fc
      .tuple(fc.subarray(uris), fc.boolean(), fc.integer({ min: 0, max: 2 }))
      .map(([some, has, indent]) => gltf(some, has ? 'boat.bin' : null, indent)),
    buffer: fc.string({ maxLength: 4 }),
  }),
  fc.record({ act: fc.constant('save' as const) }),
  fc.record({ act: fc.constant('restore' as const), which: fc.nat(9) }),
  fc.record({ act: fc.constant('habit' as const) }),
  fc.record({ act: fc.constant('compact' as const), which: fc.nat(9) }),
  fc.record({ act: fc.constant('spread' as const) }),
  fc.record({ act: fc.constant('undo' as const) }),
);

/** The plan of an act; null where there is nothing to do. */
async function planOf(w: Held, act: Act): Promise<Plan | null> {
  const series = await readSeries(w, scene);
  const pick = (which: number, list: readonly { number: number | null; path: TreePath }[]) =>
    list.length === 0 ? null : list[which % list.length]!;
  switch (act.act) {
    case 'save':
      return planSave(w, { scenes: [series.scene], note: '', now });
    case 'restore': {
      const old = pick(
        act.which,
        series.versions.filter((v) => v.number !== null),
      );
      return old && planRestore(w, { scene: series.scene, number: old.number!, note: '', now });
    }
    case 'habit':
      return planHabit(w, w.file.versions?.habit === 'folder' ? numbered : folder);
    case 'compact': {
      const old = pick(
        act.which,
        series.versions.filter((v) => !v.compact),
      );
      return old && planCompact(w, { versions: [old.path], now });
    }
    case 'spread':
      return planSpread(
        w,
        series.versions.filter((v) => v.compact).map((v) => v.path),
      );
    case 'undo': {
      const last = (await readJournals(w.tree, parseJournalLine)).sort((a, b) => a.seq - b.seq).at(-1);
      return last ? undoing(w.tree, last) : null;
    }
    case 'edit':
      return null;
  }
}

test('any history: every version gives back what the scene and its buffer were, to the byte', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(acts, { minLength: 3, maxLength: 14 }), async (history) => {
      const tree = workspaceWith(
        { ...textures, [scene]: gltf(['near.png'], 'boat.bin'), 'scenes/boat.bin': 'B' },
        folder,
      ).tree;
      /** What each version was made of, as the notes say: number → scene and buffer. */
      const made = new Map<number, { scene: string; buffer: string | undefined }>();
      for (const act of history) {
        const w = at(tree);
        const series = await readSeries(w, scene);
        const isCurrent = series.scene === scene;
        if (act.act === 'edit') {
          if (isCurrent) {
            tree.set(scene, act.content);
            tree.set('scenes/boat.bin', act.buffer);
          }
          continue;
        }
        const before = { scene: said(w, scene)!, buffer: said(w, 'scenes/boat.bin') };
        const plan = await planOf(w, act);
        if (!plan || plan.steps.length === 0 || plan.notes.some((n) => n.level === 'blocker')) continue;
        await carryOut(w, plan);
        const numbers = new Set((await readSeries(at(tree), scene)).versions.map((v) => v.number));
        for (const n of made.keys()) if (!numbers.has(n)) made.delete(n); // its saving was undone
        // Saving copies what is present; so does bringing back into the one current file.
        const saves = act.act === 'save' || (act.act === 'restore' && series.habit.kind === 'folder');
        const isNew = saves && isCurrent && !series.versions.some((v) => v.number === series.next.number);
        if (isNew && numbers.has(series.next.number)) made.set(series.next.number, before);
        else if (act.act === 'undo')
          for (const n of [...made.keys()]) if (!series.versions.some((v) => v.number === n)) made.delete(n);
      }
      let end = at(tree);
      if (end.file.versions?.habit !== 'folder') {
        const plan = await planHabit(end, folder);
        if (plan.notes.some((n) => n.level === 'blocker')) return;
        await carryOut(end, plan);
        end = at(tree);
      }
      const isSame = (await readSeries(end, scene)).scene === scene;
      expect(isSame).toBe(true);
      for (const [number, was] of made) {
        const plan = await planRestore(end, { scene, number, note: '', now });
        expect(plan.notes.filter((n) => n.level === 'blocker')).toEqual([]);
        if (plan.steps.length > 0) await carryOut(end, plan);
        expect(said(end, scene)).toBe(was.scene);
        if (was.scene.includes('boat.bin')) expect(said(end, 'scenes/boat.bin')).toBe(was.buffer);
      }
    }),
    { numRuns: howMany(60) },
  );
}, 120_000);

describe('a crash at every write', () => {
  const kinds: CrashKind[] = ['lost', 'torn', 'unreported'];
  const start = {
    ...textures,
    [scene]: gltf(['../textures/c.png'], 'boat.bin'),
    'scenes/boat.bin': 'NOW',
    'scenes/versions/boat_v001.gltf': gltf(['../../textures/c.png'], 'boat_v001.bin', 1),
    'scenes/versions/boat_v001.bin': 'OLD',
  };
  const works: Record<string, (w: Held) => Promise<Plan>> = {
    save: (w) => planSave(w, { scenes: [scene], note: '', now }),
    restore: (w) => planRestore(w, { scene, number: 1, note: '', now }),
    compact: (w) => planCompact(w, { versions: [treePath('scenes/versions/boat_v001.gltf')], now }),
    habit: (w) => planHabit(w, numbered),
  };
  test.each(Object.keys(works).flatMap((name) => kinds.map((kind) => [name, kind] as const)))(
    '%s, write %s: all of it, or nothing',
    async (name, kind) => {
      const users = (w: Held) => filesOf(w).map((p) => [p, said(w, p)]);
      const whole = workspaceWith(start, folder);
      await carryOut(whole, await works[name]!(whole));
      for (let n = 1; ; n++) {
        const w = workspaceWith(start, folder);
        const before = users(w);
        const down = crashing(w.tree, n, kind);
        await apply(down, await works[name]!(w), applying(String(++count).padStart(6, '0'))).catch(
          () => undefined,
        );
        await recovering(w.tree);
        expect([before, users(whole)]).toContainEqual(users(w));
        if (!down.crashed()) {
          expect(n).toBeGreaterThan(5);
          break;
        }
      }
    },
  );
});

describe('an undo takes what moved back, and what was made since goes on finding it', () => {
  const gltf = (...uris: string[]) =>
    JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
  const lastRecord = async (w: Held) => (await readJournals(w.tree, parseJournalLine)).at(-1)!;
  const undone = async (w: Held, record: Awaited<ReturnType<typeof lastRecord>>) => {
    const plan = await followBack(w, await undoing(w.tree, record));
    await carryOut(w, plan);
    return plan;
  };
  const begin = () =>
    workspaceWith({
      'scenes/boat_v001.gltf': gltf('../textures/a.png', '../textures/b.png'),
      'scenes/pier_v001.gltf': gltf('../textures/b.png'),
      'textures/a.png': 'A',
      'textures/b.png': 'B',
    });

  test('a file: a version saved since follows, all else is as it was to the byte; and so does the redo', async () => {
    const w = begin();
    const was = said(w, 'scenes/boat_v001.gltf');
    await carryOut(w, await planMove(w, [{ path: 'textures/a.png', to: 'textures/hull.png' }]));
    const move = await lastRecord(w);
    await carryOut(w, await planSave(w, { scenes: [treePath('scenes/boat_v001.gltf')], note: '', now }));
    const plan = await undone(w, move);
    expect(plan.notes.map((n) => [n.code, n.path])).toEqual([['follows', 'scenes/boat_v002.gltf']]);
    expect(plan.paths.map((p) => [p.scene, p.before, p.after])).toContainEqual([
      'scenes/boat_v002.gltf',
      '../textures/hull.png',
      '../textures/a.png',
    ]);
    expect(said(w, 'scenes/boat_v001.gltf')).toBe(was);
    expect(said(w, 'scenes/boat_v002.gltf')).toBe(was);
    await undone(w, await lastRecord(w));
    for (const v of [1, 2])
      expect(await targets(w, `scenes/boat_v00${v}.gltf`)).toEqual(['textures/hull.png', 'textures/b.png']);
  });
  test('a folder: what came into it since comes along, and finds what it found', async () => {
    const w = begin();
    await carryOut(w, await planMove(w, [{ path: 'scenes', to: 'work/scenes' }]));
    const move = await lastRecord(w);
    // Saved by another program: a plan that saved it there would have to be undone first.
    w.tree.set('work/scenes/boat_v002.gltf', said(w, 'work/scenes/boat_v001.gltf')!);
    w.tree.set('work/scenes/new.gltf', gltf('../../textures/b.png'));
    w.tree.set('elsewhere.usda', '#usda 1.0\ndef "x" (references = @work/scenes/pier_v001.gltf@) {}\n');
    await undone(at(w.tree), move);
    const then = at(w.tree);
    for (const scene of ['scenes/boat_v001.gltf', 'scenes/boat_v002.gltf'])
      expect(await targets(then, scene)).toEqual(['textures/a.png', 'textures/b.png']);
    expect(await targets(then, 'scenes/new.gltf')).toEqual(['textures/b.png']);
    expect(said(then, 'elsewhere.usda')).toContain('scenes/pier_v001.gltf@');
    expect(said(then, 'elsewhere.usda')).not.toContain('work/');
  });
  test('names that were exchanged go back, and a version that came between means what it meant', async () => {
    const w = begin();
    await carryOut(
      w,
      await planMove(w, [
        { path: 'textures/a.png', to: 'textures/b.png' },
        { path: 'textures/b.png', to: 'textures/a.png' },
      ]),
    );
    const move = await lastRecord(w);
    await carryOut(w, await planSave(w, { scenes: [treePath('scenes/pier_v001.gltf')], note: '', now }));
    const meant = async (scene: string) => (await targets(w, scene)).map((t) => said(w, t!));
    expect(await meant('scenes/pier_v002.gltf')).toEqual(['B']);
    await undone(w, move);
    expect([await meant('scenes/pier_v002.gltf'), await meant('scenes/boat_v001.gltf')]).toEqual([
      ['B'],
      ['A', 'B'],
    ]);
  });
  test('what moves nothing is undone as it was, and one that cannot be undone says so as before', async () => {
    const w = begin();
    await carryOut(w, await planSave(w, { scenes: [treePath('scenes/boat_v001.gltf')], note: '', now }));
    const save = await undoing(w.tree, await lastRecord(w));
    expect(await followBack(w, save)).toBe(save);
    await carryOut(w, await planMove(w, [{ path: 'textures/a.png', to: 'textures/hull.png' }]));
    const move = await lastRecord(w);
    w.tree.set('textures/a.png', 'another');
    const blocked = await undoing(w.tree, move);
    expect(await followBack(w, blocked)).toBe(blocked);
  });
});
