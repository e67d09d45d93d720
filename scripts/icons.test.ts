// The icons' file holds what the interface imports today, as the package draws it.

import { expect, test } from '@jest/globals';
import fs from 'node:fs';
import { iconsText } from './icons.mjs';

test('src/ui/kit/icons.ts is what scripts/icons.mjs writes', async () => {
  expect(fs.readFileSync('src/ui/kit/icons.ts', 'utf8')).toBe(await iconsText());
});
