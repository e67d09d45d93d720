// A page elsewhere must not be able to drive the server: by its origin, by a rebound name, by a form, by an image.

import { expect, test } from '@jest/globals';
import { contentPolicy, refuse } from './guard';

const ask = (method: string, headers: Record<string, string>) =>
  refuse({ method, headers: new Headers(headers) })?.status ?? 200;
const host = '127.0.0.1:4680';

test.each([
  ['our page reads', 'GET', { host, 'sec-fetch-site': 'same-origin' }, 200],
  ['our page changes', 'POST', { host, origin: `http://${host}`, 'sec-fetch-site': 'same-origin' }, 200],
  ['typed address', 'GET', { host, 'sec-fetch-site': 'none', 'sec-fetch-mode': 'navigate' }, 200],
  [
    'a link from elsewhere opens a page',
    'GET',
    { host, 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate' },
    200,
  ],
  ['a script of ours without a browser', 'POST', { host, 'x-satchel': '1' }, 200],
  ['localhost', 'GET', { host: 'localhost:4680' }, 200],
  ['IPv6', 'GET', { host: '[::1]:4680' }, 200],
  ['another name (rebinding)', 'GET', { host: 'evil.test:4680' }, 421],
  ['no host', 'GET', {}, 421],
  ['a name that begins alike', 'GET', { host: '127.0.0.1.evil.test' }, 421],
  ['another origin', 'POST', { host, origin: 'http://evil.test' }, 403],
  ['another port of this machine', 'POST', { host, origin: 'http://127.0.0.1:9999' }, 403],
  ['a hidden origin', 'POST', { host, origin: 'null' }, 403],
  [
    'an image from elsewhere',
    'GET',
    { host, 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors' },
    403,
  ],
  [
    'a form from elsewhere',
    'POST',
    { host, 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate' },
    403,
  ],
  ['a bare post', 'POST', { host }, 403],
] as const)('%s', (_, method, headers, status) => expect(ask(method, headers)).toBe(status));

test('the policy allows our own scripts and nothing inline without the nonce', () => {
  const policy = contentPolicy('abc', false);
  expect(policy).toContain("default-src 'none'");
  expect(policy).toMatch(/script-src 'self' 'nonce-abc' 'strict-dynamic' 'wasm-unsafe-eval'(;|$)/);
  expect(policy).not.toMatch(/script-src[^;]*'unsafe/);
  expect(policy).toContain("frame-ancestors 'none'");
});
