// Layouts as JSON: there and back, what is refused, and that the published schema is the one the code checks by.

import fs from 'node:fs';
import path from 'node:path';
import { expect, test } from '@jest/globals';
import { readLayoutText, shippedLayouts, writeLayout } from '@/core/layouts/layout';
import { layoutJsonOf, layoutSchema, parseLayoutJson } from './layout';

test('every shipped layout and one with all that can be said, there and back', () => {
  const full = readLayoutText(
    ':name Full\n:about All.\n:top _\n# note\n# more\na = scene : input, keep, top\n  b : bottom\nc = render : output\n',
  );
  for (const l of [...shippedLayouts, full])
    expect(writeLayout(parseLayoutJson(JSON.stringify(layoutJsonOf(l))))).toBe(writeLayout(l));
});

test.each([
  ['{', 'no JSON'],
  ['{}', 'format'],
  ['{"format":"loyal-satchel-layout-1","folders":[{"name":"a:b"}]}', 'Windows'],
  ['{"format":"loyal-satchel-layout-1","folders":[{"name":"a","kinds":["chair"]}]}', 'kinds'],
])('%s is refused', (text, says) => {
  expect(() => parseLayoutJson(text)).toThrow(says);
});

test('docs/layout.schema.json is this schema', () => {
  const file = path.join('docs', 'layout.schema.json');
  expect(JSON.parse(fs.readFileSync(file, 'utf8'))).toEqual(JSON.parse(JSON.stringify(layoutSchema())));
});
