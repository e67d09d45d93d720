// How thorough a run of the unit tests is. SATCHEL_DEPTH=deep (npm run test:deep) runs `deepTest` and the deep amounts; otherwise (npm test) `test` and
// the short ones. A test that is imported from '@jest/globals' beside these runs at both depths. Whole files of deep tests are named *.deep.test.ts.
//
// At night SATCHEL_GENERATED sets how many cases are generated, and SATCHEL_EVERY=1 has every single call fail.

import { test as jestTest } from '@jest/globals';

export const isDeep = process.env.SATCHEL_DEPTH === 'deep';

type Test = typeof jestTest;

/** Registers nothing. */
const notNow = Object.assign(() => undefined, {
  each: () => () => undefined,
  skip: () => undefined,
}) as unknown as Test;

/** A test of the short run alone. */
export const test: Test = isDeep ? notNow : jestTest;

/** A test of the deep run alone. */
export const deepTest: Test = isDeep ? jestTest : notNow;

/** How many cases are generated: `deep`, or in the short run `short`, a sixth unless given. */
export const howMany = (deep: number, short = Math.ceil(deep / 6)): number =>
  Number(process.env.SATCHEL_GENERATED ?? (isDeep ? deep : short));

/** Every so-manieth call fails: `deep`, or in the short run `short`, eight times as far apart unless given. */
export const strideOf = (deep: number, short = 8 * deep): number =>
  Number(process.env.SATCHEL_EVERY ?? (isDeep ? deep : short));
