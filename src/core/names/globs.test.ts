import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { howMany } from '../files/testing/depth';
import { globTest } from './globs';

/** The same rules as a regular expression, which may take exponential time. */
function byExpression(glob: string): (path: string) => boolean {
  const source = glob
    .replaceAll('\\', '/')
    .replace(/[.+^${}()|[\]]/g, '\\$&')
    .replace(/\*\*\/?|\*|\?/g, (m) =>
      m === '?' ? '[^/]' : m === '*' ? '[^/]*' : m === '**' ? '.*' : '(?:.*/)?',
    );
  const test = new RegExp(glob.includes('/') ? `^${source}$` : `(^|/)${source}$`, 'su');
  return (path) => test.test(path.replaceAll('\\', '/'));
}

describe('globs', () => {
  test.each([
    ['*.tga', 'a/b/wood.tga', true],
    ['*.tga', 'wood.tga.bak', false],
    ['textures/*.png', 'textures/wood.png', true],
    ['textures/*.png', 'textures/old/wood.png', false],
    ['textures/**', 'textures/old/wood.png', true],
    ['**/old/*', 'old/wood.png', true],
    ['**/old/*', 'a/b/old/wood.png', true],
    ['**/old/*', 'bold/wood.png', false],
    ['shot_??.exr', 'shot_01.exr', true],
    ['shot_??.exr', 'shot_1.exr', false],
    ['a?.png', 'a😀.png', true],
    ['a\\*.png', 'a\\b.png', true],
    ['a*.png', 'a\nb.png', true],
    ['[a].png', 'a.png', false],
  ])('%s matches %s: %s', (glob, path, matches) => {
    expect(globTest(glob)(path)).toBe(matches);
  });

  test('matches the same paths as a regular expression', () => {
    const text = (characters: string, longest: number) =>
      fc.array(fc.constantFrom(...characters), { maxLength: longest }).map((c) => c.join(''));
    fc.assert(
      fc.property(text('ab/*?.', 7), text('ab/.', 8), (glob, path) => {
        expect([glob, path, globTest(glob)(path)]).toEqual([glob, path, byExpression(glob)(path)]);
      }),
      { numRuns: howMany(20_000) },
    );
  });

  // Not timed: with a regular expression, either would not end within hours.
  test.each([`${'*a'.repeat(40)}b`, `${'**/'.repeat(40)}b`, `${'**'.repeat(40)}b`])(
    'ends for %s on a long path',
    (glob) => {
      expect(globTest(glob)('a/'.repeat(200) + 'a'.repeat(200))).toBe(false);
    },
  );
});
