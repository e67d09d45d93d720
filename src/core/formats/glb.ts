// glTF, binary form (.glb): a header, a JSON chunk, binary chunks. Source: glTF 2.0 Specification §4.4 "GLB File Format".
//
//     0  magic 'glTF'   4  version   8  length of all   12  length of JSON chunk   16  'JSON'   20  JSON, padded with blanks …
//
// Only the header and the JSON chunk are read, whatever the size of the file. A rewrite changes the value, the padding of the
// JSON chunk and the two lengths; every other byte is copied. Version 1 (glTF 1.0) has the same first 20 bytes, with 0 for 'JSON'.

import type { Problem } from '../problem';
import type { Edit } from '../text/edits';
import type { Format } from './format';
import { encodeGltf, readGltfJson } from './gltf';

const headerSize = 20;
const blank = 0x20;

function u32(b: Uint8Array, at: number): number {
  return (b[at]! | (b[at + 1]! << 8) | (b[at + 2]! << 16) | (b[at + 3]! << 24)) >>> 0;
}

function u32Bytes(value: number): Uint8Array {
  return Uint8Array.of(value & 255, (value >>> 8) & 255, (value >>> 16) & 255, (value >>> 24) & 255);
}

/** What is wrong with the header; null when it can be followed. */
function headerProblem(b: Uint8Array, size: number): Problem | null {
  if (size < headerSize || b.length < headerSize)
    return {
      code: 'truncated',
      message: 'The file ends inside the GLB header (20 bytes).',
      span: [0, Math.min(size, headerSize)],
    };
  if (u32(b, 0) !== 0x46546c67)
    return {
      code: 'wrong-format',
      message: 'This is no GLB: it does not begin with the letters glTF.',
      span: [0, 4],
    };
  const version = u32(b, 4);
  if (version !== 1 && version !== 2)
    return { code: 'unknown-version', message: `GLB version ${version} is not known.`, span: [4, 8] };
  if (u32(b, 16) !== (version === 2 ? 0x4e4f534a : 0))
    return { code: 'wrong-chunk', message: 'The first chunk is not JSON.', span: [16, 20] };
  if (headerSize + u32(b, 12) > size)
    return { code: 'truncated', message: 'The file is shorter than its JSON chunk.', span: [12, 16] };
  return null;
}

export const glb: Format = {
  id: 'glb',
  name: 'glTF (binary)',
  extensions: ['.glb'],
  syntax: 'uri',
  sniff(head) {
    return head.length >= 4 && u32(head, 0) === 0x46546c67;
  },
  needs(head, size) {
    return headerProblem(head, size) ? Math.min(size, headerSize) : headerSize + u32(head, 12);
  },
  read(bytes, size = bytes.length) {
    const wrong = headerProblem(bytes, size);
    if (wrong) return { references: [], problems: [wrong] };
    const reading = readGltfJson(bytes, headerSize, headerSize + u32(bytes, 12));
    const total = u32(bytes, 8);
    if (total > size)
      reading.problems.push({
        code: 'truncated',
        message: `The file should be ${total} bytes long and has ${size}.`,
        span: [8, 12],
      });
    return reading;
  },
  encode: encodeGltf,
  settle(bytes, edits) {
    const delta = edits.reduce((sum, e) => sum + e.bytes.length - (e.span[1] - e.span[0]), 0);
    if (delta === 0) return [];
    const oldLength = u32(bytes, 12);
    const end = headerSize + oldLength;
    let contentEnd = end;
    while (contentEnd > headerSize && bytes[contentEnd - 1] === blank) contentEnd--;
    const oldPadding = end - contentEnd;
    // More padding than alignment needs is somebody's reserve: whole words of it stay.
    const reserve = oldPadding - (oldPadding % 4);
    const content = contentEnd - headerSize + delta;
    const padding = reserve + ((4 - ((content + reserve) % 4)) % 4);
    const length = content + padding;
    const settled: Edit[] = [
      { span: [8, 12], bytes: u32Bytes(u32(bytes, 8) + length - oldLength) },
      { span: [12, 16], bytes: u32Bytes(length) },
    ];
    if (padding !== oldPadding)
      settled.push({ span: [contentEnd, end], bytes: new Uint8Array(padding).fill(blank) });
    return settled;
  },
};
