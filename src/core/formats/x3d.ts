// X3D in XML (.x3d). A url is a list of strings in quotes, inside an attribute that XML has escaped as well:
//
//     <ImageTexture url='"hull.png" "https://example.org/hull.png"'/>
//                         ^ span ^   ^ another, used when the first does not load
//
// A value without inner quotes is one string, blanks included. Source: X3D XML encoding (Web3D, ISO/IEC 19776-1), §4.3 and §5.15 MFString.

import type { Format, Reading, Reference } from './format';
import {
  eachMarkup,
  encodeMarkup,
  localName,
  markupReference,
  numbering,
  openMarkup,
  trimmed,
  type Attribute,
  type Markup,
} from './markup';
import { latin1 } from '../text/bytes';
import { addChoices, isInline, kindOfField } from './x3dNodes';

/** The strings of an MFString value as units [from, to), quotes left out; the whole value where it has no quotes. */
function stringsOf(m: Markup, a: Attribute): { from: number; to: number; quoted: boolean }[] {
  const text = latin1(m.units.subarray(a.from, a.to));
  const found: { from: number; to: number; quoted: boolean }[] = [];
  const token = /\\(?:&quot;|&#34;|&#x22;|&amp;|.)|&quot;|&#34;|&#x22;|"/gis;
  let open = -1;
  for (const match of text.matchAll(token)) {
    if (match[0].startsWith('\\')) continue;
    if (open < 0) open = match.index + match[0].length;
    else {
      found.push({ from: a.from + open, to: a.from + match.index, quoted: true });
      open = -1;
    }
  }
  if (found.length > 0) return found;
  const [from, to] = trimmed(m, a.from, a.to);
  return from < to ? [{ from, to, quoted: false }] : [];
}

export const x3d: Format = {
  id: 'x3d',
  name: 'X3D (XML)',
  extensions: ['.x3d', '.x3dz'],
  mayBeGzip: true,
  syntax: 'uri',
  sniff(head) {
    return /<X3D[\s>]/.test(latin1(openMarkup(head).units.subarray(0, 4096)));
  },
  read(bytes) {
    const m = openMarkup(bytes);
    const reading: Reading = { references: [], problems: [] };
    const place = numbering();
    let lists = 0;
    reading.problems.push(
      ...eachMarkup(m, {
        open(full, attributes) {
          const node = localName(full);
          const label = attributes.find((a) => a.name === 'DEF' || a.name === 'name');
          for (const a of attributes) {
            const kind = kindOfField(node, a.name);
            if (kind === null) continue;
            const list: Reference[] = [];
            for (const s of stringsOf(m, a)) {
              const reference = markupReference(
                m,
                s.from,
                s.to,
                s.quoted ? `${a.quote}list` : a.quote,
                '',
                kind,
              );
              const written = s.quoted ? reference.written.replace(/\\(["\\])/g, '$1') : reference.written;
              if (isInline(written)) continue;
              const owner = label ? `${node} ${latin1(m.units.subarray(label.from, label.to))}` : node;
              list.push({ ...reference, written, at: place(`${owner} ${a.name}`) });
            }
            addChoices(reading, list, lists++);
          }
        },
        close() {},
      }),
    );
    return reading;
  },
  encode(value, at) {
    return encodeMarkup(at.quoting?.endsWith('list') ? value.replace(/["\\]/g, '\\$&') : value, at);
  },
};
