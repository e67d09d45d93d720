// An X3D scene as what it comes to: prototypes put in place (ISO/IEC 19775-1, 4.4.4), each USE the node it names. What runs (scripts, routes) does not run.

import { NotConvertible, type Item, type Node3d, type Part, type SceneOf3d, type Value } from './model';

/** A node with the values of its fields; several places may hold the same one. */
export interface Plain3d {
  type: string;
  /** What DEF names it; empty: nothing. */
  name: string;
  fields: ReadonlyMap<string, PlainValue>;
}
export interface PlainValue {
  words: string;
  strings: readonly string[];
  nodes: readonly Plain3d[];
}

// Prototypes in prototypes grow without end from a few lines.
const mostNodes = 500_000;
const mostDepth = 60;

/** The nodes at the top of a scene. `outside`: names of prototypes that lie in other files, which are left out. Throws NotConvertible. */
export function expand(scene: SceneOf3d): { nodes: Plain3d[]; outside: string[] } {
  const expander = new Expander();
  const nodes = expander.body(scene.body, new Frame(null, new Map(), 0));
  return { nodes, outside: [...expander.outside] };
}

type Proto = Extract<Item, { is: 'proto' }>;

/** What names mean in a scene or in the body of a prototype. */
class Frame {
  readonly protos = new Map<string, { proto: Proto | null; frame: Frame }>();
  readonly named = new Map<string, Plain3d>();

  constructor(
    private readonly outer: Frame | null,
    /** Values of the fields of the prototype this is the body of. */
    readonly values: ReadonlyMap<string, PlainValue>,
    readonly depth: number,
  ) {}

  protoOf(name: string): { proto: Proto | null; frame: Frame } | undefined {
    return this.protos.get(name) ?? this.outer?.protoOf(name);
  }
}

class Expander {
  readonly outside = new Set<string>();
  private made = 0;

  body(items: readonly Item[], frame: Frame): Plain3d[] {
    return items.flatMap((item) => {
      if (item.is !== 'node') {
        this.declare(item, frame);
        return [];
      }
      return this.node(item, frame) ?? [];
    });
  }

  private declare(item: Item | Part, frame: Frame): void {
    if (item.is === 'proto') frame.protos.set(item.name, { proto: item, frame });
    else if (item.is === 'extern') frame.protos.set(item.name, { proto: null, frame });
  }

  private node(node: Node3d, frame: Frame): Plain3d | null {
    if (node.use !== null) return frame.named.get(node.use) ?? null;
    if (++this.made > mostNodes)
      throw new NotConvertible('Its prototypes stand for more nodes than can be shown.');
    const known = frame.protoOf(node.type);
    const plain = known ? this.instance(node, known, frame) : this.plain(node, frame);
    if (node.def !== null && plain) frame.named.set(node.def, plain);
    return plain;
  }

  private plain(node: Node3d, frame: Frame): Plain3d {
    const fields = new Map<string, PlainValue>();
    const plain = { type: node.type, name: node.def ?? '', fields };
    for (const part of node.parts) this.part(part, frame, (name, value) => fields.set(name, value));
    return plain;
  }

  private part(part: Part, frame: Frame, keep: (name: string, value: PlainValue) => void): void {
    if (part.is === 'field') keep(part.name, this.value(part.value, frame));
    else if (part.is === 'connect') {
      const value = frame.values.get(part.proto);
      if (value) keep(part.name, value);
    } else this.declare(part as Item, frame);
  }

  /** What an instance of a prototype is: the first node of its body. */
  private instance(
    node: Node3d,
    { proto, frame: declaredIn }: { proto: Proto | null; frame: Frame },
    frame: Frame,
  ): Plain3d | null {
    if (!proto) {
      this.outside.add(node.type);
      return null;
    }
    if (frame.depth >= mostDepth) throw new NotConvertible('Its prototypes stand in each other without end.');
    const values = new Map<string, PlainValue>();
    for (const field of proto.interface)
      if (field.is === 'declared' && field.value) values.set(field.name, this.value(field.value, declaredIn));
    for (const part of node.parts) this.part(part, frame, (name, value) => values.set(name, value));
    const inner = new Frame(declaredIn, values, frame.depth + 1);
    const [first] = this.body(proto.body, inner);
    return first ? { ...first, name: node.def ?? node.type } : null;
  }

  private value({ words, strings, nodes }: Value, frame: Frame): PlainValue {
    return {
      words,
      strings,
      nodes: nodes.flatMap((n) => (n?.is === 'node' ? (this.node(n, frame) ?? []) : [])),
    };
  }
}
