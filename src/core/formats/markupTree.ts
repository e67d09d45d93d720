// XML as a tree, for what is read only.

import type { Problem } from '../problem';
import { decodeMarkup, eachMarkup, openMarkup } from './markup';

export interface Element {
  name: string;
  attributes: Map<string, string>;
  children: (Element | { comment: string } | { text: string })[];
}

export const isElement = (c: Element['children'][number]): c is Element => 'name' in c;

/** Everything in a file, under an element without a name. White space between elements is left out. */
export function markupTree(bytes: Uint8Array): { top: Element; problems: Problem[] } {
  const m = openMarkup(bytes);
  const top: Element = { name: '', attributes: new Map(), children: [] };
  const stack = [top];
  const problems = eachMarkup(m, {
    open(name, attributes) {
      // A line end in an attribute is a blank (XML 1.0 §3.3.3), but where it is written by its number.
      const said = new Map(attributes.map((a) => [a.name, decodeMarkup(m, a.from, a.to).text] as const));
      const element = { name, attributes: said, children: [] };
      stack.at(-1)!.children.push(element);
      stack.push(element);
    },
    close() {
      stack.pop();
    },
    text(from, to, cdata) {
      const { text } = decodeMarkup(m, from, to, cdata);
      if (cdata || text.trim() !== '') stack.at(-1)!.children.push({ text });
    },
    comment(from, to) {
      stack.at(-1)!.children.push({ comment: decodeMarkup(m, from, to, true).text });
    },
  });
  return { top, problems };
}
