// Scenes with their files as one package and apart again, read by fflate's own ZIP reader.

import { describe, expect, test } from '@jest/globals';
import { unzipSync, zipSync } from 'fflate';
import { parseJournalLine } from '../../wire/plan';
import { apply } from '../changes/apply';
import { planUndo } from '../changes/invert';
import { readJournals } from '../changes/journal';
import { applying } from '../changes/testing/contexts';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { readDirectory } from '../formats/zip';
import { utf8 } from '../text/bytes';
import { planConvert } from './planConvert';
import type { Workspace } from './workspace';

type W = Workspace & { tree: MemoryTree };
const workspace = (files: Record<string, Uint8Array | string>): W => ({
  root: '/w',
  tree: new MemoryTree(files),
  outside: memoryOutside({}),
  file: { homes: {}, libraries: [], places: [] },
});
const bytesAt = (w: W, at: string) => w.tree.files.get(at)!.bytes;
const textAt = (w: W, at: string) => new TextDecoder().decode(bytesAt(w, at));
const users = (w: W) => [...w.tree.files.keys()].filter((p) => !p.startsWith('.satchel')).sort();
let n = 0;
async function convert(w: W, path: string, to: string) {
  const plan = await planConvert(w, { path: treePath(path), to: treePath(to), follow: false });
  if (plan.notes.every((note) => note.level !== 'blocker'))
    await apply(w.tree, plan, applying(`p${String(++n).padStart(4, '0')}`));
  return plan;
}

const layer =
  '#usda 1.0\n(\n    subLayers = [@./look ü.usda@]\n)\ndef "A"\n{\n    asset t = @tex/wood.png@\n    asset gone = @tex/gone.png@\n}\n';
const usd = {
  'scenes/boat.usda': layer,
  'scenes/look ü.usda':
    '#usda 1.0\ndef "B"\n{\n    asset x = @./tex/rope.png@\n    asset out = @../elsewhere.png@\n}\n',
  'scenes/tex/wood.png': 'WOOD',
  'scenes/tex/rope.png': '',
  'elsewhere.png': 'E',
};

describe('USD', () => {
  test('a package holds the layer first, then what it needs from its folder, nothing packed, each at a multiple of 64', async () => {
    const w = workspace(usd);
    const plan = await convert(w, 'scenes/boat.usda', 'scenes/boat.usdz');
    expect(plan.notes.map((note) => [note.code, note.message.split(' ')[0]])).toEqual([
      ['not-inside', 'tex/gone.png'],
      ['not-inside', '../elsewhere.png'],
    ]);
    const bytes = bytesAt(w, 'scenes/boat.usdz');
    expect(Object.entries(unzipSync(bytes)).map(([name, b]) => [name, new TextDecoder().decode(b)])).toEqual([
      ['boat.usda', layer],
      ['look ü.usda', usd['scenes/look ü.usda']],
      ['tex/wood.png', 'WOOD'],
      ['tex/rope.png', ''],
    ]);
    const entries = (await readDirectory(
      (range) => Promise.resolve(bytes.subarray(...range)),
      bytes.length,
    ))!;
    expect(entries.map((e) => [e.method, e.at % 64])).toEqual(entries.map(() => [0, 0]));
    // Made twice of the same files it is the same.
    await convert(w, 'scenes/boat.usda', 'scenes/again.usdz');
    expect(Buffer.compare(bytesAt(w, 'scenes/again.usdz'), bytes)).toBe(0);
  });

  test('and apart: the same files; what is there already is left, another file is in the way', async () => {
    const w = workspace(usd);
    await convert(w, 'scenes/boat.usda', 'scenes/boat.usdz');
    const other = workspace({ 'in/boat.usdz': bytesAt(w, 'scenes/boat.usdz'), 'in/tex/wood.png': 'WOOD' });
    await convert(other, 'in/boat.usdz', 'in/boat.usda');
    expect(users(other)).toEqual([
      'in/boat.usda',
      'in/boat.usdz',
      'in/look ü.usda',
      'in/tex/rope.png',
      'in/tex/wood.png',
    ]);
    expect(textAt(other, 'in/boat.usda')).toBe(layer);
    const records = await readJournals(other.tree, parseJournalLine);
    await apply(other.tree, await planUndo(other.tree, records[0]!), applying('undo1'));
    expect(users(other)).toEqual(['in/boat.usdz', 'in/tex/wood.png']);
    const blocked = workspace({ 'in/boat.usdz': bytesAt(w, 'scenes/boat.usdz'), 'in/tex/wood.png': 'mine' });
    const plan = await convert(blocked, 'in/boat.usdz', 'in/boat.usda');
    expect(plan.notes.map((note) => [note.level, note.path])).toEqual([['blocker', 'in/tex/wood.png']]);
    await expect(convert(blocked, 'in/boat.usdz', 'in/boat.usdc')).rejects.toThrow(
      'has to be written as .usda',
    );
  });
});

const dae = (picture: string) =>
  `<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><library_images><image id="a"><init_from>${picture}</init_from></image></library_images></COLLADA>`;

describe('COLLADA', () => {
  test('there and back, also of a package that others packed', async () => {
    const w = workspace({ 'm/my boat.dae': dae('tex/wood.png'), 'm/tex/wood.png': 'WOOD' });
    await convert(w, 'm/my boat.dae', 'm/my boat.zae');
    const files = unzipSync(bytesAt(w, 'm/my boat.zae'));
    expect(Object.keys(files)).toEqual(['manifest.xml', 'my boat.dae', 'tex/wood.png']);
    expect(new TextDecoder().decode(files['manifest.xml'])).toContain('<dae_root>./my%20boat.dae</dae_root>');
    for (const packed of [
      bytesAt(w, 'm/my boat.zae'),
      zipSync({
        'manifest.xml': utf8('<dae_root>./models/x%20y.dae</dae_root>'),
        'models/x y.dae': utf8(dae('../models/tex/wood.png'.replace('../models/', ''))),
        'models/tex/wood.png': utf8('WOOD'),
        'above.txt': utf8('out'),
      }),
    ]) {
      const apart = workspace({ 'in/b.zae': packed });
      const plan = await convert(apart, 'in/b.zae', 'in/b.dae');
      expect(users(apart)).toEqual(['in/b.dae', 'in/b.zae', 'in/tex/wood.png']);
      expect(textAt(apart, 'in/b.dae')).toBe(dae('tex/wood.png'));
      expect(plan.notes.map((note) => note.code)).toEqual(
        packed === bytesAt(w, 'm/my boat.zae') ? [] : ['not-taken'],
      );
    }
  });

  test('what is damaged or hostile is refused, and nothing is made', async () => {
    const good = zipSync({ 'a.dae': utf8(dae('t.png')), 't.png': utf8('x'.repeat(500)) });
    const spoilt = good.slice();
    spoilt[60]! ^= 0xff;
    const hostile = zipSync({ 'a.dae': utf8(dae('t.png')), '../../out.png': utf8('x') });
    for (const [bytes, why] of [
      [good.subarray(0, 40), /package|list/],
      [spoilt, /damaged|unpacked/],
    ] as const) {
      const w = workspace({ 'in/a.zae': bytes });
      await expect(convert(w, 'in/a.zae', 'in/a.dae')).rejects.toThrow(why);
      expect(users(w)).toEqual(['in/a.zae']);
    }
    const w = workspace({ 'in/deep/a.zae': hostile });
    await convert(w, 'in/deep/a.zae', 'in/deep/a.dae');
    expect(users(w)).toEqual(['in/deep/a.dae', 'in/deep/a.zae']);
  });
});
