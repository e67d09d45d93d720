// Strings, names, asset paths and targets as USD text writes them. After the text grammar of OpenUSD 22, by which each is tried.

import { decodeText, latin1, utf8 } from '../../text/bytes';
import { usda } from '../../formats/usda';

/** What cannot be said in text; its message tells which. */
export class Unsayable extends Error {}

const escapes: Record<string, string> = { '\n': '\\n', '\r': '\\r', '\t': '\\t', '\\': '\\\\', '"': '\\"' };

/** A string in quotes. Bytes that are no UTF-8 are written by their numbers. */
export function quoted(bytes: Uint8Array): string {
  const { text, encoding } = decodeText(bytes);
  if (encoding === 'utf-8' && text.includes('\n') && !/[\u0000-\u0009\u000b-\u001f\u007f]/.test(text))
    return `"""${text.replace(/[\\"]/g, '\\$&')}"""`;

  const unsafe = encoding === 'utf-8' ? /[\u0000-\u001f\u007f\\"]/g : /[\u0000-\u001f\u007f-\u00ff\\"]/g;
  return `"${text.replace(unsafe, (c) => escapes[c] ?? `\\x${c.charCodeAt(0).toString(16).padStart(2, '0')}`)}"`;
}

/** An asset path between its marks. Throws Unsayable for one with a line end in it. */
export function asset(bytes: Uint8Array): string {
  const text = decodeText(bytes).text;
  const encoded = usda.encode(text, { at: '', kind: 'other', written: '', span: null, encoding: 'utf-8' });
  if (!encoded) throw new Unsayable(`The path ${JSON.stringify(text)} has a control character in it.`);
  // What decoded as Latin-1 was no UTF-8: its bytes are kept.
  return `@${latin1(encoded) === text ? text : decodeText(encoded).text}@`;
}

/** A name as it stands in a path or before a value. Throws Unsayable for bytes that are no UTF-8. */
export function name(bytes: Uint8Array): string {
  const { text, encoding } = decodeText(bytes);
  if (encoding !== 'utf-8') throw new Unsayable(`The name ${JSON.stringify(text)} is no UTF-8.`);
  return text;
}

/** The key of an entry of a dictionary. */
export const keyOf = (text: string): string => (/^[A-Za-z_]\w*$/.test(text) ? text : quoted(utf8(text)));

/** A list: one alone stands without brackets where `bare`. */
export function list(items: readonly string[], bare: boolean): string {
  if (items.length === 0) return 'None';
  return bare && items.length === 1 ? items[0]! : `[${items.join(', ')}]`;
}
