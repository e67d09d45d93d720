// What chosen prims of a USD text stand on: materials they are bound to, classes they inherit, prims their relationships and connections lead to, each with all
// below it. Source: OpenUSD, relationships, connections and inherits by path; UsdShadeMaterialBindingAPI (a binding holds for all below it).

import { closing, fullPrimPath, ownText, primPart, type UsdPrim } from '../documents/usdPrims';
import { identity, times, type Matrix } from '../units/matrix';
import { numbersIn, opsIn, placedByOps } from '../units/usdXform';
import type { SceneNode } from './sceneNodes';

/** A USD text taken apart. */
export interface UsdText {
  /** One character a byte, and the same with strings and comments blank. */
  text: string;
  bare: string;
  prims: readonly UsdPrim[];
}

/** A prim that comes along with all below it. */
export interface UsdRoot {
  prim: UsdPrim;
  level: number;
  /** Paths of the roots that need it; empty: it was chosen. */
  neededBy: string[];
}

/** A path in the words of a prim that comes along. */
export interface PathAt {
  /** Between < and >. */
  span: readonly [number, number];
  /** From the top. */
  to: string;
  owner: string;
}

export interface UsdNeeds {
  roots: Map<string, UsdRoot>;
  paths: PathAt[];
  /** Paths that lead to what stands above the prims, or nowhere. */
  left: { owner: string; to: string }[];
  /** By root: the material that something above it binds, where it binds none itself. */
  inherited: Map<string, string>;
}

export function usdNodes({ prims }: UsdText): SceneNode[] {
  return prims
    .filter((p) => !p.inVariant)
    .map((p) => ({
      id: p.path,
      name: p.name,
      path: p.path.slice(1),
      parent: p.parent === null ? null : prims[p.parent]!.path,
      kind: p.type === '' ? p.specifier : p.type,
    }));
}

const isBelow = (path: string, root: string) => path === root || path.startsWith(`${root}/`);

/** Follows everything. `stops`: paths of which nothing is followed. */
export function usdNeeds(
  usd: UsdText,
  chosen: readonly string[],
  stops: ReadonlySet<string> = new Set(),
): UsdNeeds {
  const { prims } = usd;
  const byPath = new Map(prims.filter((p) => !p.inVariant).map((p) => [p.path, p]));
  const found: UsdNeeds = { roots: new Map(), paths: [], left: [], inherited: new Map() };
  const waiting: UsdRoot[] = [];
  const need = (prim: UsdPrim, by: UsdRoot | null) => {
    const known = found.roots.get(prim.path);
    if (known) {
      if (by && !known.neededBy.includes(by.prim.path)) known.neededBy.push(by.prim.path);
      return;
    }
    const root: UsdRoot = { prim, level: by ? by.level + 1 : 0, neededBy: by ? [by.prim.path] : [] };
    found.roots.set(prim.path, root);
    if (!stops.has(prim.path)) waiting.push(root);
  };
  /** The prim that has to come for a path: a material with all of it, else the prim itself. */
  const comesFor = (path: string): UsdPrim | undefined => {
    const prim = byPath.get(path);
    for (let at = prim; at; at = at.parent === null ? undefined : prims[at.parent])
      if (at.type === 'Material') return at;
    return prim;
  };
  for (const path of chosen) {
    const prim = byPath.get(path);
    if (prim) need(prim, null);
  }
  for (let i = 0; i < waiting.length; i++) {
    const root = waiting[i]!;
    const { prim } = root;
    if (prim.type !== 'Material' && !bindingOf(usd, prim)) {
      const binding = bindingAbove(usd, prim);
      const material = binding === null ? undefined : comesFor(binding);
      if (material) {
        found.inherited.set(prim.path, binding!);
        need(material, root);
      }
    }
    for (const at of pathsIn(usd, prim)) {
      found.paths.push(at);
      const target = primPart(at.to);
      if (isBelow(target, prim.path)) continue;
      const other = comesFor(target);
      if (!other || isBelow(prim.path, other.path)) found.left.push({ owner: at.owner, to: at.to });
      else if (![...found.roots.keys()].some((r) => isBelow(other.path, r))) need(other, root);
    }
  }
  // What comes along within another comes once.
  for (const path of [...found.roots.keys()])
    if ([...found.roots.keys()].some((r) => r !== path && isBelow(path, r))) found.roots.delete(path);
  return found;
}

/** Paths between < and > in a prim and all below it, as they lead from the top. */
function pathsIn({ bare, text, prims }: UsdText, prim: UsdPrim): PathAt[] {
  const inside = prims.filter((p) => isBelow(p.path, prim.path));
  const found: PathAt[] = [];
  for (const m of bare.slice(...prim.span).matchAll(/<([^<>\n]*)>/g)) {
    const from = prim.span[0] + m.index + 1;
    const owner = inside.findLast((p) => from >= p.span[0] && from < p.span[1])!;
    const written = text.slice(from, from + m[1]!.length);
    if (written !== '')
      found.push({
        span: [from, from + written.length],
        to: fullPrimPath(written, owner.path),
        owner: owner.path,
      });
  }
  return found;
}

/** The material a prim itself binds for all purposes; null: none. */
function bindingOf(usd: UsdText, prim: UsdPrim): string | null {
  const own = ownText(usd.bare, usd.prims, usd.prims.indexOf(prim));
  const m = /\brel\s+material:binding\s*=\s*<([^<>\n]*)>/.exec(own);
  return m ? fullPrimPath(m[1]!, prim.path) : null;
}

function bindingAbove(usd: UsdText, prim: UsdPrim): string | null {
  for (let at = prim.parent; at !== null; at = usd.prims[at]!.parent) {
    const found = bindingOf(usd, usd.prims[at]!);
    if (found !== null) return primPart(found);
  }
  return null;
}

/** Where a prim stands below its parent. `isMoved`: it says so for several times; then the first counts. */
export function usdLocal(usd: UsdText, n: number): { matrix: Matrix; isMoved: boolean; isReset: boolean } {
  // Names of operations are strings, which are blank in `bare`.
  const own = ownText(usd.text, usd.prims, n);
  const list = /\bxformOpOrder\s*=\s*\[([^\]]*)\]/.exec(own)?.[1];
  if (list === undefined) return { matrix: identity, isMoved: false, isReset: false };
  const values = new Map<string, number[]>();
  let isMoved = false;
  for (const m of own.matchAll(/\b(xformOp:[\w:]+)(\.timeSamples)?\s*=\s*(\{\s*[-+\d.eE]+\s*:\s*)?/g)) {
    if (m[2] !== undefined) isMoved = true;
    if (m[2] === undefined || !values.has(m[1]!)) values.set(m[1]!, numbersIn(own, m.index + m[0].length));
  }
  const ops = opsIn(list);
  return { matrix: placedByOps(ops, values), isMoved, isReset: ops.includes('!resetXformStack!') };
}

/** Where what stands above a prim stands in the world, and which of it moves. */
export function usdAbove(usd: UsdText, parent: number | null): { matrix: Matrix; moved: string[] } {
  let matrix = identity;
  const moved: string[] = [];
  for (let at = parent; at !== null; at = usd.prims[at]!.parent) {
    const local = usdLocal(usd, at);
    matrix = times(local.matrix, matrix);
    if (local.isMoved) moved.push(usd.prims[at]!.path);
    if (local.isReset) break;
  }
  return { matrix, moved };
}

/** A number in the layer's metadata. */
export function layerNumber({ text, bare }: UsdText, key: string): number | null {
  const open = bare.indexOf('(');
  const brace = bare.indexOf('{');
  if (open < 0 || (brace >= 0 && brace < open)) return null;
  const head = bare.slice(open, closing(bare, open));
  const m = new RegExp(`\\b${key}\\s*=\\s*([-+\\d.eE]+)`).exec(head);
  return m
    ? Number(text.slice(open + m.index + m[0].length - m[1]!.length, open + m.index + m[0].length))
    : null;
}
