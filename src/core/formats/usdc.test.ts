// USD crate files. fixtures/usdc/values.usdc was written by OpenUSD 22 (dictionary, asset, array, time samples); arcs.usdc was made after
// the layout and printed by OpenUSD 22 as the text below, before and after the same rewrite as here (list ops, payload, sublayers).
// three.js' own crate reader is asked too.
//
//     subLayers = [@./look.usda@ (offset = 10), @b.usda@]
//     def Xform "Boat" ( payload = @heavy.usdc@</Heavy> (offset = 2)  delete references = @old.usd@  prepend references = [@../rig.usd@</Rig>, @hull.usd@] )

import { describe, expect } from '@jest/globals';
import fc from 'fast-check';
import fs from 'node:fs';
import path from 'node:path';
import { applyPieces, piecesOf } from '../text/edits';
import { BadCrate, packLiteral, unpackFast, unpackIntegers, unpackLz4 } from './crate';
import { readReferences } from './formats';
import { usdc } from './usdc';
import { deepTest, test } from '../files/testing/depth';

const fixture = (name: string) => new Uint8Array(fs.readFileSync(path.resolve('fixtures/usdc', name)));
const read = (b: Uint8Array) => usdc.readParts!(async ([from, to]) => b.subarray(from, to), b.length);
const moved = async (b: Uint8Array, only: (written: string) => boolean = () => true) => {
  const reading = await read(b);
  const edits = reading.rewrite!(
    reading.references.filter((r) => only(r.written)).map((r) => ({ at: r.at, value: `moved/${r.written}` })),
  )!;
  return applyPieces(b, piecesOf(edits, b.length));
};

test('arcs: sublayers, references of each list, payloads, with the prim they stand on', async () => {
  const { references, problems } = await read(fixture('arcs.usdc'));
  expect(problems).toEqual([]);
  expect(references.map((r) => [r.at, r.kind, r.written, r.span])).toEqual([
    ['subLayers', 'scene', './look.usda', null],
    ['subLayers (2)', 'scene', 'b.usda', null],
    ['/Boat.prepend references', 'scene', '../rig.usd', null],
    ['/Boat.prepend references (2)', 'scene', 'hull.usd', null],
    ['/Boat.delete references', 'scene', 'old.usd', null],
    ['/Boat.payload', 'scene', 'heavy.usdc', null],
  ]);
});

test('values: dictionaries, single assets, arrays, time samples; a string with the same text is none', async () => {
  const { references } = await read(fixture('values.usdc'));
  expect(references.map((r) => r.written).sort()).toEqual([
    '/t/hull.<UDIM>.exr',
    'a.png',
    'b.png',
    'f1.png',
    'f2.png',
    'thumb.png',
    'v.vdb',
  ]);
  expect(references.map((r) => r.at)).toContain('/Boat/Tex.inputs:file');
});

describe('rewriting', () => {
  test.each(['arcs.usdc', 'values.usdc'])(
    '%s: the new paths are read back, the old bytes stay but for the cells',
    async (name) => {
      const before = fixture(name);
      const after = await moved(before);
      expect((await read(after)).references.map((r) => r.written)).toEqual(
        (await read(before)).references.map((r) => `moved/${r.written}`),
      );
      let changed = 0;
      for (let i = 0; i < before.length; i++) if (before[i] !== after[i]) changed++;
      expect(changed).toBeLessThanOrEqual(60);
      expect(after.length).toBeLessThan(before.length * 3);
    },
  );
  test('one of several, twice over', async () => {
    const once = await moved(fixture('arcs.usdc'), (w) => w === 'hull.usd');
    const twice = await moved(once, (w) => w === 'b.usda' || w === 'moved/hull.usd');
    expect((await read(twice)).references.map((r) => r.written)).toEqual([
      './look.usda',
      'moved/b.usda',
      '../rig.usd',
      'moved/moved/hull.usd',
      'old.usd',
      'heavy.usdc',
    ]);
  });
  test('nothing wanted, nothing changed; what cannot be said is refused', async () => {
    const reading = await read(fixture('arcs.usdc'));
    expect(reading.rewrite!([])).toEqual([]);
    expect(reading.rewrite!([{ at: 'subLayers', value: 'a\nb' }])).toBeNull();
    expect(reading.rewrite!([{ at: 'nowhere', value: 'a' }])).toBeNull();
  });
  test('a version newer than what was tried is read only, an older one not at all', async () => {
    const newer = fixture('arcs.usdc');
    newer[9] = 12;
    const reading = await read(newer);
    expect([reading.references.length, reading.rewrite, reading.problems[0]!.code]).toEqual([
      6,
      undefined,
      'read-only',
    ]);
    newer[9] = 3;
    expect((await read(newer)).problems.map((p) => p.code)).toEqual(['unsupported-version']);
  });
});

describe('damage', () => {
  deepTest('cut anywhere or with any byte changed: problems, no exception, no time lost', async () => {
    for (const name of ['arcs.usdc', 'values.usdc']) {
      const whole = fixture(name);
      for (let n = 0; n < whole.length; n += 7)
        await expect(read(whole.subarray(0, n))).resolves.toBeDefined();
      await fc.assert(
        fc.asyncProperty(
          fc.array(fc.tuple(fc.nat({ max: whole.length - 1 }), fc.nat({ max: 255 })), {
            minLength: 1,
            maxLength: 6,
          }),
          async (changes) => {
            const b = whole.slice();
            for (const [i, v] of changes) b[i] = v;
            const reading = await read(b);
            expect(Array.isArray(reading.references)).toBe(true);
          },
        ),
        { numRuns: 1500 },
      );
    }
  });
  test('only what is needed is asked for, however long the file', async () => {
    const b = fixture('arcs.usdc');
    let asked = 0;
    const reading = await readReferences('x.usdc', 5_000_000_000, async ([from, to]) => {
      asked += to - from;
      return b.slice(from, Math.min(to, b.length));
    });
    expect(reading!.references).toHaveLength(6);
    expect(asked).toBeLessThan(1_000_000);
  });
});

describe('packing', () => {
  test('a block of literals comes back (property)', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 2000 }), (raw) =>
        expect(unpackFast(packLiteral(raw), raw.length)).toEqual(raw),
      ),
    );
  });
  test('matches that overlap themselves, after the LZ4 block format', () => {
    // token: 1 literal, match of 4+3 at distance 1 → 8 times the letter; then 5 literals, as the format ends
    expect(unpackLz4(Uint8Array.of(0x13, 97, 1, 0, 0x50, 98, 98, 98, 98, 98), 13)).toEqual(
      new TextEncoder().encode('aaaaaaaabbbbb'),
    );
    expect(() => unpackLz4(Uint8Array.of(0x13, 97, 9, 0), 8)).toThrow(BadCrate);
    expect(() => unpackFast(Uint8Array.of(0, 0), 2 ** 40)).toThrow('claims a size');
  });
  test('integers by their differences', () => {
    // common difference 1; codes: common, i8, common, i32
    const raw = Uint8Array.of(1, 0, 0, 0, 0b11_00_01_00, 0xf6, 0xe8, 3, 0, 0);
    expect([...unpackIntegers(packLiteral(raw), 4)]).toEqual([1, -9, -8, 992]);
  });
});
