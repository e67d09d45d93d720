// Elements of a MaterialX document that stand at its top, and which others each stands on. Source: MaterialX 1.39 Specification: nodename, nodegraph, nodedef and
// implementations name elements of the document; colorspace and fileprefix of the document hold for all in it.

import { decodeMarkup, eachMarkup, localName, openMarkup } from '../formats/markup';
import type { SceneNode } from './sceneNodes';

export interface MtlxElement extends SceneNode {
  /** Bytes of the whole element. */
  span: readonly [number, number];
  nameAt: readonly [number, number];
  /** Behind its first word: where an attribute can be put. */
  tagEnd: number;
  attributes: ReadonlyMap<string, string>;
  /** Names of elements it stands on, and where each is written; those inside it left out. */
  names: { name: string; span: readonly [number, number] }[];
  /** Kinds of nodes it uses, which a nodedef of the document may define. */
  uses: ReadonlySet<string>;
}

export interface MtlxText {
  elements: MtlxElement[];
  root: ReadonlyMap<string, string>;
  /** Where `</materialx>` begins; null: the document has no end that can be told. */
  end: number | null;
}

const pointing = new Set(['nodename', 'nodegraph', 'nodedef', 'material', 'look', 'inherit']);

/** Takes a document apart; null: it is no UTF-8 MaterialX that can be. */
export function readMtlx(bytes: Uint8Array): MtlxText | null {
  const m = openMarkup(bytes);
  if (m.width !== 1) return null;
  const elements: MtlxElement[] = [];
  const open: string[] = [];
  let root = new Map<string, string>();
  let now: (MtlxElement & { names: MtlxElement['names']; uses: Set<string> }) | null = null;
  let inner = new Set<string>();
  let end: number | null = null;
  const problems = eachMarkup(m, {
    open(full, attributes, from) {
      const name = localName(full);
      const said = new Map(attributes.map((a) => [a.name, decodeMarkup(m, a.from, a.to, false).text]));
      if (open.length === 0) root = said;
      else if (open.length === 1) {
        const called = attributes.find((a) => a.name === 'name');
        now = {
          id: said.get('name') ?? '',
          name: said.get('name') ?? '',
          path: said.get('name') ?? '',
          parent: null,
          kind: name,
          span: [from, from],
          nameAt: called ? [called.from, called.to] : [from, from],
          tagEnd: from + 1 + full.length,
          attributes: said,
          names: [],
          uses: new Set(),
        };
        inner = new Set();
      } else if (said.has('name')) inner.add(said.get('name')!);
      if (now) {
        now.uses.add(name);
        for (const a of attributes)
          if (pointing.has(a.name)) now.names.push({ name: said.get(a.name)!, span: [a.from, a.to] });
      }
      open.push(name);
    },
    close(_, from, to) {
      open.pop();
      if (open.length === 0) end = from;
      if (open.length !== 1 || !now) return;
      now.span = [now.span[0], to];
      // Names inside a graph mean what is in it.
      const own = inner;
      now.names = now.names.filter((n) => !own.has(n.name));
      elements.push(now);
      now = null;
    },
  });
  if (problems.length > 0) return null;
  return { elements: elements.filter((e) => e.name !== ''), root, end };
}

/** An element that comes along, and the names of those that stand on it; none: it was chosen. */
export interface MtlxNeed {
  element: MtlxElement;
  level: number;
  neededBy: string[];
}

/** Follows everything from the chosen names. `stops`: names of which nothing is followed. */
export function mtlxNeeds(
  { elements }: MtlxText,
  chosen: readonly string[],
  stops: ReadonlySet<string> = new Set(),
): Map<string, MtlxNeed> {
  const byName = new Map(elements.map((e) => [e.name, e]));
  const found = new Map<string, MtlxNeed>();
  const waiting: MtlxNeed[] = [];
  const need = (name: string, by: MtlxNeed | null) => {
    const element = byName.get(name);
    if (!element) return;
    const known = found.get(name);
    if (known) {
      if (by && !known.neededBy.includes(by.element.name)) known.neededBy.push(by.element.name);
      return;
    }
    const one = { element, level: by ? by.level + 1 : 0, neededBy: by ? [by.element.name] : [] };
    found.set(name, one);
    if (!stops.has(name)) waiting.push(one);
  };
  for (const name of chosen) need(name, null);
  for (let i = 0; i < waiting.length; i++) {
    const one = waiting[i]!;
    for (const { name } of one.element.names) need(name, one);
    // A kind of node that the document itself defines, and what that is made of.
    for (const e of elements) {
      const isDefinition = e.kind === 'nodedef' && one.element.uses.has(e.attributes.get('node') ?? '');
      const isMadeOf =
        one.element.kind === 'nodedef' &&
        (e.kind === 'nodegraph' || e.kind === 'implementation') &&
        e.attributes.get('nodedef') === one.element.name;
      if (isDefinition || isMadeOf) need(e.name, one);
    }
  }
  return found;
}
