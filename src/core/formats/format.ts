// What a scene format must say about itself. A format is a value, not a class: export const mtl: Format = { … }.
// A reader finds references and where they stand; it resolves nothing and never throws on bad input.

import type { ByteRange } from '../files/fileTree';
import type { Problem, Span } from '../problem';
import type { TextEncoding } from '../text/bytes';
import type { Edit } from '../text/edits';

export type FormatId =
  | 'gltf'
  | 'glb'
  | 'obj'
  | 'mtl'
  | 'usda'
  | 'usdc'
  | 'usdz'
  | 'mtlx'
  | 'dae'
  | 'x3d'
  | 'x3dv'
  | 'ply'
  | '3mf'
  | 'otio'
  | 'zae'
  | 'otioz';

/** How a written path is to be understood: as a URI reference (RFC 3986), as a plain name, or as a USD asset path (a plain name with arguments). */
export type Syntax = 'uri' | 'native' | 'usd';

export type ReferenceKind =
  'texture' | 'cache' | 'scene' | 'material' | 'buffer' | 'audio' | 'video' | 'font' | 'other';

/** A pointer from a scene file to another file, as it stands there. */
export interface Reference {
  /** Where, in the format's own terms: '/images/3/uri', 'newmtl oak / map_Kd'. */
  at: string;
  kind: ReferenceKind;
  /** Decoded from the format's escapes, otherwise untouched. */
  written: string;
  /** Bytes of the encoded value, quotes left out; null where the value does not stand in the file as text. */
  span: Span | null;
  /** How the old value was encoded, so that a new one is written alike. */
  encoding: TextEncoding;
  /** True where the format has no rule for this place, only the look of the value speaks for a reference. */
  uncertain?: boolean;
  /** Where this place differs from its format's syntax. */
  syntax?: Syntax;
  /** Text that the format puts in front of the value before it is resolved, as it is. */
  prefix?: string;
  /** Text that follows the value before it is resolved: a sequence's name behind its folder. */
  suffix?: string;
  /** Frames a sequence is said to have: first, last, step. */
  frames?: readonly [first: number, last: number, step: number];
  /** References with one number are alternatives: the first that is found is used, the others are not needed. */
  choice?: number;
  /** What is around the value, where encoding depends on it; in the format's own terms. */
  quoting?: string;
}

/** All that is resolved of a reference: the value with what its format puts before and behind it. */
export function fullPath(r: Pick<Reference, 'written' | 'prefix' | 'suffix'>): string {
  return `${r.prefix ?? ''}${r.written}${r.suffix ?? ''}`;
}

/** What a reader found. References in file order. */
export interface Reading {
  references: Reference[];
  problems: Problem[];
  /** Other readings of the same bytes: where `reference` names an existing file, it stands instead of those at the indexes. */
  otherReadings?: { reference: Reference; instead: readonly number[] }[];
  /** For formats in which a value is no span of the file: the edits that give references, by `at`, new full paths; null where it cannot be said. */
  rewrite?(changes: readonly { at: string; value: string }[]): Edit[] | null;
}

export interface Format {
  id: FormatId;
  /** For people: 'glTF (text)'. */
  name: string;
  extensions: readonly string[];
  syntax: Syntax;
  /** True for a package: a relative path in it means what lies in it, and one that leads out of it opens nowhere, so none is written that did not lead there before. */
  sealed?: boolean;
  /** Whether relative paths that are not found beside the file are looked for along a search path: never, always, or unless they begin with ./ or ../ */
  searches?: 'always' | 'unanchored';
  /** True when the first bytes (at least 64 of them, where the file has as many) look like this format. */
  sniff(head: Uint8Array): boolean;
  /** True: the file may be wrapped in gzip as a whole, and is then read and not rewritten. */
  mayBeGzip?: boolean;
  /** How many leading bytes hold every reference; absent: all of them. `head` is at least 64 bytes where the file has as many. */
  needs?(head: Uint8Array, size: number): number;
  /** True: the file may be read in parts cut at line ends, offsets being added by the caller. */
  byLines?: boolean;
  /** For formats whose references lie anywhere in the file: used instead of `read`, and asks for the bytes it needs. */
  readParts?(read: (range: ByteRange) => Promise<Uint8Array>, size: number): Promise<Reading>;
  /** Finds the references. `size` is that of the whole file in bytes, of which `bytes` may be the beginning. */
  read(bytes: Uint8Array, size?: number): Reading;
  /** Bytes for a new full path at a reference (prefix and suffix included); null where this format cannot say it here. */
  encode(value: string, at: Reference): Uint8Array | null;
  /** Further edits that the given ones make necessary (lengths, padding). `bytes` is what `read` was given. */
  settle?(bytes: Uint8Array, edits: readonly Edit[]): Edit[];
}
