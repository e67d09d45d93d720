// The prims of a USD text and where each stands: bytes from its first word to the brace that closes it. Rules after OpenUSD's text grammar.
//
//     def Xform "Lamp" ( kind = "component" ) { … }
//     ^ span         meta ^-- inside --^       ^ body

import type { Span } from '../problem';

export interface UsdPrim {
  specifier: 'def' | 'over' | 'class';
  /** '' where it says none. */
  type: string;
  name: string;
  /** '/World/Lamp'. */
  path: string;
  span: Span;
  /** Where its name stands, quotes left out. */
  nameAt: Span;
  /** Inside its parentheses; null: it has none. */
  meta: Span | null;
  /** Inside its braces. */
  body: Span;
  /** Index of the prim around it; null: it stands at the top. */
  parent: number | null;
  /** Whether it is one of a variant's. */
  inVariant: boolean;
}

/** The text with comments, strings and asset paths blank, as long as it was. */
export function blanked(text: string): string {
  return text.replace(
    /#[^\n]*|\/\/[^\n]*|\/\*[\s\S]*?\*\/|"""[\s\S]*?"""|'''[\s\S]*?'''|"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*'|@@@[\s\S]*?@@@|@[^@\n]*@/g,
    (m) =>
      m.startsWith('"') || m.startsWith("'")
        ? `"${m.slice(1, -1).replace(/[^\n]/g, ' ')}"`
        : m.replace(/[^\n]/g, ' '),
  );
}

/** Where the bracket that opens at `from` closes, in a blanked text; -1: nowhere. */
export function closing(bare: string, from: number): number {
  const [open, close] = [bare[from]!, { '(': ')', '{': '}', '[': ']' }[bare[from]!]];
  let depth = 0;
  for (let i = from; i < bare.length; i++) {
    if (bare[i] === open) depth++;
    else if (bare[i] === close && --depth === 0) return i;
  }
  return -1;
}

/** The inside of the layer's metadata; null where it has none. */
export function headOf(bare: string): Span | null {
  const open = /^\s*\(/.exec(bare);
  if (!open) return null;
  const end = closing(bare, open[0].length - 1);
  return end < 0 ? null : [open[0].length, end];
}

/** All prims of a layer, outer ones before those in them. `text`: one character a byte; `bare`: the same, blanked. */
export function primsOf(text: string, bare = blanked(text)): UsdPrim[] {
  const prims: UsdPrim[] = [];
  const open: { prim: number | null; inVariant: boolean }[] = [];
  const token = /\b(def|over|class)\b\s+(?:([A-Za-z_][\w:]*)\s*)?"|\bvariantSet\b|[{}]/g;
  token.lastIndex = headOf(bare)?.[1] ?? 0;
  let isVariants = false;
  for (let m = token.exec(bare); m; m = token.exec(bare)) {
    const around = open.at(-1);
    const outer = around ?? { prim: null, inVariant: false };
    if (m[0] === '}') open.pop();
    else if (m[0] === '{') {
      open.push({ prim: outer.prim, inVariant: outer.inVariant || isVariants });
      isVariants = false;
    } else if (m[0] === 'variantSet') isVariants = true;
    else {
      const from = token.lastIndex;
      const to = bare.indexOf('"', from);
      const prim = to < 0 ? null : primAt(text, bare, m, [from, to]);
      if (!prim) break;
      const parent = outer.prim === null ? null : prims[outer.prim]!;
      prims.push({
        ...prim,
        path: `${parent?.path ?? ''}/${prim.name}`,
        parent: outer.prim,
        inVariant: outer.inVariant,
      });
      open.push({ prim: prims.length - 1, inVariant: outer.inVariant });
      token.lastIndex = prim.body[0];
    }
  }
  return prims;
}

function primAt(text: string, bare: string, m: RegExpExecArray, nameAt: Span) {
  let at = nameAt[1] + 1;
  const skip = () => {
    while (/\s/.test(bare[at] ?? '')) at++;
  };
  skip();
  let meta: Span | null = null;
  if (bare[at] === '(') {
    const end = closing(bare, at);
    if (end < 0) return null;
    meta = [at + 1, end];
    at = end + 1;
    skip();
  }
  if (bare[at] !== '{') return null;
  const end = closing(bare, at);
  if (end < 0) return null;
  return {
    specifier: m[1] as UsdPrim['specifier'],
    type: m[2] ?? '',
    name: text.slice(...nameAt),
    span: [m.index, end + 1] as const,
    nameAt,
    meta,
    body: [at + 1, end] as const,
  };
}

/** What a prim says itself, without the prims in it: as many characters as its body, theirs blank. */
export function ownText(text: string, prims: readonly UsdPrim[], n: number): string {
  const [from, to] = prims[n]!.body;
  let out = '';
  let at = from;
  for (const p of prims) {
    if (p.parent !== n || p.span[0] < at) continue;
    out += text.slice(at, p.span[0]) + text.slice(...p.span).replace(/[^\n]/g, ' ');
    at = p.span[1];
  }
  return out + text.slice(at, to);
}

/** A path in a prim's words, from the top: '../Brass' in /World/Lamp is /World/Brass. */
export function fullPrimPath(written: string, prim: string): string {
  if (written.startsWith('/')) return written;
  const parts = prim.split('/').filter((p) => p !== '');
  let rest = written;
  while (rest.startsWith('..')) {
    parts.pop();
    rest = rest.slice(2).replace(/^\//, '');
  }
  if (rest === '' || rest.startsWith('.')) return `/${parts.join('/')}${rest}`;
  return `/${[...parts, rest].join('/')}`;
}

/** The prim that a path leads to, without its property. */
export const primPart = (path: string): string => /^[^.{[]*/.exec(path)![0];
