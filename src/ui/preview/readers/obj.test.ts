// Transparency of a material library: `d` and `Tr`. Source: Wavefront's MTL description has `d` only; `Tr` is common practice.

import { expect, test } from '@jest/globals';
import { transparencyOnce } from './obj';

test.each([
  ['d decides where both stand', 'newmtl a\nd 1.0\nTr 1.0\nKd 1 0 0\n', 'newmtl a\nd 1.0\n\nKd 1 0 0\n'],
  ['in either order', 'newmtl a\r\nTr 0.3\r\nd 0.7\r\n', 'newmtl a\r\n\r\nd 0.7\r\n'],
  ['Tr by itself stays', 'newmtl a\nTr 0.3\n', 'newmtl a\nTr 0.3\n'],
  ['but where nothing would be seen', 'newmtl a\nTr 1.000\n', 'newmtl a\n\n'],
  ['each material for itself', 'newmtl a\nd 0.5\nnewmtl b\nTr 0.5\n', 'newmtl a\nd 0.5\nnewmtl b\nTr 0.5\n'],
  ['a halo is a d', 'newmtl a\nd -halo 0.5\n tr 0.4\n', 'newmtl a\nd -halo 0.5\n\n'],
  ['other words with these letters stay', 'newmtl Tr 1\nmap_d Tr.png\n', 'newmtl Tr 1\nmap_d Tr.png\n'],
])('%s', (_, before, after) => {
  expect(transparencyOnce(before)).toBe(after);
});
