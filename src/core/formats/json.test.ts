// The fast way through JSON finds what the plain walk finds, and leaves to it what it cannot follow. Checked on generated
// documents, on text cut and changed at random, and on the seams between the parts and blocks it works in.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { findStrings, walkStrings, type FoundString, type Wanted } from './json';
import { scanStructure } from './jsonScan';
import { howMany } from '../files/testing/depth';

const bytes = (s: string) => new TextEncoder().encode(s);

/** Keys that end in "ri", or in those letters by escapes. */
const wantedIn =
  (b: Uint8Array): Wanted =>
  (from, to) => {
    const key = new TextDecoder().decode(b.subarray(from, to));
    return key.endsWith('ri') || (key.includes('\\') && /ri$/.test(JSON.parse(`"${key}"`) as string));
  };

function bothWays(b: Uint8Array) {
  const [fast, plain]: FoundString[][] = [[], []];
  const safe: Wanted = (from, to) => {
    try {
      return wantedIn(b)(from, to);
    } catch {
      return false;
    }
  };
  const fastProblems = findStrings(b, 0, b.length, safe, (v) => fast!.push(v));
  const plainProblems = walkStrings(b, 0, b.length, safe, (v) => plain!.push(v));
  return { fast, plain, fastProblems, plainProblems };
}

const documents = fc.jsonValue({ maxDepth: 6 }).chain((value) =>
  fc.record({
    value: fc.constant(value),
    indent: fc.constantFrom(undefined, 1, '\t'),
    images: fc.array(
      fc.record(
        {
          uri: fc.string({ unit: 'binary' }),
          'x"ri': fc.string(),
          'y\\ri': fc.string(),
          mri: fc.jsonValue({ maxDepth: 2 }),
        },
        { requiredKeys: [] },
      ),
    ),
  }),
);

test('finds the same members as the plain walk in any document (property)', () => {
  fc.assert(
    fc.property(documents, ({ value, indent, images }) => {
      const b = bytes(JSON.stringify({ value, images, 'a/ri': 'end' }, null, indent));
      const { fast, plain, fastProblems } = bothWays(b);
      expect(fast).toEqual(plain);
      expect(fast!.at(-1)!.path).toEqual(['a/ri']);
      expect(fastProblems).toEqual([]);
      expect(scanStructure(b, 0, b.length, () => true)).toBe(b.length - 1);
    }),
    { numRuns: howMany(400) },
  );
});

test('gives the same members and problems where text was changed, cut or doubled (property)', () => {
  const changes = fc.array(
    fc.record({
      at: fc.nat(),
      remove: fc.nat({ max: 3 }),
      put: fc.constantFrom('', '"', '\\', '{', '}', '[', ']', ',', ':', 'ri"', '\\"', ' '),
    }),
    { minLength: 1, maxLength: 4 },
  );
  fc.assert(
    fc.property(documents, changes, ({ value, indent, images }, edits) => {
      let text = JSON.stringify({ images, value }, null, indent);
      for (const e of edits)
        text = text.slice(0, e.at % text.length) + e.put + text.slice((e.at % text.length) + e.remove);
      const { fast, plain, fastProblems, plainProblems } = bothWays(bytes(text));
      expect(fastProblems).toEqual(plainProblems);
      expect(fast).toEqual(plain);
    }),
    { numRuns: howMany(2000) },
  );
});

test.each([0, 1, 2, 62, 63, 64, 65, 126, 127, 128])(
  'strings, escapes and brackets across the seam of a block, %i bytes in',
  (n) => {
    for (const tail of [
      '"uri":"x"',
      '"a\\\\":1,"uri":"x"',
      '"\\u0075ri":"x\\""',
      '"k":"\\\\\\"]}",  "uri" : "x"',
    ]) {
      const { fast, plain } = bothWays(bytes(`{"p":"${'.'.repeat(n)}","l":[[],{${tail}}]}`));
      expect(plain).toHaveLength(1);
      expect(fast).toEqual(plain);
    }
  },
);

test('members on both sides of a 256 KiB part, and inside a string longer than one', () => {
  const long = 'i\\\\'.repeat(200_000);
  const b = bytes(
    `{"first":{"uri":"a"},"${'k'.repeat(262_130)}":[1,2,{"uri":"b"}],"long":"${long}","last":[{"ri":"c"}]}`,
  );
  const { fast, plain } = bothWays(b);
  expect(fast!.map((v) => [v.path.at(-1), new TextDecoder().decode(b.subarray(...v.span))])).toEqual([
    ['uri', 'a'],
    ['uri', 'b'],
    ['ri', 'c'],
  ]);
  expect(fast).toEqual(plain);
  expect(scanStructure(b, 0, b.length, () => true)).toBe(b.length - 1);
});

test('more reports than there is room for, and more levels, are left to the plain walk', () => {
  const many = bytes(`{"l":[${Array.from({ length: 40_000 }, (_, i) => `{"ri":"${i}"}`).join(',')}]}`);
  expect(bothWays(many).fast).toHaveLength(40_000);
  const deep = bytes(`{"l":${'['.repeat(9000)}{"ri":"x"}${']'.repeat(9000)}}`);
  expect(scanStructure(deep, 0, deep.length, () => true)).toBeNull();
  expect(bothWays(deep).fast).toHaveLength(1);
});
