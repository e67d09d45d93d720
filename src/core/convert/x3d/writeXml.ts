// X3D in XML. Source: ISO/IEC 19776-1 (X3D XML encoding), §4.3, §5 and its document type.

import { utf8 } from '../../text/bytes';
import {
  NotConvertible,
  type Comment3d,
  type Declared,
  type Item,
  type Node3d,
  type Part,
  type SceneOf3d,
  type Value,
} from './model';
import { containerOf, scripts } from '../../formats/x3dTypes';

type Attributes = (readonly [string, string])[];

/** The scene as a file. Throws NotConvertible for characters that XML does not have. */
export function writeXml(scene: SceneOf3d): Uint8Array {
  const out: string[] = ['<?xml version="1.0" encoding="UTF-8"?>\n'];
  // From 4.0 on there is a schema only.
  if (/^3\.\d$/.test(scene.version))
    out.push(
      `<!DOCTYPE X3D PUBLIC "ISO//Web3D//DTD X3D ${scene.version}//EN" "https://www.web3d.org/specifications/x3d-${scene.version}.dtd">\n`,
    );
  open(
    out,
    'X3D',
    [
      ['profile', scene.profile],
      ['version', scene.version],
    ],
    '',
    false,
  );
  const head = [
    ...scene.components.map(
      (c) =>
        [
          'component',
          [
            ['name', c.name],
            ['level', c.level],
          ],
        ] as const,
    ),
    ...scene.units.map(
      (u) =>
        [
          'unit',
          [
            ['category', u.category],
            ['name', u.name],
            ['conversionFactor', u.factor],
          ],
        ] as const,
    ),
    ...scene.metas.map(
      (m) =>
        [
          'meta',
          [
            ['name', m.name],
            ['content', m.content],
          ],
        ] as const,
    ),
  ];
  if (head.length > 0) {
    open(out, 'head', [], '  ', false);
    for (const [name, attributes] of head) open(out, name, attributes, '    ', true);
    out.push('  </head>\n');
  }
  open(out, 'Scene', [], '  ', false);
  for (const item of scene.body) write(out, item, '    ');
  out.push('  </Scene>\n</X3D>\n');
  return utf8(out.join(''));
}

/** A value between single quotes. Line ends and tabs would be read as blanks (XML 1.0 §3.3.3), and are written by number. */
function escaped(text: string): string {
  if (/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/.test(text))
    throw new NotConvertible('It has a control character, which XML cannot hold.');
  return text.replace(/[&<'\t\n\r]/g, (c) =>
    c === '&' ? '&amp;' : c === '<' ? '&lt;' : c === "'" ? '&apos;' : `&#${c.charCodeAt(0)};`,
  );
}

function open(
  out: string[],
  name: string,
  attributes: readonly (readonly [string, string])[],
  indent: string,
  closed: boolean,
): void {
  out.push(
    `${indent}<${name}${attributes.map(([k, v]) => ` ${k}='${escaped(v)}'`).join('')}${closed ? '/' : ''}>\n`,
  );
}

function comment(out: string[], text: string, indent: string): void {
  // Two hyphens end a comment (XML 1.0 §2.5).
  const safe = text.replace(/--/g, '- -').replace(/--/g, '- -').replace(/-$/, '- ');
  out.push(`${indent}<!--${safe}-->\n`);
}

function write(out: string[], item: Item, indent: string): void {
  const inner = `${indent}  `;
  switch (item.is) {
    case 'node':
      return node(out, item, 'children', '', indent);
    case 'comment':
      return comment(out, item.text, indent);
    case 'proto':
      open(out, 'ProtoDeclare', [['name', item.name]], indent, false);
      if (item.interface.length > 0) {
        open(out, 'ProtoInterface', [], inner, false);
        for (const d of item.interface) declared(out, d, `${inner}  `);
        out.push(`${inner}</ProtoInterface>\n`);
      }
      open(out, 'ProtoBody', [], inner, false);
      for (const i of item.body) write(out, i, `${inner}  `);
      out.push(`${inner}</ProtoBody>\n${indent}</ProtoDeclare>\n`);
      return;
    case 'extern':
      open(
        out,
        'ExternProtoDeclare',
        [
          ['name', item.name],
          ['url', list(item.url)],
        ],
        indent,
        false,
      );
      for (const d of item.interface) declared(out, d, inner);
      out.push(`${indent}</ExternProtoDeclare>\n`);
      return;
    case 'route':
      return open(
        out,
        'ROUTE',
        [
          ['fromNode', item.from],
          ['fromField', item.fromField],
          ['toNode', item.to],
          ['toField', item.toField],
        ],
        indent,
        true,
      );
    case 'import':
      return open(
        out,
        'IMPORT',
        [
          ['inlineDEF', item.inline],
          ['importedDEF', item.name],
          ['AS', item.as],
        ],
        indent,
        true,
      );
    case 'export':
      return open(
        out,
        'EXPORT',
        [
          ['localDEF', item.name],
          ['AS', item.as],
        ],
        indent,
        true,
      );
  }
}

const list = (strings: readonly string[]) => strings.map((s) => `"${s.replace(/["\\]/g, '\\$&')}"`).join(' ');

/** A value that an attribute holds; null: it holds nodes. */
function text(v: Value): string | null {
  const kind = v.type.slice(2);
  if (kind === 'Node') return null;
  if (v.type === 'SFString') return v.strings[0] ?? '';
  if (kind === 'String') return list(v.strings);
  return kind === 'Bool' ? v.words.toLowerCase() : v.words;
}

function declared(out: string[], d: Declared | Comment3d, indent: string): void {
  if (d.is === 'comment') return comment(out, d.text, indent);
  const attributes: Attributes = [
    ['accessType', d.access],
    ['type', d.type],
    ['name', d.name],
  ];
  const said = d.value && text(d.value);
  if (typeof said === 'string') attributes.push(['value', said]);
  const nodes = d.value && said === null ? d.value.nodes : [];
  open(out, 'field', attributes, indent, nodes.length === 0);
  if (nodes.length === 0) return;
  held(out, nodes, 'children', '', `${indent}  `);
  out.push(`${indent}</field>\n`);
}

function held(out: string[], nodes: Value['nodes'], field: string, parent: string, indent: string): void {
  for (const n of nodes)
    if (n?.is === 'comment') comment(out, n.text, indent);
    else if (n) node(out, n, field, parent, indent);
}

/** A node in a field of a parent; '' for a parent that has no fields. */
function node(out: string[], n: Node3d, field: string, parent: string, indent: string): void {
  const attributes: Attributes = [];
  if (n.def !== null) attributes.push(['DEF', n.def]);
  if (n.use !== null) attributes.push(['USE', n.use]);
  const element = n.ofProto ? 'ProtoInstance' : n.type;
  if (n.ofProto) attributes.push(['name', n.type]);
  const texts: string[] = [];
  if (!n.ofProto)
    for (const p of n.parts)
      if (p.is === 'field') {
        const said = text(p.value);
        if (said === null) continue;
        const source = p.name === 'url' && scripts.has(n.type) ? p.value.strings.at(-1) : undefined;
        // Source of several lines is kept readable.
        if (source?.includes('\n') && !source.includes(']]>') && p.value.strings.length === 1)
          texts.push(source);
        else attributes.push([p.name, said]);
      }
  // Metadata have two places: which one is always told.
  if (parent !== '' && (containerOf(n.type, parent) !== field || n.type.startsWith('Metadata') || n.ofProto))
    attributes.push(['containerField', field]);
  const body: string[] = [];
  const inner = `${indent}  `;
  // Declarations first: what stands for a field of the prototype names them.
  for (const p of n.parts) if (p.is === 'declared') declared(body, p, inner);
  const connects = n.parts.flatMap((p) =>
    p.is === 'connect'
      ? [[p.name, p.proto] as const]
      : p.is === 'declared' && p.connect !== null
        ? [[p.name, p.connect] as const]
        : [],
  );
  if (connects.length > 0) {
    open(body, 'IS', [], inner, false);
    for (const [name, proto] of connects)
      open(
        body,
        'connect',
        [
          ['nodeField', name],
          ['protoField', proto],
        ],
        `${inner}  `,
        true,
      );
    body.push(`${inner}</IS>\n`);
  }
  for (const p of n.parts) part(body, p, n, inner);
  for (const t of texts) body.push(`${inner}<![CDATA[${t}]]>\n`);
  open(out, element, attributes, indent, body.length === 0);
  if (body.length > 0) out.push(...body, `${indent}</${element}>\n`);
}

function part(out: string[], p: Part, n: Node3d, indent: string): void {
  if (p.is === 'declared' || p.is === 'connect') return;
  if (p.is !== 'field') return write(out, p, indent);
  const said = text(p.value);
  if (!n.ofProto) {
    if (said === null) held(out, p.value.nodes, p.name, n.type, indent);
    return;
  }
  open(
    out,
    'fieldValue',
    [['name', p.name], ...(said === null ? [] : [['value', said] as const])],
    indent,
    said !== null || p.value.nodes.length === 0,
  );
  if (said !== null || p.value.nodes.length === 0) return;
  held(out, p.value.nodes, 'children', '', `${indent}  `);
  out.push(`${indent}</fieldValue>\n`);
}
