// PLY, ASCII and binary. Only the header is read; a picture is named in a comment:
//
//     comment TextureFile fuze uv.jpg
//                         ^ span ---^
//
// Source: the PLY format as published by Greg Turk (header, end_header); TextureFile is common practice, no source.

import { decodeText, latin1, toLatin1, utf8 } from '../text/bytes';
import type { Format, Reading } from './format';
import { numbering } from './markup';

const mostHeader = 1024 * 1024;

function headerEnd(b: Uint8Array): number {
  const text = latin1(b.subarray(0, mostHeader));
  const match = /(?:^|[\r\n])end_header(?:\r\n|\r|\n|$)/.exec(text);
  return match ? match.index + match[0].length : -1;
}

export const ply: Format = {
  id: 'ply',
  name: 'PLY',
  extensions: ['.ply'],
  syntax: 'native',
  sniff(head) {
    return /^ply[ \t]*[\r\n]/.test(latin1(head.subarray(0, 16)));
  },
  needs(head, size) {
    const end = headerEnd(head);
    return end > 0 ? end : Math.min(size, mostHeader);
  },
  read(b) {
    const reading: Reading = { references: [], problems: [] };
    if (!this.sniff(b))
      return {
        references: [],
        problems: [
          {
            code: b.length === 0 ? 'empty-file' : 'not-ply',
            message:
              b.length === 0 ? 'The file is empty.' : 'This is no PLY file: its first line is not “ply”.',
            span: [0, Math.min(b.length, 4)],
          },
        ],
      };
    const end = headerEnd(b);
    if (end < 0)
      reading.problems.push({
        code: 'truncated',
        message: 'The header of this PLY file has no end_header.',
        span: [Math.max(0, b.length - 1), b.length],
      });
    const text = latin1(b.subarray(0, end < 0 ? Math.min(b.length, mostHeader) : end));
    const place = numbering();
    for (const match of text.matchAll(
      /(?<=^|[\r\n])(comment[ \t]+TextureFile[ \t]+)([^\r\n]*?)[ \t]*(?=[\r\n]|$)/gi,
    )) {
      if (match[2] === '') continue;
      const from = match.index + match[1]!.length;
      const span = [from, from + match[2]!.length] as const;
      const { text: written, encoding } = decodeText(b.subarray(...span));
      reading.references.push({ at: place('comment TextureFile'), kind: 'texture', written, span, encoding });
    }
    return reading;
  },
  encode(value, at) {
    if (value === '' || value.trim() !== value || /[\r\n\0]/.test(value)) return null;
    return at.encoding === 'latin-1' ? toLatin1(value) : utf8(value);
  },
};
