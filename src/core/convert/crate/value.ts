// What a value of a USD crate file is, as far as text has forms of its own for it, and dictionaries as text.

import { keyOf, Unsayable } from './words';

export interface ListOp {
  explicit: string[] | null;
  added: string[];
  prepended: string[];
  appended: string[];
  deleted: string[];
  ordered: string[];
}

/** A value: `text` for what stands in one piece, with the name of its type in text; else what it is made of. */
export type Value =
  | { is: 'text'; type: string; text: string }
  | { is: 'tokens'; names: string[] }
  | { is: 'strings'; bytes: Uint8Array[] }
  | { is: 'list'; of: string; op: ListOp }
  | { is: 'dictionary'; entries: [key: string, value: Value][] }
  | { is: 'samples'; samples: [time: string, value: Value][] }
  | { is: 'variants'; chosen: [set: string, variant: Uint8Array][] }
  | { is: 'offsets'; offsets: [offset: string, scale: string][] }
  | { is: 'relocates'; from: [string, string][] }
  | { is: 'unregistered'; text: string }
  | { is: 'enum'; number: number }
  | { is: 'block' };

/** A list of changes that changes nothing. */
export const nothing = (): ListOp => ({
  explicit: null,
  added: [],
  prepended: [],
  appended: [],
  deleted: [],
  ordered: [],
});

/** A dictionary as text, its lines behind `indent`. Throws Unsayable for what a dictionary in text cannot hold. */
export function dictionary(entries: readonly (readonly [string, Value])[], indent: string): string {
  if (entries.length === 0) return '{\n' + indent + '}';
  const lines = entries.map(([key, value]) => {
    if (value.is === 'dictionary')
      return `${indent}    dictionary ${keyOf(key)} = ${dictionary(value.entries, `${indent}    `)}`;
    if (value.is !== 'text') throw new Unsayable(`The dictionary entry ${key} has no form in text.`);
    return `${indent}    ${value.type} ${keyOf(key)} = ${value.text}`;
  });
  return `{\n${lines.join('\n')}\n${indent}}`;
}
