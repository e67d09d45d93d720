// USD crate → text, judged by OpenUSD 22: it prints the crate, it reads our text and prints that, and both prints are the same. Crates are its own (every kind of value, generated
// numbers, its schema layers, each version it can write), and ones made here for what it writes only in text (arcs, variants, lists of changes).

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import fs from 'node:fs';
import path from 'node:path';
import { latin1, utf8 } from '../../text/bytes';
import { crateOf } from './testing/crateOf';
import { layers } from './testing/layers';
import { hasOpenUsd, openUsd } from './testing/openUsd';
import { usdText } from './usdText';

const inText = async (crate: Uint8Array): Promise<Uint8Array> => {
  const text = await usdText(crate);
  if ('refused' in text) throw new Error(text.refused);
  return text;
};

/** Each crate, and its text, as OpenUSD prints them. */
async function printed(crates: readonly Uint8Array[]): Promise<[crate: string, ours: string][]> {
  const texts = await Promise.all(crates.map(inText));
  const all = openUsd([
    ...crates.map((bytes) => ({ name: 'crate.usdc', bytes, to: 'text' as const })),
    ...texts.map((bytes) => ({ name: 'ours.usda', bytes, to: 'text' as const })),
  ]);
  return crates.map((_, n) => [
    all[n]?.toString() ?? 'OpenUSD does not read the crate',
    all[crates.length + n]?.toString() ?? `OpenUSD does not read the text:\n${latin1(texts[n]!)}`,
  ]);
}

const crates = (texts: readonly string[], version?: string) =>
  openUsd(
    texts.map((t) => ({ name: 'a.usda', bytes: utf8(t), to: 'crate' as const })),
    version,
  ).map((crate, n) => {
    if (!crate) throw new Error(`OpenUSD does not read\n${texts[n]}`);
    return new Uint8Array(crate);
  });

const everything = fs.readFileSync(path.resolve('src/core/convert/crate/testing/everything.usda'), 'utf8');

(hasOpenUsd ? describe : describe.skip)('beside OpenUSD 22', () => {
  test('arcs, variants, lists of changes, properties, and what no schema knows', async () => {
    for (const [n, [crate, ours]] of (await printed(Object.values(layers))).entries()) {
      expect([Object.keys(layers)[n], ours]).toEqual([Object.keys(layers)[n], crate]);
      expect(crate.length).toBeGreaterThan(40);
    }
  });

  test('every kind of value, as each version of a crate that it can write', async () => {
    // Time codes came with 0.9: with them it writes that.
    const text = everything.replaceAll(/^.*timecode.*\n/gm, '');
    const versions = ['0.4.0', '0.5.0', '0.6.0', '0.7.0', '0.8.0'];
    const made = versions.map((version) => crates([text], version)[0]!);
    expect(made.map((crate) => [...crate.subarray(8, 11)].join('.'))).toEqual(versions);
    for (const [n, [before, ours]] of (await printed(made)).entries()) {
      expect([versions[n], ours]).toEqual([versions[n], before]);
      expect(before.split('\n').length).toBeGreaterThan(150);
    }
  }, 60_000);

  test('time codes too', async () => {
    const [[before, ours]] = (await printed(crates([everything]))) as [[string, string]];
    expect(ours).toBe(before);
    expect(before).toContain('timecode[] tca = [1, 2]');
  });

  test('its schema layers', async () => {
    const folder = path.resolve('.cache/openusd');
    const texts = (fs.readdirSync(folder, { recursive: true }) as string[])
      .filter((f) => f.endsWith('.usda'))
      .map((f) => fs.readFileSync(path.join(folder, f), 'utf8'));
    for (const [before, ours] of await printed(crates(texts))) expect(ours).toBe(before);
    expect(texts.length).toBeGreaterThanOrEqual(8);
  });

  test('generated numbers and words, to the last bit', async () => {
    const number = fc.oneof(
      fc.double({ noNaN: true }),
      fc.integer().map((n) => n / 8),
      fc.float({ noNaN: true }),
    );
    const said = (n: number) =>
      Object.is(n, -0) ? '-0.0' : Number.isFinite(n) ? String(n) : n > 0 ? 'inf' : '-inf';
    const layer = fc
      .record({
        doubles: fc.array(number, { maxLength: 40 }),
        floats: fc.array(fc.float({ noNaN: true }), { maxLength: 40 }),
        ints: fc.array(fc.integer(), { maxLength: 40 }),
        longs: fc.array(fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }), { maxLength: 40 }),
        word: fc.string({ unit: 'grapheme' }),
        triple: fc.tuple(number, number, number),
      })
      .map(
        (r) => `#usda 1.0
def "A"
{
    double[] d = [${r.doubles.map(said).join(', ')}]
    float[] f = [${r.floats.map(said).join(', ')}]
    int[] i = [${r.ints.join(', ')}]
    int64[] l = [${r.longs.join(', ')}]
    string s = ${JSON.stringify(r.word)
      .replace(/\\u00([0-9a-f]{2})/g, '\\x$1')
      .replaceAll('\\b', '\\x08')
      .replaceAll('\\f', '\\x0c')}
    double one = ${said(r.doubles[0] ?? 0)}
    double3 t = (${r.triple.map(said).join(', ')})
}
`,
      );
    const texts = fc.sample(layer, { numRuns: 60, seed: 20261127 });
    for (const [before, ours] of await printed(crates(texts))) expect(ours).toBe(before);
  });
});

describe('refused by name', () => {
  const attribute = (fields: Parameters<typeof crateOf>[0][number]['fields']) =>
    crateOf([
      { path: '/', type: 7, fields: { primChildren: { tokens: ['A'] } } },
      { path: '/A', type: 6, fields: { specifier: { enum: 0, kind: 42 }, properties: { tokens: ['x'] } } },
      { path: '/A.x', type: 1, fields },
    ]);
  test.each([
    [
      'a value of another type than is declared',
      { typeName: { token: 'float' }, default: { double: 0.1 } },
      /declared as float, and holds double/,
    ],
    [
      'a spline',
      { typeName: { token: 'double' }, spline: { kind: 59 } },
      /\/A\.x, spline\. It holds a spline/,
    ],
    [
      'a kind of value that is not known',
      { typeName: { token: 'double' }, default: { kind: 99 } },
      /a value of kind 99/,
    ],
    [
      'a path with a line end',
      { typeName: { token: 'asset' }, default: { asset: 'a\nb' } },
      /control character/,
    ],
  ] as const)('%s', async (_, fields, message) => {
    expect(await usdText(attribute(fields))).toEqual({ refused: expect.stringMatching(message) });
  });

  test('what is cut off or no crate', async () => {
    const whole = layers.arcs!;
    for (let size = 0; size < whole.length; size += 7)
      expect(await usdText(whole.subarray(0, size))).toHaveProperty('refused');
    expect(await usdText(utf8('#usda 1.0\n'))).toHaveProperty('refused');
  });

  test('damaged ones end, as text or with a reason', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...Object.values(layers)),
        fc.array(fc.tuple(fc.nat(4000), fc.nat(255)), { minLength: 1, maxLength: 4 }),
        async (crate, damages) => {
          const bytes = crate.slice();
          for (const [at, value] of damages) bytes[at % bytes.length] = value;
          const text = await usdText(bytes);
          expect('refused' in text ? text.refused : latin1(text.subarray(0, 9))).toMatch(/./);
        },
      ),
      { numRuns: 500 },
    );
  });
});
