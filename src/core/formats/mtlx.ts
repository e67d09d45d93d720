// MaterialX (.mtlx). References are values of type `filename`, shader sources of implementations, and included documents:
//
//     <input name="file" type="filename" value="hull_&lt;UDIM&gt;.exr" fileprefix="../textures/"/>
//                                               ^ span -------------^
//
// The nearest `fileprefix`, of the element itself or an ancestor, is put in front as plain text; prefixes are not joined, and an empty
// one switches them off. Source: MaterialX Specification 1.38/1.39, "File Prefixes", "Filename Substitutions"; its own library files.

import { utf8, latin1 } from '../text/bytes';
import type { Format, Reading, Reference } from './format';
import { kindOfPath } from './kinds';
import {
  decodeMarkup,
  eachMarkup,
  encodeMarkup,
  localName,
  markupReference,
  numbering,
  openMarkup,
  type Attribute,
} from './markup';

export const mtlx: Format = {
  id: 'mtlx',
  name: 'MaterialX',
  extensions: ['.mtlx'],
  syntax: 'native',
  searches: 'always',
  sniff(head) {
    return /<materialx[\s>]/.test(latin1(openMarkup(head).units.subarray(0, 4096)));
  },
  read(bytes) {
    const m = openMarkup(bytes);
    const reading: Reading = { references: [], problems: [] };
    const place = numbering();
    const open: { name: string; prefix: string }[] = [];
    const add = (a: Attribute, element: string, extra: Partial<Reference>) => {
      const reference = markupReference(m, a.from, a.to, a.quote, '', 'other');
      if (reference.written === '') return;
      const at = place([...open.slice(1).map((o) => o.name), element, a.name].filter(Boolean).join(' / '));
      reading.references.push({ ...reference, kind: kindOfPath(reference.written, 'texture'), ...extra, at });
      if (/\[[\w:]+\]/.test(reference.written)) {
        reading.problems.push({
          code: 'token',
          message: `${reference.written} holds a token that only the material's user fills in; the file cannot be told.`,
          span: reference.span!,
        });
      }
    };
    reading.problems.push(
      ...eachMarkup(m, {
        open(full, attributes) {
          const element = localName(full);
          const value = (name: string) => {
            const a = attributes.find((x) => x.name === name);
            return a ? decodeMarkup(m, a.from, a.to).text : undefined;
          };
          const prefix = value('fileprefix') ?? open.at(-1)?.prefix ?? '';
          const name = value('name') ?? element;
          const find = (key: string) => attributes.find((a) => a.name === key);
          if (value('type') === 'filename') {
            for (const key of ['value', 'default']) {
              const a = find(key);
              if (a)
                add(
                  a,
                  name,
                  prefix === '' ? {} : { prefix, quoting: find('fileprefix') ? `${a.quote}own` : a.quote },
                );
            }
          }
          if (element === 'implementation') {
            const a = find('file');
            if (a) add(a, name, { kind: 'other' });
          } else if (element === 'include') {
            const a = find('href');
            if (a) add(a, 'include', { kind: 'material' });
          }
          open.push({ name: value('name') ?? '', prefix });
        },
        close() {
          open.pop();
        },
      }),
    );
    return reading;
  },
  encode(value, at) {
    if (at.prefix === undefined) return encodeMarkup(value, at);
    if (value.startsWith(at.prefix)) return encodeMarkup(value.slice(at.prefix.length), at);
    // The prefix is shared with others: it is switched off here, by an attribute that begins where the value's own quote would end it.
    if (at.quoting?.endsWith('own')) return null;
    const plain = encodeMarkup(value, at);
    return plain && at.encoding !== 'utf-16le' && at.encoding !== 'utf-16be'
      ? concat(plain, utf8(`${at.quoting} fileprefix=${at.quoting}`))
      : null;
  },
};

function concat(a: Uint8Array, b: Uint8Array): Uint8Array {
  const out = new Uint8Array(a.length + b.length);
  out.set(a);
  out.set(b, a.length);
  return out;
}
