// What schemas have against values, as people read it.

import { expect, test } from '@jest/globals';
import { z } from 'zod';
import { issueWords } from './words';
import { drawnUnits } from './workspace';

const words = (schema: z.ZodType, value: unknown) => {
  const read = schema.safeParse(value);
  return read.success ? null : issueWords(read.error);
};

test('which part, and what is wanted there', () => {
  const schema = z.object({
    name: z.string().min(1).max(5),
    as: z.enum(['a', 'b']),
    n: z.number().int().positive(),
    list: z.array(z.string()),
  });
  expect(words(schema, { name: '', as: 'c', n: 0, list: 'x' })).toBe(
    '“name”: it is empty. “as”: one of "a", "b" is wanted. “n”: more than 0 is wanted. “list”: a list is wanted.',
  );
  expect(words(schema, { as: 'a', n: 1.5, list: [1] })).toBe(
    '“name”: a text is wanting. “n”: a whole number is wanted. “list.0”: a text is wanted.',
  );
  expect(words(schema, null)).toBe('A group of values is wanted.');
  expect(words(z.strictObject({}), { odd: 1 })).toBe('"odd" is not known there.');
  expect(words(z.array(z.string()), Array(9).fill(1))).toMatch(/And 4 more\.$/);
});

test('a rule that is a sentence stands by itself', () => {
  expect(
    words(drawnUnits, {
      unit: 'm',
      display: { form: 'decimal', digits: 1 },
      upAxis: 'Y',
      grid: { spacing: 2, heavyEvery: 1, extent: 1 },
    }),
  ).toBe('The grid would end before its first line: it reaches less far than its lines lie apart.');
});

test('nothing of a schema’s own words is left', () => {
  const all = z.union([z.object({ a: z.literal('x'), b: z.iso.datetime() }), z.object({ c: z.null() })]);
  for (const value of [1, {}, { a: 'y', b: 'z' }, { c: 3 }, [], 'text'])
    expect(words(all, value)).not.toMatch(/invalid|expected|received|input|✖/i);
});
