// RFC 3986 §5.4: every normal and abnormal example, base http://a/b/c/d;p?q (published table of the RFC).

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { joinUri, percentDecode, percentEncodePath, resolveUri, splitUri } from './uri';

const normal: [string, string][] = [
  ['g:h', 'g:h'],
  ['g', 'http://a/b/c/g'],
  ['./g', 'http://a/b/c/g'],
  ['g/', 'http://a/b/c/g/'],
  ['/g', 'http://a/g'],
  ['//g', 'http://g'],
  ['?y', 'http://a/b/c/d;p?y'],
  ['g?y', 'http://a/b/c/g?y'],
  ['#s', 'http://a/b/c/d;p?q#s'],
  ['g#s', 'http://a/b/c/g#s'],
  ['g?y#s', 'http://a/b/c/g?y#s'],
  [';x', 'http://a/b/c/;x'],
  ['g;x', 'http://a/b/c/g;x'],
  ['g;x?y#s', 'http://a/b/c/g;x?y#s'],
  ['', 'http://a/b/c/d;p?q'],
  ['.', 'http://a/b/c/'],
  ['./', 'http://a/b/c/'],
  ['..', 'http://a/b/'],
  ['../', 'http://a/b/'],
  ['../g', 'http://a/b/g'],
  ['../..', 'http://a/'],
  ['../../', 'http://a/'],
  ['../../g', 'http://a/g'],
];
const abnormal: [string, string][] = [
  ['../../../g', 'http://a/g'],
  ['../../../../g', 'http://a/g'],
  ['/./g', 'http://a/g'],
  ['/../g', 'http://a/g'],
  ['g.', 'http://a/b/c/g.'],
  ['.g', 'http://a/b/c/.g'],
  ['g..', 'http://a/b/c/g..'],
  ['..g', 'http://a/b/c/..g'],
  ['./../g', 'http://a/b/g'],
  ['./g/.', 'http://a/b/c/g/'],
  ['g/./h', 'http://a/b/c/g/h'],
  ['g/../h', 'http://a/b/c/h'],
  ['g;x=1/./y', 'http://a/b/c/g;x=1/y'],
  ['g;x=1/../y', 'http://a/b/c/y'],
  ['g?y/./x', 'http://a/b/c/g?y/./x'],
  ['g?y/../x', 'http://a/b/c/g?y/../x'],
  ['g#s/./x', 'http://a/b/c/g#s/./x'],
  ['g#s/../x', 'http://a/b/c/g#s/../x'],
  ['http:g', 'http:g'],
];

describe('RFC 3986 §5.4', () => {
  test.each(normal)('normal example %j → %s', (reference, target) =>
    expect(resolveUri('http://a/b/c/d;p?q', reference)).toBe(target),
  );
  test.each(abnormal)('abnormal example %j → %s', (reference, target) =>
    expect(resolveUri('http://a/b/c/d;p?q', reference)).toBe(target),
  );
});

test('splitting and joining gives the same text (property)', () => {
  fc.assert(
    fc.property(
      fc.webUrl({ withFragments: true, withQueryParameters: true }),
      (url) => joinUri(splitUri(url)) === url,
    ),
  );
});

test('a path, encoded and decoded, is the same (property), and no URI delimiter is left raw', () => {
  fc.assert(
    fc.property(
      fc.string({ unit: 'grapheme', minLength: 1 }).filter((s) => !s.includes('\ufffd')),
      (path) => {
        const encoded = percentEncodePath(path);
        expect(encoded).not.toMatch(/[ "<>?#[\]\\^`{|}]/);
        return percentDecode(encoded.replace(/^\.\//, path.startsWith('./') ? './' : '')) === path;
      },
    ),
  );
});

test('escapes that are none, or no UTF-8, stay as they are', () => {
  expect(percentDecode('100%.png')).toBe('100%.png');
  expect(percentDecode('%zz%E4.png')).toBe('%zz%E4.png');
  expect(percentDecode('%C3%A9%2525')).toBe('é%25');
});
