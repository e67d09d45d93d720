// Content that is made of a file by a rule: what a plan writes down is the rule and the id of what comes of it.

import { Inflate } from 'fflate';
import { fromBase64 } from '../documents/gltfFile';
import { concat, latin1 } from '../text/bytes';
import type { Refusal } from '../documents/gltfText';
import { plyAs } from './ply';

export const makingForms = [
  'ply-ascii',
  'ply-little',
  'ply-big',
  'inflate',
  'usd-text',
  'x3d-classic',
  'x3d-xml',
  'base64',
] as const;
/** `span`: the bytes of the file that are meant; absent: all. */
export interface Making {
  form: (typeof makingForms)[number];
  span?: readonly [number, number] | undefined;
}

/** Makes it; what it takes to is loaded when it is wanted. Deterministic: the same bytes always give the same. */
export async function made({ form }: Making, bytes: Uint8Array): Promise<Uint8Array | Refusal> {
  switch (form) {
    case 'ply-ascii':
      return plyAs(bytes, 'ascii');
    case 'ply-little':
      return plyAs(bytes, 'binary_little_endian');
    case 'ply-big':
      return plyAs(bytes, 'binary_big_endian');
    case 'inflate':
      return inflated(bytes);
    case 'base64':
      return fromBase64(latin1(bytes)) ?? { refused: 'It is no base64.' };
    case 'usd-text':
      return (await import('./crate/usdText')).usdText(bytes);
    case 'x3d-classic':
      return contentOf((await import('./x3d/convert')).classicOf(bytes));
    case 'x3d-xml':
      return contentOf((await import('./x3d/convert')).xmlOf(bytes));
  }
}

const contentOf = (made: { content: Uint8Array } | Refusal) => ('refused' in made ? made : made.content);

/** Beyond this nothing is unpacked: what was packed to grow without end must not fill the memory. */
export const mostInflated = 512 * 1024 * 1024;

function inflated(bytes: Uint8Array): Uint8Array | Refusal {
  const parts: Uint8Array[] = [];
  let size = 0;
  let ended = false;
  const inflate = new Inflate((part, last) => {
    parts.push(part);
    size += part.length;
    ended = last;
  });
  const step = 64 * 1024;
  try {
    for (let at = 0; at < bytes.length && size <= mostInflated; at += step)
      inflate.push(bytes.subarray(at, at + step), at + step >= bytes.length);
  } catch {
    ended = false;
  }
  if (size > mostInflated) return { refused: 'What is packed in it is too large.' };
  if (!ended) return { refused: 'What is packed in it cannot be unpacked.' };
  return concat(parts);
}
