import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { lately } from './lately';

describe('what was asked a moment ago', () => {
  beforeEach(() => void jest.useFakeTimers());
  afterEach(() => void jest.useRealTimers());

  test('is asked once while it holds, also by many at once, and again after', async () => {
    const asked: string[] = [];
    const known = lately(1000, (key: string) => {
      asked.push(key);
      return Promise.resolve(asked.length);
    });
    expect(await Promise.all([known('a'), known('a'), known('b')])).toEqual([1, 1, 2]);
    jest.advanceTimersByTime(999);
    expect(await known('a')).toBe(1);
    jest.advanceTimersByTime(1);
    expect(await known('a')).toBe(3);
    expect(asked).toEqual(['a', 'b', 'a']);
  });

  test('a question that failed is asked again', async () => {
    let n = 0;
    const known = lately(1000, () =>
      n++ === 0 ? Promise.reject(new Error('away')) : Promise.resolve('here'),
    );
    await expect(known('a')).rejects.toThrow('away');
    expect(await known('a')).toBe('here');
  });

  test('no more are kept than that; the oldest goes first', async () => {
    let n = 0;
    const known = lately(1000, () => Promise.resolve(++n), String, 2);
    for (const key of ['a', 'b', 'c']) await known(key);
    expect(await known('c')).toBe(3);
    expect(await known('b')).toBe(2);
    expect(await known('a')).toBe(4);
  });
});
