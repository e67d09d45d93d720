// Paths under the heads of other machines.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { elsewhereOf, isUnderHead, plainHead } from './elsewhere';

const stick = { name: 'Blue stick', heads: ['E:/', '/Volumes/Blue stick', '//barn/stick/'] };

test('a drive letter here, a volume there, a share', () => {
  expect(elsewhereOf('e:/skies/storm.png', [stick])).toEqual([
    {
      place: 'Blue stick',
      head: 'E:/',
      others: [
        { head: '/Volumes/Blue stick', path: '/Volumes/Blue stick/skies/storm.png' },
        { head: '//barn/stick/', path: '//barn/stick/skies/storm.png' },
      ],
    },
  ]);
  expect(elsewhereOf('/Volumes/Blue stick 2/a.png', [stick])).toEqual([]);
  expect(elsewhereOf('/Volumes/Blue stick/a.png', [{ name: 'x', heads: ['/Volumes/Blue stick'] }])).toEqual(
    [],
  );
  expect([
    isUnderHead('//BARN/Stick/a', '//barn/stick/'),
    isUnderHead('/volumes/blue stick/a', '/Volumes/Blue stick'),
  ]).toEqual([true, false]);
});

test('heads typed with backslashes', () => {
  const kits = { name: 'Kits', heads: ['K:\\tex\\', '\\\\barn\\kits', '/Volumes/a\\b'] };
  expect(elsewhereOf('k:/tex/rock.png', [kits])[0]?.others.map((o) => o.path)).toEqual([
    '//barn/kits/rock.png',
    '/Volumes/a\\b/rock.png',
  ]);
  expect(['K:', 'K:\\', 'K:\\tex\\', '\\\\barn\\kits\\', '/', '/a/', '/a\\b'].map(plainHead)).toEqual([
    'K:/',
    'K:/',
    'K:/tex',
    '//barn/kits',
    '/',
    '/a',
    '/a\\b',
  ]);
  expect([isUnderHead('K:/tex/rock.png', 'K:\\tex'), isUnderHead('K:/textures/rock.png', 'K:\\tex')]).toEqual(
    [true, false],
  );
});

test('there and back is the same path', () => {
  const name = fc.stringMatching(/^[a-z]{1,5}$/);
  fc.assert(
    fc.property(
      fc.array(name, { minLength: 1, maxLength: 4 }),
      fc.constantFrom(...stick.heads),
      (parts, head) => {
        const path = `${head.replace(/\/$/, '')}/${parts.join('/')}`;
        for (const o of elsewhereOf(path, [stick])[0]!.others)
          expect(elsewhereOf(o.path, [stick])[0]!.others.find((x) => x.head === head)!.path).toBe(path);
      },
    ),
  );
});
