// An X3D scene as both its encodings say it. Numbers stay the words they were written with.

import type { FieldType } from '../../formats/x3dTypes';

export interface SceneOf3d {
  version: string;
  profile: string;
  components: { name: string; level: string }[];
  units: { category: string; name: string; factor: string }[];
  metas: { name: string; content: string }[];
  body: Item[];
}

export interface Comment3d {
  is: 'comment';
  text: string;
}

export type Item =
  | Node3d
  | Comment3d
  | { is: 'proto'; name: string; interface: (Declared | Comment3d)[]; body: Item[] }
  | { is: 'extern'; name: string; interface: (Declared | Comment3d)[]; url: string[] }
  | { is: 'route'; from: string; fromField: string; to: string; toField: string }
  | { is: 'import'; inline: string; name: string; as: string }
  | { is: 'export'; name: string; as: string };

export interface Node3d {
  is: 'node';
  type: string;
  /** Whether the type is one that the scene declares. */
  ofProto: boolean;
  def: string | null;
  use: string | null;
  parts: Part[];
}

export type Part =
  | { is: 'field'; name: string; value: Value }
  | { is: 'connect'; name: string; proto: string }
  | Declared
  | Exclude<Item, Node3d>;

/** A field that a script, a shader or a prototype declares; `connect`: the field of the prototype it stands for. */
export interface Declared {
  is: 'declared';
  access: string;
  type: FieldType;
  name: string;
  value: Value | null;
  connect: string | null;
}

export interface Value {
  type: FieldType;
  /** Of numbers: their words; of booleans: TRUE and FALSE. */
  words: string;
  strings: string[];
  /** null: none of its kind. */
  nodes: (Node3d | Comment3d | null)[];
}

export const valueOf = (type: FieldType, parts: Partial<Value>): Value => ({
  type,
  words: '',
  strings: [],
  nodes: [],
  ...parts,
});

/** What keeps a scene from being written in the other encoding. */
export class NotConvertible extends Error {}

/** The types that a scene declares, by name, with their fields. Scopes lie in each other as prototypes do. */
export class Scope {
  readonly protos = new Map<string, ReadonlyMap<string, FieldType>>();
  /** What a DEF names: the type of node, to tell what a USE is. */
  readonly named = new Map<string, { type: string; ofProto: boolean }>();

  constructor(private readonly outer: Scope | null = null) {}

  protoOf(name: string): ReadonlyMap<string, FieldType> | undefined {
    return this.protos.get(name) ?? this.outer?.protoOf(name);
  }

  declare(name: string, fields: readonly (Declared | Comment3d)[]): void {
    this.protos.set(
      name,
      new Map(fields.flatMap((f) => (f.is === 'declared' ? [[f.name, f.type] as const] : []))),
    );
  }
}
