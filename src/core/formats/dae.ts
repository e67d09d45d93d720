// COLLADA 1.4 and 1.5 (.dae). References are the images' files and whatever a URL of another document names:
//
//     <image id="hull"><init_from>./hull%20base.png</init_from></image>          1.4
//     <image id="hull"><init_from><ref>hull.png</ref></init_from></image>        1.5
//     <instance_geometry url="deck.dae#planks"/>
//
// `surface/init_from` is an image's id, `#id` alone is this document, `contributor/source_data` tells where it came from: no references.
// Names count without their namespace: files with prefixes and with a wrong namespace exist. Source: COLLADA 1.4.1 and 1.5
// specifications (Khronos, ISO/PAS 17506), schemas; URIs after RFC 3986.

import { latin1 } from '../text/bytes';
import type { Format, Reading, ReferenceKind } from './format';
import {
  decodeMarkup,
  eachMarkup,
  encodeMarkup,
  localName,
  markupReference,
  numbering,
  openMarkup,
  trimmed,
  type Attribute,
} from './markup';

// Attribute → the elements on which it is a URI that may name another document, beside `url` on every instance_*.
const uriAttributes: Record<string, ReadonlySet<string>> = {
  url: new Set(['include', 'import', 'profile_BRIDGE']),
  source: new Set(['input', 'accessor', 'skin', 'morph']),
  target: new Set(['instance_material', 'instance_rigid_body']),
  proxy: new Set(['instance_node']),
  parent: new Set(['attachment', 'ref_attachment']),
  convex_hull_of: new Set(['convex_mesh']),
  camera_node: new Set(['render']),
};

const hash = 0x23; // '#': this document

function isUri(element: string, attribute: string): boolean {
  return (
    (attribute === 'url' && element.startsWith('instance_')) ||
    (uriAttributes[attribute]?.has(element) ?? false)
  );
}

/** The kind of file the text of an element names; null where it is no file. */
function kindOfText(path: readonly string[]): ReferenceKind | null {
  const [last, parent, grand] = [path.at(-1), path.at(-2), path.at(-3)];
  if (last === 'init_from') return parent === 'image' ? 'texture' : null;
  if (last === 'ref')
    return parent === 'init_from' && grand !== 'surface' ? 'texture' : parent === 'binary' ? 'other' : null;
  return last === 'skeleton' ? 'scene' : null;
}

export const dae: Format = {
  id: 'dae',
  name: 'COLLADA',
  extensions: ['.dae'],
  mayBeGzip: true,
  syntax: 'uri',
  sniff(head) {
    const m = openMarkup(head);
    return /<(\w+:)?COLLADA[\s>]/.test(latin1(m.units.subarray(0, 4096)));
  },
  read(bytes) {
    const m = openMarkup(bytes);
    const reading: Reading = { references: [], problems: [] };
    const place = numbering();
    const path: string[] = [];
    const ids: { element: string; id: Attribute | undefined }[] = [];
    let texts: { from: number; to: number; cdata: boolean }[] = [];
    const named = (element: string) => {
      const owner = ids.findLast((o) => o.id !== undefined);
      return owner
        ? `${owner.element} ${decodeMarkup(m, owner.id!.from, owner.id!.to).text} / ${element}`
        : element;
    };
    const attributesOf = (element: string, attributes: readonly Attribute[]) => {
      for (const a of attributes) {
        if (!isUri(element, localName(a.name))) continue;
        const [from, to] = trimmed(m, a.from, a.to);
        if (from === to || m.units[from] === hash) continue;
        const reference = markupReference(
          m,
          from,
          to,
          a.quote,
          '',
          element === 'include' ? 'other' : 'scene',
        );
        reading.references.push({ ...reference, at: place(named(`${element} ${a.name}`)) });
      }
    };
    reading.problems.push(
      ...eachMarkup(m, {
        open(name, attributes) {
          const element = localName(name);
          path.push(element);
          ids.push({ element, id: attributes.find((a) => a.name === 'id' || a.name === 'name') });
          if (texts.length > 0) texts = [];
          attributesOf(element, attributes);
        },
        text(from, to, cdata) {
          if (path.length > 0 && kindOfText(path) !== null) texts.push({ from, to, cdata });
        },
        close() {
          const kind = kindOfText(path);
          const filled =
            kind === null
              ? []
              : texts.map((t) => ({ ...t, at: trimmed(m, t.from, t.to) })).filter((t) => t.at[0] < t.at[1]);
          if (kind !== null && filled.length === 1) {
            const t = filled[0]!;
            const reference = markupReference(m, t.at[0], t.at[1], t.cdata ? 'cdata' : 'text', '', kind);
            if (!/^(data:|#)/i.test(reference.written))
              reading.references.push({ ...reference, at: place(named(path.at(-1)!)) });
          } else if (kind !== null && filled.length > 1) {
            reading.problems.push({
              code: 'split-text',
              message: `A path at ${named(path.at(-1)!)} is cut by comments or CDATA sections; it is not read.`,
              span: [filled[0]!.from * m.width, filled.at(-1)!.to * m.width],
            });
          }
          if (texts.length > 0) texts = [];
          path.pop();
          ids.pop();
        },
      }),
    );
    return reading;
  },
  encode: encodeMarkup,
};
