import { describe, expect, test } from '@jest/globals';
import { placeOf } from './kept';

const place = (address: string) => {
  const { pathname, searchParams } = new URL(address, 'http://here');
  return placeOf(pathname, searchParams);
};

describe('the place that a kept value belongs to', () => {
  test('is the same however it is looked at', () => {
    expect(place('/files?w=1&folder=a&sort=size&down=yes')).toBe(place('/files?folder=a&w=1'));
    expect(place('/references?w=1&q=x&scene=a&at=b')).toBe(place('/references?w=1'));
  });
  test.each([
    ['/settings?w=1&tab=names', '/settings?w=2&tab=names'],
    ['/settings?w=1&tab=names', '/settings?w=1&tab=homes'],
    ['/files?w=1&folder=a', '/files?w=1&folder=b'],
    ['/files?w=1&folder=a', '/files?w=1&folder=a%26view%3Dloose'],
    ['/?do=adopt', '/?do=many'],
    ['/layouts?layout=a', '/layouts?layout=b'],
  ])('is another for %s than for %s', (a, b) => {
    expect(place(a)).not.toBe(place(b));
    // What is forgotten of one is not forgotten of the other.
    expect(place(a).startsWith(place(b))).toBe(false);
    expect(place(b).startsWith(place(a))).toBe(false);
  });
});
