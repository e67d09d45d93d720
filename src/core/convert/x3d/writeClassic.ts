// X3D in its classic encoding. Source: ISO/IEC 19776-2 (X3D classic VRML encoding), annex A grammar.

import { utf8 } from '../../text/bytes';
import type { Comment3d, Declared, Item, Node3d, Part, SceneOf3d, Value } from './model';

const string = (s: string) => `"${s.replace(/["\\]/g, '\\$&')}"`;

/** The scene as a file. */
export function writeClassic(scene: SceneOf3d): Uint8Array {
  const out: string[] = [`#X3D V${scene.version} utf8\n\nPROFILE ${scene.profile}\n`];
  for (const c of scene.components) out.push(`COMPONENT ${c.name}:${c.level}\n`);
  for (const u of scene.units) out.push(`UNIT ${u.category} ${u.name} ${u.factor}\n`);
  for (const m of scene.metas) out.push(`META ${string(m.name)} ${string(m.content)}\n`);
  out.push('\n');
  for (const item of scene.body) write(out, item, '');
  return utf8(out.join(''));
}

function comment(out: string[], text: string, indent: string): void {
  for (const line of text.split(/\r\n|\r|\n/)) out.push(`${indent}#${line}\n`);
}

function write(out: string[], item: Item, indent: string): void {
  const inner = `${indent}  `;
  switch (item.is) {
    case 'node':
      out.push(indent);
      node(out, item, indent);
      out.push('\n');
      return;
    case 'comment':
      return comment(out, item.text, indent);
    case 'proto':
      out.push(`${indent}PROTO ${item.name} [\n`);
      for (const d of item.interface) declared(out, d, inner);
      out.push(`${indent}] {\n`);
      for (const i of item.body) write(out, i, inner);
      out.push(`${indent}}\n`);
      return;
    case 'extern':
      out.push(`${indent}EXTERNPROTO ${item.name} [\n`);
      for (const d of item.interface) declared(out, d, inner);
      out.push(`${indent}] [ ${item.url.map(string).join(', ')} ]\n`);
      return;
    case 'route':
      out.push(`${indent}ROUTE ${item.from}.${item.fromField} TO ${item.to}.${item.toField}\n`);
      return;
    case 'import':
      out.push(`${indent}IMPORT ${item.inline}.${item.name} AS ${item.as}\n`);
      return;
    case 'export':
      out.push(`${indent}EXPORT ${item.name} AS ${item.as}\n`);
  }
}

function declared(out: string[], d: Declared | Comment3d, indent: string): void {
  if (d.is === 'comment') return comment(out, d.text, indent);
  out.push(`${indent}${d.access} ${d.type} ${d.name}`);
  if (d.connect !== null) out.push(` IS ${d.connect}`);
  else if (d.value) {
    out.push(' ');
    value(out, d.value, indent);
  }
  out.push('\n');
}

function node(out: string[], n: Node3d, indent: string): void {
  if (n.use !== null) {
    out.push(`USE ${n.use}`);
    return;
  }
  out.push(`${n.def === null ? '' : `DEF ${n.def} `}${n.type} {`);
  if (n.parts.length > 0) {
    out.push('\n');
    for (const p of n.parts) part(out, p, `${indent}  `);
    out.push(indent);
  } else out.push(' ');
  out.push('}');
}

function part(out: string[], p: Part, indent: string): void {
  if (p.is === 'field') {
    out.push(`${indent}${p.name} `);
    value(out, p.value, indent);
    out.push('\n');
  } else if (p.is === 'connect') out.push(`${indent}${p.name} IS ${p.proto}\n`);
  else if (p.is === 'declared') declared(out, p, indent);
  else write(out, p, indent);
}

function value(out: string[], v: Value, indent: string): void {
  const many = v.type.startsWith('MF');
  const kind = v.type.slice(2);
  if (kind === 'Node') {
    if (!many) {
      for (const n of v.nodes)
        if (n === null) out.push('NULL');
        else if (n.is === 'node') node(out, n, indent);
      return;
    }
    out.push('[');
    if (v.nodes.length > 0) {
      out.push('\n');
      for (const n of v.nodes) if (n) write(out, n, `${indent}  `);
      out.push(indent);
    } else out.push(' ');
    out.push(']');
  } else if (kind === 'String') {
    const all = v.strings.map(string).join(', ');
    out.push(many ? `[ ${all} ]` : all);
  } else out.push(many ? `[ ${v.words} ]` : v.words);
}
