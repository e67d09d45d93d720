// Plans over the other formats: chains through them, sequences that stay whole, values whose format puts something before or behind.

import { describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import { parseJournalLine } from '../../wire/plan';
import { apply } from '../changes/apply';
import { applying } from '../changes/testing/contexts';
import { planUndo } from '../changes/invert';
import { readJournals } from '../changes/journal';
import { memoryOutside } from '../changes/testing/memoryOutside';
import type { Plan } from '../changes/plan';
import { MemoryTree } from '../files/memoryTree';
import { shippedLayouts } from '../layouts/layout';
import { fullPath } from '../formats/format';
import { scan } from '../references/scan';
import { packageOf } from '../formats/testing/usdzPackage';
import { planBring } from './planBring';
import { planRelink } from './planRelink';
import { planTravel } from './planTravel';
import { settingOf, type Workspace } from './workspace';

type Here = Workspace & { tree: MemoryTree };
function workspaceOf(
  files: Record<string, string | Uint8Array>,
  outside: Record<string, string | Uint8Array>,
): Here {
  return {
    root: '/work/boat',
    tree: new MemoryTree({ ...files, '.satchel/workspace.json': '{}' }),
    outside: memoryOutside(outside),
    file: { homes: shippedLayouts[0]!.homes, libraries: [], places: [] },
  };
}
let n = 0;
const applied = (w: Here, plan: Plan) =>
  apply(w.tree, plan, applying(`2026-${String(++n).padStart(5, '0')}`, { outside: w.outside }));
async function found(w: Here) {
  const out: Record<string, (string | number | null)[]> = {};
  for await (const report of scan(w.tree, settingOf(w)))
    for (const r of report.references) out[`${report.path} ${fullPath(r)}`] = [r.state, r.target, r.targets];
  return out;
}
const contents = (w: Here) =>
  Object.fromEntries(
    [...w.tree.files]
      .filter(([p]) => !p.startsWith('.satchel/'))
      .map(([p, f]) => [p, Buffer.from(f.bytes).toString('latin1')])
      .sort(),
  );

test('a USD scene comes in with its layers, its tiles all in one folder, though one of them was there before alone', async () => {
  const outside = {
    '/dl/scene.usda':
      '#usda 1.0\n(\n    subLayers = [@./look.usda@]\n)\ndef "A"\n{\n    asset f = @tiles/w.<UDIM>.png@\n    asset g = @/dl/tiles/w.1001.png@\n}\n',
    '/dl/look.usda': '#usda 1.0\ndef "B"\n{\n    asset x = @./tiles/w.1002.png@\n}\n',
    '/dl/tiles/w.1001.png': '1',
    '/dl/tiles/w.1002.png': '2',
    '/dl/tiles/w.1011.png': '11',
  };
  const w = workspaceOf({}, outside);
  const before = contents(w);
  await applied(w, await planBring(w, { files: ['/dl/scene.usda'] }));
  expect(await found(w)).toEqual({
    'scenes/look.usda ../textures/w.1002.png': ['travels', 'textures/w.1002.png', 1],
    'scenes/scene.usda ./look.usda': ['travels', 'scenes/look.usda', 1],
    'scenes/scene.usda ../textures/w.<UDIM>.png': ['travels', 'textures/w.<UDIM>.png', 3],
    'scenes/scene.usda ../textures/w.1001.png': ['travels', 'textures/w.1001.png', 1],
  });
  const [record] = await readJournals(w.tree, parseJournalLine);
  await applied(w, await planUndo(w.tree, record!));
  expect(contents(w)).toEqual(before);
});

test('tiles whose names are taken by others go to a folder of their own, all of them', async () => {
  const w = workspaceOf(
    { 'textures/w.1002.png': 'another' },
    { '/dl/s.usda': '#usda 1.0\nasset f = @w.<UDIM>.png@\n', '/dl/w.1001.png': '1', '/dl/w.1002.png': '2' },
  );
  await applied(w, await planBring(w, { files: ['/dl/s.usda'] }));
  expect(await found(w)).toEqual({
    'scenes/s.usda ../textures/w/w.<UDIM>.png': ['travels', 'textures/w/w.<UDIM>.png', 2],
  });
  expect(contents(w)['textures/w.1002.png']).toBe('another');
});

describe('making travel', () => {
  test('each format writes what it can say: prefixes, folders of sequences, lists, percent-encoding', async () => {
    const w = workspaceOf(
      {
        'models/a.mtlx':
          '<materialx fileprefix="/far/tex/"><input name="i" type="filename" value="a b.png"/></materialx>',
        'models/b.dae':
          '<COLLADA><image id="b"><init_from>file:///far/tex/a%20b.png</init_from></image></COLLADA>',
        'models/c.x3d': '<X3D><ImageTexture url=\'"C:/gone.png" "/far/tex/a%20b.png"\'/></X3D>',
        'models/d.wrl': '#VRML V2.0 utf8\nImageTexture { url [ "/far/tex/a b.png" ] }\n',
        'scenes/e.otio':
          '{"OTIO_SCHEMA":"X","m":{"target_url_base":"file:///far/frames/","name_prefix":"q.","name_suffix":".exr","frame_zero_padding":4}}',
      },
      { '/far/tex/a b.png': 'AB', '/far/frames/q.0001.exr': '1', '/far/frames/q.0002.exr': '2' },
    );
    const before = contents(w);
    const plan = await planTravel(w, { only: null });
    expect(plan.readiness).toEqual({ before: 0, after: 5, of: 5 });
    await applied(w, plan);
    expect(Object.values(await found(w)).map((f) => f[0])).toEqual([
      'travels',
      'travels',
      'travels',
      'travels',
      'travels',
    ]);
    const after = contents(w);
    expect(after['models/a.mtlx']).toBe(
      '<materialx fileprefix="/far/tex/"><input name="i" type="filename" value="../textures/a b.png" fileprefix=""/></materialx>',
    );
    expect(after['models/b.dae']).toContain('<init_from>../textures/a%20b.png</init_from>');
    expect(after['models/c.x3d']).toContain('\'"C:/gone.png" "../textures/a%20b.png"\'');
    expect(after['models/d.wrl']).toContain('[ "../textures/a b.png" ]');
    expect(after['scenes/e.otio']).toContain('"target_url_base":"../textures/"');
    const [record] = await readJournals(w.tree, parseJournalLine);
    await applied(w, await planUndo(w.tree, record!));
    expect(contents(w)).toEqual(before);
  });

  test('a crate file comes in with its layers, rewritten by its tables', async () => {
    const arcs = new Uint8Array(fs.readFileSync(path.resolve('fixtures/usdc/arcs.usdc')));
    const brought = workspaceOf(
      {},
      { '/dl/arcs.usdc': arcs, '/rig.usd': '#usda 1.0\n', '/dl/hull.usd': '#usda 1.0\n' },
    );
    await applied(brought, await planBring(brought, { files: ['/dl/arcs.usdc'] }));
    expect(await found(brought)).toMatchObject({
      'scenes/arcs.usdc rig.usd': ['travels', 'scenes/rig.usd', 1],
      'scenes/arcs.usdc hull.usd': ['travels', 'scenes/hull.usd', 1],
    });
    // What the rewrite did not mean to change stands as it was: the old bytes are the head of the new file, but for a few cells.
    const after = brought.tree.files.get('scenes/arcs.usdc')!.bytes;
    let same = 0;
    for (let i = 0; i < arcs.length; i++) if (after[i] === arcs[i]) same++;
    expect(arcs.length - same).toBeLessThan(16);
  });
});

test('from inside a package no path is written to a file outside it', async () => {
  const layer = '#usda 1.0\ndef "A" { asset a = @textures/crate.png@\n asset b = @/far/rust.png@ }';
  const w = workspaceOf(
    { 'models/crateroot.usdz': packageOf([['root.usda', layer]]), 'art/textures/crate.png': 'C' },
    { '/far/rust.png': 'R' },
  );
  const relink = await planRelink(w, { search: [] });
  expect([relink.steps, relink.paths, relink.notes.map((n) => n.code)]).toEqual([[], [], ['cannot-say']]);
  const travel = await planTravel(w, { only: null });
  expect([travel.steps, travel.notes.map((n) => n.code)]).toEqual([[], ['sealed', 'sealed']]);
});
