// Prims put into a USD text: behind what a prim, or the layer, holds; and a prim around another.

import { toLatin1 } from '../text/bytes';
import type { Edit } from '../text/edits';
import type { Matrix } from '../units/matrix';
import type { UsdText } from './usdNeeds';

/** The edit that puts texts behind what a prim, or the layer, holds. */
export function insertedAt({ text, prims }: UsdText, holder: string, texts: readonly string[]): Edit {
  const newline = text.includes('\r\n') ? '\r\n' : '\n';
  if (holder === '') {
    const before = text.endsWith('\n') || text === '' ? '' : newline;
    return {
      span: [text.length, text.length],
      bytes: toLatin1(before + texts.map((t) => `${newline}${t}${newline}`).join(''))!,
    };
  }
  const prim = prims.find((p) => p.path === holder)!;
  const indent = /[ \t]*$/.exec(text.slice(0, prim.span[0]))![0];
  const end = prim.body[1];
  const before = /\n[ \t]*$/.exec(text.slice(0, end));
  const at = before ? before.index + 1 : end;
  const added = texts.map((t) => `${indent}    ${t}${newline}`).join('');
  return { span: [at, at], bytes: toLatin1(before ? added : `${newline}${added}${indent}`)! };
}

/** A prim around another that says where it stands, and what it is bound to. */
export function holding(name: string, matrix: Matrix | null, binding: string | null, text: string): string {
  const rows = matrix && [0, 4, 8, 12].map((k) => `(${matrix.slice(k, k + 4).join(', ')})`).join(', ');
  const api = binding === null ? '' : ' (\n    prepend apiSchemas = ["MaterialBindingAPI"]\n)';
  return [
    `def Xform "${name}"${api}`,
    '{',
    ...(rows
      ? [
          `    matrix4d xformOp:transform = ( ${rows} )`,
          '    uniform token[] xformOpOrder = ["xformOp:transform"]',
        ]
      : []),
    ...(binding === null ? [] : [`    rel material:binding = <${binding}>`]),
    `    ${text}`,
    '}',
  ].join('\n');
}
