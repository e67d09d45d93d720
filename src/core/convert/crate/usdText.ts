// A USD crate file as USD text: every prim, property and value, numbers to the last bit. What text cannot say is refused by name; nothing is left out.
//
// Source: the text grammar and the schema of fields of OpenUSD 22 (pxr/usd/sdf), by which the result is read in the tests. Order of children as the file has it.

import { BadCrate } from '../../formats/crate';
import {
  Blocks,
  fieldsOf,
  readSpecs,
  readTables,
  repOf,
  tokenOf,
  type CrateSpec,
} from '../../formats/crateTables';
import { usdc } from '../../formats/usdc';
import { concat, utf8 } from '../../text/bytes';
import type { Refusal } from '../../documents/gltfText';
import { dictionary, type Value } from './value';
import { Values } from './values';
import { asset as assetOf, list, name, quoted, Unsayable } from './words';

type Fields = Map<string, Value>;

const specTypes = { attribute: 1, prim: 6, root: 7, relationship: 8, variant: 10, variantSet: 11 };
/** Versions that were tried; what later ones add is refused where it is met. */
const newest = 13;

/** The text, as UTF-8; or why there is none. */
export async function usdText(bytes: Uint8Array): Promise<Uint8Array | Refusal> {
  if (bytes.length < 88 || !usdc.sniff(bytes)) return { refused: 'It is no USD crate file.' };
  if (bytes[8] !== 0 || bytes[9]! < 4 || bytes[9]! > newest)
    return { refused: `USD crate version ${bytes[8]}.${bytes[9]} is not read.` };
  try {
    const layer = await Layer.of(bytes, bytes[9]!);
    return await layer.write();
  } catch (cause) {
    if (cause instanceof Unsayable) return { refused: `Text cannot say all of it: ${cause.message}` };
    if (cause instanceof BadCrate) return { refused: cause.message };
    // Offsets out of range, and texts longer than the engine holds.
    if (cause instanceof RangeError) return { refused: 'It is damaged, or too large to be written as text.' };
    throw cause;
  }
}

class Layer {
  private readonly parts: Uint8Array[] = [];
  private pending: string[] = [];
  private pendingSize = 0;

  private constructor(
    private readonly values: Values,
    private readonly specs: ReadonlyMap<string, CrateSpec>,
    private readonly fields: (spec: CrateSpec) => Iterable<readonly [string, DataView]>,
  ) {}

  static async of(bytes: Uint8Array, minor: number): Promise<Layer> {
    const b = new Blocks(async ([from, to]) => bytes.subarray(from, to), bytes.length);
    const t = await readTables(b);
    const all = await readSpecs(b, t);
    const reps = t.reps;
    const specs = new Map<string, CrateSpec>();
    for (const spec of all.specs) specs.set(all.paths.get(spec.path)?.path ?? '', spec);
    return new Layer(new Values(b, t, all.paths, minor), specs, function* (spec) {
      for (const n of fieldsOf(all, spec))
        yield [tokenOf(t, t.fieldNames[n]!), new DataView(reps.buffer, reps.byteOffset + 8 * n, 8)] as const;
    });
  }

  async write(): Promise<Uint8Array> {
    const root = this.specs.get('/');
    if (root?.type !== specTypes.root) throw new BadCrate('It has no root.', 0);
    const fields = await this.read('/', root);
    this.say('#usda 1.0\n');
    const head = layerHead(fields);
    if (head.length > 0) this.say(`(\n${head.map((l) => `    ${l}\n`).join('')})\n`);
    this.say('\n');
    const order = tokens(fields, 'primOrder');
    if (order) this.say(`reorder rootPrims = ${order}\n\n`);
    for (const child of names(fields, 'primChildren')) await this.prim(`/${child}`, child, '');
    this.flush();
    return concat(this.parts);
  }

  private say(text: string): void {
    this.pending.push(text);
    this.pendingSize += text.length;
    if (this.pendingSize > 4 * 1024 * 1024) this.flush();
  }

  private flush(): void {
    this.parts.push(utf8(this.pending.join('')));
    this.pending = [];
    this.pendingSize = 0;
  }

  private async read(path: string, spec: CrateSpec): Promise<Fields> {
    const fields: Fields = new Map();
    for (const [key, rep] of this.fields(spec))
      try {
        fields.set(key, await this.values.read(repOf(rep, 0)));
      } catch (cause) {
        if (cause instanceof Unsayable) throw new Unsayable(`${path}, ${key}. ${cause.message}`);
        throw cause;
      }
    return fields;
  }

  private async at(path: string): Promise<[CrateSpec, Fields]> {
    const spec = this.specs.get(path);
    if (!spec) throw new BadCrate(`${path} is named, and is not there.`, 0);
    return [spec, await this.read(path, spec)];
  }

  private async prim(path: string, named: string, indent: string): Promise<void> {
    const [, fields] = await this.at(path);
    const specifier = ['def', 'over', 'class'][number(fields, 'specifier') ?? 1];
    if (!specifier) throw new BadCrate(`${path} is of a kind that is not known.`, 0);
    const type = text(fields, 'typeName');
    const typed = type && type !== '""' ? ` ${type.slice(1, -1)}` : '';
    this.say(`${indent}${specifier}${typed} ${quoted(utf8(named))}`);
    this.head(primHead(fields, indent), indent, '\n');
    await this.body(path, fields, indent);
    this.say('\n');
  }

  private head(lines: readonly string[], indent: string, end: string): void {
    this.say(
      lines.length > 0 ? ` (\n${lines.map((l) => `${indent}    ${l}\n`).join('')}${indent})${end}` : end,
    );
  }

  private async body(path: string, fields: Fields, indent: string): Promise<void> {
    const inner = `${indent}    `;
    this.say(`${indent}{\n`);
    const primOrder = tokens(fields, 'primOrder');
    if (primOrder) this.say(`${inner}reorder nameChildren = ${primOrder}\n`);
    const propertyOrder = tokens(fields, 'propertyOrder');
    if (propertyOrder) this.say(`${inner}reorder properties = ${propertyOrder}\n`);
    for (const child of names(fields, 'properties')) await this.property(`${path}.${child}`, child, inner);
    const below = path.endsWith('}') ? path : `${path}/`;
    for (const child of names(fields, 'primChildren')) await this.prim(`${below}${child}`, child, inner);
    for (const set of names(fields, 'variantSetChildren')) {
      const [, variants] = await this.at(`${path}{${set}=}`);
      // One without variants says nothing, and has no form in text.
      if (names(variants, 'variantChildren').length === 0) continue;
      this.say(`${inner}variantSet ${quoted(utf8(set))} = {\n`);
      for (const one of names(variants, 'variantChildren')) {
        const at = `${path}{${set}=${one}}`;
        const [, inside] = await this.at(at);
        this.say(`${inner}    ${quoted(utf8(one))}`);
        this.head(primHead(inside, `${inner}    `), `${inner}    `, ' ');
        await this.body(at, inside, `${inner}    `);
      }
      this.say(`${inner}}\n`);
    }
    this.say(`${indent}}\n`);
  }

  private async property(path: string, named: string, indent: string): Promise<void> {
    const [{ type }, fields] = await this.at(path);
    name(utf8(named));
    if (type === specTypes.attribute) this.attribute(path, named, fields, indent);
    else if (type === specTypes.relationship) this.relationship(named, fields, indent);
    else throw new Unsayable(`${path} is of a kind that text does not have.`);
  }

  private attribute(path: string, named: string, fields: Fields, indent: string): void {
    const type = text(fields, 'typeName')?.slice(1, -1);
    if (!type) throw new Unsayable(`${path} has no type.`);
    const custom = flag(fields, 'custom') ? 'custom ' : '';
    const variability = ['', 'uniform ', 'config '][number(fields, 'variability') ?? 0] ?? '';
    const head = `${variability}${type} ${named}`;
    const lines = metadata(fields, attributeFields, indent);
    const value = fields.get('default');
    this.say(`${indent}${custom}${head}${value ? ` = ${valueText(value, type, path)}` : ''}`);
    this.head(lines, indent, '\n');
    const samples = fields.get('timeSamples');
    if (samples) {
      if (samples.is !== 'samples') throw new Unsayable(`${path} has samples of a kind that is not known.`);
      this.say(`${indent}${head}.timeSamples = {\n`);
      for (const [time, sample] of samples.samples)
        this.say(`${indent}    ${time}: ${valueText(sample, type, path)},\n`);
      this.say(`${indent}}\n`);
    }
    for (const line of listOp(fields.get('connectionPaths'), `${head}.connect`, false))
      this.say(`${indent}${line}\n`);
  }

  private relationship(named: string, fields: Fields, indent: string): void {
    const custom = flag(fields, 'custom') ? 'custom ' : '';
    // In text a relationship is uniform unless it is said otherwise; in crates it is the other way round.
    const head = `${number(fields, 'variability') === 1 ? '' : 'varying '}rel ${named}`;
    const lines = metadata(fields, relationshipFields, indent);
    const targets = fields.get('targetPaths');
    const explicit = targets?.is === 'list' ? targets.op.explicit : null;
    this.say(`${indent}${custom}${head}${explicit ? ` = ${list(explicit, true)}` : ''}`);
    this.head(lines, indent, '\n');
    if (!explicit) for (const line of listOp(targets, head, true)) this.say(`${indent}${line}\n`);
    const target = fields.get('default');
    if (target) throw new Unsayable(`The relationship ${named} has a value of its own.`);
  }
}

// Fields that have a place of their own, by what they stand on.
const layerFields = new Set(['primChildren', 'primOrder', 'subLayers', 'subLayerOffsets']);
const primFields = new Set([
  'specifier',
  'typeName',
  'primChildren',
  'properties',
  'primOrder',
  'propertyOrder',
  'variantSetChildren',
  'variantChildren',
]);
const attributeFields = new Set([
  'typeName',
  'custom',
  'variability',
  'default',
  'timeSamples',
  'connectionPaths',
  'connectionChildren',
]);
const relationshipFields = new Set(['custom', 'variability', 'targetPaths', 'targetChildren', 'default']);

/** Fields that text calls by another word. */
const wordOf: Record<string, string> = {
  documentation: 'doc',
  inheritPaths: 'inherits',
  variantSetNames: 'variantSets',
  variantSelection: 'variants',
  layerRelocates: 'relocates',
};

function layerHead(fields: Fields): string[] {
  const lines = metadata(fields, layerFields, '');
  const layers = fields.get('subLayers');
  if (layers && layers.is !== 'strings')
    throw new Unsayable('Its sublayers are of a kind that is not known.');
  if (layers) {
    const offsets = fields.get('subLayerOffsets');
    const each = layers.bytes.map((bytes, n) => {
      const [offset, scale] = (offsets?.is === 'offsets' && offsets.offsets[n]) || ['0', '1'];
      const inner = [
        offset === '0' ? '' : `offset = ${offset}`,
        scale === '1' ? '' : `scale = ${scale}`,
      ].filter((s) => s !== '');
      return `        ${assetOf(bytes)}${inner.length > 0 ? ` (${inner.join('; ')})` : ''}`;
    });
    lines.push(`subLayers = [\n${each.join(',\n')}\n    ]`);
  }
  return lines;
}

const primHead = (fields: Fields, indent: string) => metadata(fields, primFields, indent);

/** Metadata as lines, the comment first. */
function metadata(fields: Fields, own: ReadonlySet<string>, indent: string): string[] {
  const lines: string[] = [];
  const comment = text(fields, 'comment');
  if (comment !== null && comment !== '""') lines.push(comment);
  for (const [key, value] of fields)
    if (key !== 'comment' && !own.has(key))
      lines.push(...metadatum(wordOf[key] ?? key, value, `${indent}    `));
  return lines;
}

function metadatum(key: string, value: Value, indent: string): string[] {
  switch (value.is) {
    case 'text':
      return [`${key} = ${value.text}`];
    case 'unregistered':
      return [`${key} = ${value.text}`];
    case 'list':
      return listOp(value, key, true);
    case 'dictionary':
      return [`${key} = ${dictionary(value.entries, indent)}`];
    case 'tokens':
      return [`${key} = [${value.names.map((n) => quoted(utf8(n))).join(', ')}]`];
    case 'strings':
      return [`${key} = [${value.bytes.map(quoted).join(', ')}]`];
    case 'variants':
      return [
        `${key} = ${dictionary(
          value.chosen.map(([set, variant]) => [set, { is: 'text', type: 'string', text: quoted(variant) }]),
          indent,
        )}`,
      ];
    case 'relocates':
      return [`${key} = {\n${value.from.map(([a, b]) => `${indent}    ${a}: ${b},\n`).join('')}${indent}}`];
    case 'enum':
      if (key === 'permission') return [`permission = ${value.number === 1 ? 'private' : 'public'}`];
      throw new Unsayable(`${key} is a choice that text has no word for.`);
    case 'block':
      return [`${key} = None`];
    case 'samples':
    case 'offsets':
      throw new Unsayable(`${key} is of a kind that text has only elsewhere.`);
  }
}

/** A list of changes as statements: the whole list, or what is added, taken out and put in order. */
function listOp(value: Value | undefined, head: string, bare: boolean): string[] {
  if (!value) return [];
  if (value.is !== 'list') throw new Unsayable(`${head} is no list.`);
  const { op, of } = value;
  const one = bare && of !== 'token' && of !== 'string';
  if (op.explicit) return [`${head} = ${list(op.explicit, one)}`];
  return (
    [
      ['delete', op.deleted],
      ['add', op.added],
      ['prepend', op.prepended],
      ['append', op.appended],
      ['reorder', op.ordered],
    ] as const
  ).flatMap(([word, items]) => (items.length > 0 ? [`${word} ${head} = ${list(items, one)}`] : []));
}

/** Words of text types for the same numbers, and what they are numbers of: of `color3f[]`, `float3[]`. */
function plainType(type: string): string {
  const [, base = type, array = ''] = /^(.*?)(\[\])?$/.exec(type) ?? [];
  const role = /^(?:color|point|normal|vector|texCoord)([234])([dfh])$/.exec(base);
  const letters: Record<string, string> = { d: 'double', f: 'float', h: 'half' };
  if (role) return `${letters[role[2]!]}${role[1]}${array}`;
  return (base === 'frame4d' ? 'matrix4d' : base) + array;
}

/** A value of an attribute of a type. Throws Unsayable where the value is of another type: text would be read as the one that is declared. */
function valueText(value: Value, type: string, path: string): string {
  if (value.is === 'block') return 'None';
  if (value.is !== 'text') throw new Unsayable(`${path} holds what no attribute can hold in text.`);
  if (value.type !== plainType(type))
    throw new Unsayable(`${path} is declared as ${type}, and holds ${value.type}.`);
  return value.text;
}

const text = (fields: Fields, key: string): string | null => {
  const value = fields.get(key);
  return value?.is === 'text' ? value.text : null;
};
const number = (fields: Fields, key: string): number | null => {
  const value = fields.get(key);
  return value?.is === 'enum' ? value.number : null;
};
const flag = (fields: Fields, key: string): boolean => text(fields, key) === 'true';
const names = (fields: Fields, key: string): readonly string[] => {
  const value = fields.get(key);
  return value?.is === 'tokens' ? value.names : [];
};
const tokens = (fields: Fields, key: string): string | null => {
  const all = names(fields, key);
  return all.length > 0 ? `[${all.map((n) => quoted(utf8(n))).join(', ')}]` : null;
};
