// Ranking on invented breakages of an invented project: the right file stands first, and nothing is taken silently that is not sure.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { howMany } from '../files/testing/depth';
import { NameIndex, sureOne, type Evidence } from './candidates';
import { editDistance } from './nearNames';

// A project of props, each with its own maps of the same few names, versions of scenes, and caches: about 2,900 files. Numbers alone make it.
const props = [
  'boat',
  'crate',
  'lantern',
  'quay',
  'anchor',
  'buoy',
  'lighthouse',
  'gangway',
  'bollard',
  'rowlock',
  'harbourmaster',
  'winch',
];
const parts = ['hull', 'deck', 'frame', 'glass', 'rope', 'door', 'roof', 'plank'];
const maps = ['base_color', 'normal', 'roughness', 'metallic', 'height'];
interface File {
  path: string;
  size: number;
  digest: string;
}
const files: File[] = [];
let seed = 7;
const next = (n: number) => (seed = (seed * 1103515245 + 12345) % 2147483648) % n;
const lay = (path: string) =>
  files.push({ path, size: 2000 + next(4_000_000), digest: String(files.length) });
for (const p of props) {
  for (const part of parts)
    for (const m of maps) {
      lay(`textures/${p}/${part}_${m}.png`);
      lay(`textures/${p}/source/${part}_${m}.tif`);
      lay(`assets/${p}/maps/${p}_${part}_${m}.exr`);
    }
  for (let v = 1; v <= 12; v++) lay(`scenes/${p}/${p}_v${String(v).padStart(3, '0')}.gltf`);
  for (let c = 1; c <= 40; c++) lay(`caches/${p}/sim_${String(c).padStart(2, '0')}.abc`);
  for (const s of ['creak', 'splash', 'bell']) lay(`audio/${p}_${s}.wav`);
}

interface Broken {
  kind: string;
  /** What the scene still says. */
  written: string;
  /** Where the file is now. */
  now: string;
  evidence: Evidence;
}

const pick = (n: number) => files[(n * 7919) % files.length]!;
const folderOf = (p: string) => p.slice(0, p.lastIndexOf('/'));
const nameOf = (p: string) => p.slice(p.lastIndexOf('/') + 1);
const neighboursOf = (f: File) =>
  files
    .filter((o) => folderOf(o.path) === folderOf(f.path) && o !== f)
    .slice(0, 6)
    .map((o) => nameOf(o.path));

/** One wrong letter: changed, left out, doubled or swapped. */
function misspell(text: string, n: number): string {
  const at = 1 + (n % Math.max(1, text.length - 2));
  return [
    text.slice(0, at) + 'x' + text.slice(at + 1),
    text.slice(0, at) + text.slice(at + 1),
    text.slice(0, at) + text[at]! + text.slice(at),
    text.slice(0, at) + text[at + 1]! + text[at]! + text.slice(at + 2),
  ][n % 4]!;
}

// So many of each kind of breakage.
const each = howMany(30, 10);

/** Breakages of each kind, on files that are there under their right names; `now` may be a new path. */
function breakages(): Broken[] {
  const out: Broken[] = [];
  for (let n = 0; n < each; n++) {
    const f = pick(n + 1);
    const [dir, name] = [folderOf(f.path), nameOf(f.path)];
    const dot = name.lastIndexOf('.');
    const neighbours = neighboursOf(f);
    out.push({
      kind: 'moved',
      written: `../${f.path}`,
      now: `archive/${n % 2 ? 'old' : 'new'}/${name}`,
      evidence: { size: f.size, neighbours },
    });
    out.push({
      kind: 'renamed',
      written: `../${f.path}`,
      now: `${dir}/final thing ${n}${name.slice(dot)}`,
      evidence: { size: f.size, neighbours },
    });
    out.push({
      kind: 'one letter in the name',
      written: `../${dir}/${misspell(name.slice(0, dot), n)}${name.slice(dot)}`,
      now: f.path,
      evidence: { neighbours },
    });
    out.push({
      kind: 'one letter in a folder',
      written: `../${dir.split('/').slice(0, -1).join('/')}/${misspell(dir.split('/').at(-1)!, n)}/${name}`,
      now: f.path,
      evidence: { neighbours },
    });
    out.push({
      kind: 'letter case',
      written: `../${dir}/${name.toUpperCase()}`,
      now: f.path,
      evidence: { neighbours },
    });
    out.push({
      kind: 'folder renamed',
      written: `../${f.path}`,
      now: `${dir.replace(/[^/]+$/, (last) => `${last}_final`)}/${name}`,
      evidence: { size: f.size, neighbours },
    });
    out.push({
      kind: 'number changed',
      written: `../scenes/${props[n % 12]}/${props[n % 12]}_v0${n % 2 ? '00' : '42'}.gltf`,
      now: `scenes/${props[n % 12]}/`,
      evidence: {},
    });
    out.push({
      kind: 'other extension',
      written: `../${dir}/${name.slice(0, dot)}${name.endsWith('.png') ? '.tga' : name.endsWith('.exr') ? '.tif' : name.slice(dot)}`,
      now: f.path,
      evidence: { neighbours },
    });
  }
  return out;
}

/** The files as they lie once one of them is elsewhere; of a renamed folder all of it. */
function indexFor(b: Broken): NameIndex {
  const index = new NameIndex();
  const was = b.written.replace(/^\.\.\//, '');
  for (const f of files) {
    let path = f.path;
    if (b.kind === 'moved' || b.kind === 'renamed') path = f.path === was ? b.now : f.path;
    else if (b.kind === 'folder renamed' && folderOf(f.path) === folderOf(was))
      path = `${folderOf(b.now)}/${nameOf(f.path)}`;
    index.add(path, true, { size: f.size, digest: f.digest });
  }
  return index;
}

describe('invented breakages', () => {
  const all = breakages();
  const results = all.map((b) => {
    const candidates = indexFor(b).candidatesFor(b.written, b.evidence);
    const isRight = (path: string | undefined) =>
      path !== undefined && (b.kind === 'number changed' ? path.startsWith(b.now) : path === b.now);
    return {
      b,
      first: candidates[0],
      isFirst: isRight(candidates[0]?.path),
      sure: sureOne(candidates),
      sureIsRight: isRight(sureOne(candidates)?.path),
    };
  });
  test('the right file stands first in at least 95 of 100', () => {
    expect(results.length).toBe(8 * each);
    const byKind = new Map<string, [right: number, of: number]>();
    for (const r of results) {
      const [right, of] = byKind.get(r.b.kind) ?? [0, 0];
      byKind.set(r.b.kind, [right + Number(r.isFirst), of + 1]);
    }
    const missed = results
      .filter((r) => !r.isFirst)
      .map((r) => `${r.b.kind}: ${r.b.written} → ${r.first?.path} (${r.first?.reason}), not ${r.b.now}`);
    expect({
      share: results.filter((r) => r.isFirst).length / results.length >= 0.95,
      missed: missed.slice(0, 12),
      byKind: [...byKind],
    }).toMatchObject({ share: true });
  });
  test('what is taken without asking is right, every time', () => {
    expect(
      results.filter((r) => r.sure && !r.sureIsRight).map((r) => `${r.b.written} → ${r.sure?.path}`),
    ).toEqual([]);
  });
  test('a wrong letter in the name, another number, another format are never taken silently', () => {
    for (const r of results.filter((x) => /one letter in the name|number|extension/.test(x.b.kind)))
      if (r.first?.reason !== 'same name') expect(r.sure).toBeNull();
  });
});

describe('single cases', () => {
  const index = (...paths: (string | [string, object])[]) => {
    const i = new NameIndex();
    for (const p of paths)
      if (typeof p === 'string') i.add(p, true);
      else i.add(p[0], true, p[1]);
    return i;
  };
  test('the same content comes before the same name', () => {
    const c = index(
      ['a/hull.png', { digest: 'x', size: 10 }],
      ['b/other.png', { digest: 'y', size: 9 }],
    ).candidatesFor('t/hull.png', { digest: 'y' });
    expect(c.map((x) => [x.path, x.reason])).toEqual([
      ['b/other.png', 'same content'],
      ['a/hull.png', 'same name'],
    ]);
  });
  test('two copies of the content are not sure', () =>
    expect(
      sureOne(
        index(['a/1.png', { digest: 'y' }], ['b/2.png', { digest: 'y' }]).candidatesFor('t/hull.png', {
          digest: 'y',
        }),
      ),
    ).toBeNull());
  test('a near folder tells two of one name apart: “ages” for “images”', () => {
    const c = index('images/wood.png', 'sounds/wood.png').candidatesFor('../mages/wood.png');
    expect([c[0]!.path, sureOne(c)?.path]).toEqual(['images/wood.png', 'images/wood.png']);
  });
  test('neighbours tell them apart where folders do not', () => {
    const c = index('a/x/base.png', 'a/x/normal.png', 'b/y/base.png', 'b/y/other.png').candidatesFor(
      'gone/base.png',
      { neighbours: ['normal.png'] },
    );
    expect([c[0]!.path, c[0]!.neighbours]).toEqual(['a/x/base.png', 1]);
  });
  test('another kind of file of the same stem is no candidate', () =>
    expect(index('a/hull.wav').candidatesFor('t/hull.png')).toEqual([]));
});

test('near spellings are found as comparing all would find them (property)', () => {
  const stem = fc.string({ unit: fc.constantFrom('a', 'b', 'c', 'd'), minLength: 3, maxLength: 12 });
  fc.assert(
    fc.property(fc.uniqueArray(stem, { minLength: 2, maxLength: 60 }), stem, (stems, asked) => {
      const index = new NameIndex();
      for (const s of stems) index.add(`t/${s}.png`, true);
      const most = asked.length >= 8 ? 2 : 1;
      const found = index
        .candidatesFor(`t/${asked}.png`)
        .flatMap((c) => (c.reason === 'near spelling' ? [c.path] : []));
      const all = stems.flatMap((s) =>
        s !== asked && editDistance(s, asked, most) <= most ? [`t/${s}.png`] : [],
      );
      expect(found.sort()).toEqual(all.sort());
    }),
    { numRuns: 400 },
  );
});
