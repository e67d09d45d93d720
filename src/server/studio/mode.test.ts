// A server for several starts whole or not at all.

import { describe, expect, test } from '@jest/globals';
import { studioFrom } from './mode';

const whole = {
  SATCHEL_MODE: 'studio',
  SATCHEL_DATABASE_URL: 'postgres://satchel@127.0.0.1/satchel',
  SATCHEL_SECRET: 'c2VjcmV0LW9mLXRoZS1oYXJib3VyLW1hcmtldA==',
  SATCHEL_ORIGIN: 'https://satchel.studio.example',
};

describe('settings of a server for several', () => {
  test('without a mode it is for one person, whatever else is set', () => {
    expect(studioFrom({})).toBeNull();
    expect(studioFrom({ ...whole, SATCHEL_MODE: '' })).toBeNull();
    expect(studioFrom({ ...whole, SATCHEL_MODE: 'single' })).toBeNull();
  });
  test('whole, with one origin or several', () => {
    expect(studioFrom(whole)).toEqual({
      databaseUrl: whole.SATCHEL_DATABASE_URL,
      secret: whole.SATCHEL_SECRET,
      origins: ['https://satchel.studio.example'],
    });
    expect(
      studioFrom({ ...whole, SATCHEL_ORIGIN: 'https://a.example, http://127.0.0.1:4680' })!.origins,
    ).toEqual(['https://a.example', 'http://127.0.0.1:4680']);
  });
  test.each<[string, Partial<Record<keyof typeof whole, string | undefined>>, RegExp]>([
    ['another mode', { SATCHEL_MODE: 'Studio' }, /SATCHEL_MODE/],
    ['no database', { SATCHEL_DATABASE_URL: undefined }, /SATCHEL_DATABASE_URL/],
    ['another kind of database', { SATCHEL_DATABASE_URL: 'mysql://x' }, /SATCHEL_DATABASE_URL/],
    ['no secret', { SATCHEL_SECRET: '' }, /SATCHEL_SECRET/],
    ['a short secret', { SATCHEL_SECRET: 'correct horse battery' }, /SATCHEL_SECRET/],
    ['a secret of one letter', { SATCHEL_SECRET: 'a'.repeat(64) }, /SATCHEL_SECRET/],
    ['no origin', { SATCHEL_ORIGIN: ' ' }, /SATCHEL_ORIGIN/],
    ['an origin with a path', { SATCHEL_ORIGIN: 'https://a.example/satchel' }, /no origin/],
    ['an origin without TLS', { SATCHEL_ORIGIN: 'http://satchel.studio.example' }, /not encrypted/],
    [
      'a name that only begins like this machine',
      { SATCHEL_ORIGIN: 'http://127.0.0.1.evil.example' },
      /not encrypted/,
    ],
  ])('%s is refused with what to do', (_, change, why) => {
    expect(() => studioFrom({ ...whole, ...change })).toThrow(why);
  });
  test('what is said of a secret does not say it', () => {
    const secret = 'short but mine';
    try {
      studioFrom({ ...whole, SATCHEL_SECRET: secret });
      throw new Error('it was taken');
    } catch (cause) {
      expect(String(cause)).not.toContain(secret);
    }
  });
});
