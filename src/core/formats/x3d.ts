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
import { addChoices, isInline, listed, Protos, type Named } from './x3dNodes';

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

/** The prototypes a file declares. What a field stands for is told in the body, after it: hence by a reading of its own. */
function protosIn(m: Markup): Protos {
  const protos = new Protos();
  // Most files have none.
  if (!latin1(m.units).includes('ProtoDeclare')) return protos;
  const open: string[] = [];
  const declared: string[] = [];
  const instances: string[] = [];
  eachMarkup(m, {
    open(full, attributes) {
      const node = localName(full);
      const said = (name: string) => textOf(m, attributes, name);
      open.push(node);
      if (node === 'ProtoDeclare') {
        declared.push(said('name'));
        protos.declare(said('name'));
      } else if (node === 'ExternProtoDeclare') protos.declareExtern(said('name'));
      else if (node === 'ProtoInstance') instances.push(said('name'));
      // <Node><IS><connect …/></IS></Node>
      else if (node === 'connect' && open.at(-2) === 'IS') {
        const owner = open.at(-3) ?? '';
        protos.connect(
          declared.at(-1) ?? '',
          said('protoField'),
          owner === 'ProtoInstance' ? (instances.at(-1) ?? '') : owner,
          said('nodeField'),
        );
      }
    },
    close() {
      const node = open.pop();
      if (node === 'ProtoDeclare') declared.pop();
      if (node === 'ProtoInstance') instances.pop();
    },
  });
  return protos;
}

const textOf = (m: Markup, attributes: readonly Attribute[], name: string): string => {
  const a = attributes.find((x) => x.name === name);
  return a ? latin1(m.units.subarray(a.from, a.to)) : '';
};

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
    const protos = protosIn(m);
    const open: { node: string; name: string }[] = [];
    const list = (a: Attribute, named: Named, owner: string) => {
      const found: Reference[] = [];
      for (const s of stringsOf(m, a)) {
        const quoting = s.quoted ? `${a.quote}list` : a.quote;
        const reference = markupReference(m, s.from, s.to, quoting, '', 'other');
        const written = s.quoted ? reference.written.replace(/\\(["\\])/g, '$1') : reference.written;
        if (!isInline(written))
          found.push({ ...reference, ...listed(named, written), written, at: place(owner) });
      }
      addChoices(reading, found, lists++);
    };
    reading.problems.push(
      ...eachMarkup(m, {
        open(full, attributes) {
          const node = localName(full);
          const name = textOf(m, attributes, 'name');
          const label = textOf(m, attributes, 'DEF') || name;
          // A value of a prototype's field: where it is declared, or at an instance.
          if (node === 'field' || node === 'fieldValue') {
            const of = node === 'field' ? open.findLast((o) => o.node === 'ProtoDeclare') : open.at(-1);
            const isOfProto =
              node === 'field' ? open.at(-1)?.node === 'ProtoInterface' : of?.node === 'ProtoInstance';
            const named = of && isOfProto ? protos.named(of.name, name) : null;
            const value = attributes.find((a) => a.name === 'value');
            if (of && named && value) list(value, named, `${of.name} ${name}`);
          } else
            for (const a of attributes) {
              const named = protos.named(node, a.name);
              if (named) list(a, named, [node, label, a.name].filter(Boolean).join(' '));
            }
          open.push({ node, name });
        },
        close() {
          open.pop();
        },
      }),
    );
    return reading;
  },
  encode(value, at) {
    return encodeMarkup(at.quoting?.endsWith('list') ? value.replace(/["\\]/g, '\\$&') : value, at);
  },
};
