// Reads X3D in XML. Source: ISO/IEC 19776-1 (X3D XML encoding), §4.3 and §5.

import { isElement, markupTree, type Element } from '../../formats/markupTree';
import {
  NotConvertible,
  Scope,
  valueOf,
  type Comment3d,
  type Declared,
  type Item,
  type Node3d,
  type Part,
  type SceneOf3d,
  type Value,
} from './model';
import { containerOf, isFieldType, nodeType, scripts, type FieldType } from '../../formats/x3dTypes';

/** The scene, and the names of what has no place in it. Throws NotConvertible. */
export function readXml(bytes: Uint8Array): { scene: SceneOf3d; left: string[] } {
  const root = treeOf(bytes);
  if (root.name !== 'X3D') throw new NotConvertible('It is no X3D scene: its outermost element is another.');
  return new Reader().scene(root);
}

function treeOf(bytes: Uint8Array): Element {
  const { top, problems } = markupTree(bytes);
  if (problems.length > 0) throw new NotConvertible(problems[0]!.message);
  const root = top.children.find(isElement);
  if (!root) throw new NotConvertible('It has no element.');
  // What stands around the outermost element is comments: they go into the scene.
  const around = top.children.filter((c) => 'comment' in c);
  root.children.push(...around);
  return root;
}

/** Attributes that belong to the encoding. */
const ofEncoding = new Set(['DEF', 'USE', 'containerField', 'name']);
const ofDocument = /^(?:xmlns|xsd:|xsi:|xml:|version$|profile$)/;

class Reader {
  private readonly left: string[] = [];

  scene(root: Element): { scene: SceneOf3d; left: string[] } {
    const scene: SceneOf3d = {
      version: root.attributes.get('version') ?? '3.0',
      profile: root.attributes.get('profile') ?? 'Full',
      components: [],
      units: [],
      metas: [],
      body: [],
    };
    for (const name of root.attributes.keys()) if (!ofDocument.test(name)) this.leave(root, name);
    const comments: Item[] = [];
    let body: Element | undefined;
    for (const child of root.children) {
      if ('comment' in child) comments.push({ is: 'comment', text: child.comment });
      else if ('text' in child) throw new NotConvertible('It has text where no text can stand.');
      else if (child.name === 'head') this.head(child, scene, comments);
      else if (child.name === 'Scene') body = child;
      else throw unknown(child);
    }
    scene.body = [...comments, ...(body ? this.items(body, new Scope()) : [])];
    return { scene, left: this.left };
  }

  private leave(element: Element, attribute: string): void {
    this.left.push(`${attribute} of ${element.attributes.get('DEF') ?? element.name}`);
  }

  private head(head: Element, scene: SceneOf3d, comments: Item[]): void {
    for (const child of head.children) {
      if ('comment' in child) comments.push({ is: 'comment', text: child.comment });
      if (!isElement(child)) continue;
      const get = (name: string) => child.attributes.get(name) ?? '';
      if (child.name === 'component') scene.components.push({ name: get('name'), level: get('level') });
      else if (child.name === 'unit')
        scene.units.push({ category: get('category'), name: get('name'), factor: get('conversionFactor') });
      else if (child.name === 'meta') {
        scene.metas.push({ name: get('name'), content: get('content') });
        for (const name of child.attributes.keys())
          if (name !== 'name' && name !== 'content') this.leave(child, name);
      } else throw unknown(child);
    }
  }

  private items(parent: Element, scope: Scope): Item[] {
    return parent.children.map((child): Item => {
      if ('comment' in child) return { is: 'comment', text: child.comment };
      if ('text' in child)
        throw new NotConvertible(`It has text in ${parent.name}, where no text can stand.`);
      return this.statement(child, scope) ?? this.node(child, scope);
    });
  }

  /** Anything but a node; null for a node. */
  private statement(e: Element, scope: Scope): Exclude<Item, Node3d> | null {
    const need = (name: string): string => {
      const value = e.attributes.get(name);
      if (value === undefined) throw new NotConvertible(`A ${e.name} does not say its ${name}.`);
      return value;
    };
    switch (e.name) {
      case 'ROUTE':
        return {
          is: 'route',
          from: need('fromNode'),
          fromField: need('fromField'),
          to: need('toNode'),
          toField: need('toField'),
        };
      case 'IMPORT': {
        const name = e.attributes.get('importedDEF') ?? need('exportedDEF');
        return { is: 'import', inline: need('inlineDEF'), name, as: e.attributes.get('AS') ?? name };
      }
      case 'EXPORT':
        return { is: 'export', name: need('localDEF'), as: e.attributes.get('AS') ?? need('localDEF') };
      case 'ProtoDeclare': {
        const name = need('name');
        const inner = new Scope(scope);
        let fields: (Declared | Comment3d)[] = [];
        let body: Item[] = [];
        for (const child of e.children) {
          if (!isElement(child)) continue;
          if (child.name === 'ProtoInterface') fields = this.fields(child, inner);
          else if (child.name === 'ProtoBody') body = this.items(child, inner);
          else throw unknown(child);
        }
        for (const a of e.attributes.keys()) if (a !== 'name') this.leave(e, a);
        scope.declare(name, fields);
        return { is: 'proto', name, interface: fields, body };
      }
      case 'ExternProtoDeclare': {
        const fields = this.fields(e, scope, false);
        scope.declare(need('name'), fields);
        for (const a of e.attributes.keys()) if (a !== 'name' && a !== 'url') this.leave(e, a);
        return { is: 'extern', name: need('name'), interface: fields, url: stringsOf(need('url')) };
      }
      default:
        return null;
    }
  }

  private fields(parent: Element, scope: Scope, values = true): (Declared | Comment3d)[] {
    return parent.children.flatMap((child): (Declared | Comment3d)[] => {
      if ('comment' in child) return [{ is: 'comment' as const, text: child.comment }];
      if ('text' in child) return [];
      if (child.name !== 'field') throw unknown(child);
      return [this.declared(child, scope, values)];
    });
  }

  private declared(e: Element, scope: Scope, values: boolean): Declared {
    const { attributes } = e;
    const type = attributes.get('type') ?? '';
    const name = attributes.get('name') ?? '';
    const access = attributes.get('accessType') ?? '';
    if (!isFieldType(type) || name === '' || !/^(?:initialize|input|output)Only$|^inputOutput$/.test(access))
      throw new NotConvertible(`A field does not say its name, type or access in words that are known.`);
    for (const a of attributes.keys())
      if (!['type', 'name', 'accessType', 'value'].includes(a)) this.leave(e, a);
    const holds = values && (access === 'initializeOnly' || access === 'inputOutput');
    return {
      is: 'declared',
      access,
      type,
      name,
      value: holds ? this.value(e, type, scope) : null,
      connect: null,
    };
  }

  /** What `value` or the nodes in an element say; what nothing says is the least of its type. */
  private value(e: Element, type: FieldType, scope: Scope): Value {
    const said = e.attributes.get('value');
    if (type.endsWith('Node')) {
      const nodes = this.nodes(e, scope);
      return valueOf(type, {
        nodes: type === 'SFNode' && nodes.every((n) => n?.is !== 'node') ? [null] : nodes,
      });
    }
    if (said === undefined) {
      // Source of a field may stand in it as text as well (X3D 4.0).
      const text = e.children.flatMap((c) => ('text' in c ? [c.text] : []));
      if (text.length > 0) return literal(type, text.join(''));
      if (type.startsWith('MF')) return valueOf(type, {});
      return type === 'SFString' ? valueOf(type, { strings: [''] }) : valueOf(type, { words: leastOf(type) });
    }
    return literal(type, said);
  }

  private nodes(e: Element, scope: Scope): Value['nodes'] {
    return e.children.flatMap((child): Value['nodes'] => {
      if ('comment' in child) return [{ is: 'comment' as const, text: child.comment }];
      return isElement(child) ? [this.node(child, scope)] : [];
    });
  }

  private node(e: Element, scope: Scope): Node3d {
    const ofProto = e.name === 'ProtoInstance';
    const type = ofProto ? (e.attributes.get('name') ?? '') : e.name;
    const fields = ofProto ? scope.protoOf(type) : nodeType(type)?.fields;
    if (!fields)
      throw new NotConvertible(
        ofProto
          ? `The prototype ${type} is not declared before it is used.`
          : `${type} is no node of X3D that is known here.`,
      );
    const def = e.attributes.get('DEF') ?? null;
    const use = e.attributes.get('USE') ?? null;
    const node: Node3d = { is: 'node', type, ofProto, def, use, parts: [] };
    for (const [name, said] of e.attributes) {
      const field = name === 'name' && ofProto ? undefined : fields.get(name);
      if (field && !ofProto && !field.endsWith('Node'))
        node.parts.push({ is: 'field', name, value: literal(field, said) });
      else if (!ofEncoding.has(name) || (name === 'name' && !ofProto)) this.leave(e, name);
    }
    if (use === null) this.children(e, node, fields, scope);
    return node;
  }

  private children(e: Element, node: Node3d, fields: ReadonlyMap<string, FieldType>, scope: Scope): void {
    const groups = new Map<string, Value['nodes']>();
    const connects = new Map<string, string>();
    let comments: string[] = [];
    const parts: Part[] = [];
    const source: string[] = [];
    for (const child of e.children) {
      if ('comment' in child) {
        comments.push(child.comment);
        continue;
      }
      if ('text' in child) {
        if (!scripts.has(node.type))
          throw new NotConvertible(`It has text in ${node.type}, where no text can stand.`);
        source.push(child.text);
        continue;
      }
      const flush = (into: (c: Comment3d) => void) => {
        for (const text of comments) into({ is: 'comment', text });
        comments = [];
      };
      if (child.name === 'IS') {
        for (const c of child.children)
          if (isElement(c))
            connects.set(c.attributes.get('nodeField') ?? '', c.attributes.get('protoField') ?? '');
        continue;
      }
      if (child.name === 'field' && scripts.has(node.type)) {
        flush((c) => parts.push(c));
        parts.push(this.declared(child, scope, true));
        continue;
      }
      if (child.name === 'fieldValue' && node.ofProto) {
        flush((c) => parts.push(c));
        const name = child.attributes.get('name') ?? '';
        const type = fields.get(name);
        if (!type) throw new NotConvertible(`The prototype ${node.type} declares no field ${name}.`);
        parts.push({ is: 'field', name, value: this.value(child, type, scope) });
        continue;
      }
      const statement = this.statement(child, scope);
      if (statement) {
        flush((c) => parts.push(c));
        parts.push(statement);
        continue;
      }
      const one = this.node(child, scope);
      const field = child.attributes.get('containerField') ?? this.place(child, node, fields);
      const type = fields.get(field);
      if (!type?.endsWith('Node'))
        throw new NotConvertible(`${node.type} has no field ${field} for ${one.type}.`);
      const group = groups.get(field) ?? [];
      if (type === 'SFNode' && group.some((n) => n?.is === 'node'))
        throw new NotConvertible(`${node.type} has two nodes as its ${field}.`);
      if (type === 'SFNode') flush((c) => parts.push(c));
      else flush((c) => group.push(c));
      group.push(one);
      if (!groups.has(field)) {
        groups.set(field, group);
        parts.push({ is: 'field', name: field, value: valueOf(type, { nodes: group }) });
      }
    }
    if (source.length > 0) {
      const url = node.parts.find((p) => p.is === 'field' && p.name === 'url');
      const text = source.join('').trimStart();
      if (url?.is === 'field') url.value.strings.push(text);
      else node.parts.push({ is: 'field', name: 'url', value: valueOf('MFString', { strings: [text] }) });
    }
    const own = new Set<string>();
    for (const p of parts)
      if (p.is === 'declared' && connects.has(p.name)) {
        p.connect = connects.get(p.name)!;
        p.value = null;
        own.add(p.name);
      }
    // A field that stands for one of the prototype has no value of its own.
    node.parts = node.parts.filter((p) => p.is !== 'field' || !connects.has(p.name));
    for (const [name, proto] of connects) if (!own.has(name)) node.parts.push({ is: 'connect', name, proto });
    node.parts.push(...parts, ...comments.map((text) => ({ is: 'comment' as const, text })));
  }

  /** Where a node goes that does not say it: a prototype where its parent has room for nodes. */
  private place(child: Element, node: Node3d, fields: ReadonlyMap<string, FieldType>): string {
    if (child.name !== 'ProtoInstance') return containerOf(child.name, node.type);
    if (fields.has('children')) return 'children';
    throw new NotConvertible(
      `An instance of ${child.attributes.get('name')} does not say which field of ${node.type} it is.`,
    );
  }
}

const unknown = (e: Element) => new NotConvertible(`${e.name} is no element of X3D that is known here.`);

/** The value of a type that nothing says. Source: ISO/IEC 19775-1, §5.3. */
function leastOf(type: FieldType): string {
  const zeros: Record<string, string> = {
    SFBool: 'FALSE',
    SFRotation: '0 0 1 0',
    SFTime: '-1',
    SFImage: '0 0 0',
    SFColor: '0 0 0',
    SFColorRGBA: '0 0 0 0',
    SFMatrix3f: '1 0 0 0 1 0 0 0 1',
    SFMatrix3d: '1 0 0 0 1 0 0 0 1',
    SFMatrix4f: '1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1',
    SFMatrix4d: '1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1',
  };
  const vector = /^SFVec([234])[fd]$/.exec(type);
  return vector ? Array<string>(Number(vector[1])).fill('0').join(' ') : (zeros[type] ?? '0');
}

function literal(type: FieldType, said: string): Value {
  if (type === 'SFString') return valueOf(type, { strings: [said] });
  if (type === 'MFString') return valueOf(type, { strings: stringsOf(said) });
  if (type.endsWith('Bool')) return valueOf(type, { words: said.toUpperCase().trim() });
  const words = said.trim();
  return valueOf(type, { words: type.startsWith('MF') ? words : words.split(/[\s,]+/).join(' ') });
}

/** The strings of a list: in quotes, `\"` and `\\` inside; a value without quotes is one. */
function stringsOf(said: string): string[] {
  const found = [...said.matchAll(/"((?:[^"\\]|\\[\s\S])*)"/g)].map((m) => m[1]!.replace(/\\(["\\])/g, '$1'));
  if (found.length > 0) return found;
  return said.trim() === '' ? [] : [said.trim()];
}
