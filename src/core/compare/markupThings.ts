// What is in a scene written as XML: COLLADA, MaterialX, X3D. An element that is a thing of its own (by its name, or by having one) takes the facts of
// what is in it and is no thing.

import { decodeMarkup, eachMarkup, localName, openMarkup, type Attribute } from '../formats/markup';
import { hashText, type Hasher } from './hasher';
import type { Thing, ThingKind } from './things';

const longest = 72;

/** Elements that are things, by their local names. Sources: COLLADA 1.4.1 and 1.5 schema; X3D (ISO/IEC 19775-1); MaterialX 1.39 specification. */
const kinds: Record<string, ThingKind> = {
  asset: 'scene',
  node: 'node',
  visual_scene: 'node',
  geometry: 'mesh',
  controller: 'mesh',
  material: 'material',
  effect: 'material',
  image: 'texture',
  animation: 'animation',
  camera: 'camera',
  light: 'light',
  Transform: 'node',
  Group: 'node',
  Switch: 'node',
  LOD: 'node',
  Inline: 'node',
  Shape: 'mesh',
  Appearance: 'material',
  Material: 'material',
  PhysicalMaterial: 'material',
  ImageTexture: 'texture',
  PixelTexture: 'texture',
  MovieTexture: 'texture',
  Viewpoint: 'camera',
  OrthoViewpoint: 'camera',
  DirectionalLight: 'light',
  PointLight: 'light',
  SpotLight: 'light',
  TimeSensor: 'animation',
  PositionInterpolator: 'animation',
  OrientationInterpolator: 'animation',
  CoordinateInterpolator: 'animation',
  ScalarInterpolator: 'animation',
  unit: 'scene',
};

interface Open {
  name: string;
  thing: (Thing & { facts: Map<string, string> }) | null;
  /** Where it stands below the thing that it belongs to. */
  way: string;
  counts: Map<string, number>;
  text: string;
}

/** The things of a file in XML. `isMaterials`: MaterialX, where every element with a name is one. */
export function markupThings(bytes: Uint8Array, start: Hasher, isMaterials: boolean): Thing[] {
  const m = openMarkup(bytes);
  const things: Thing[] = [];
  const root: Open = { name: '', thing: null, way: '', counts: new Map(), text: '' };
  const open: Open[] = [root];
  const short = (text: string) => {
    const one = text.replace(/\s+/g, ' ').trim();
    if (one.length <= longest) return one;
    return `${one.split(' ').length} values, ${hashText(start, one)}`;
  };
  const owner = () => open.findLast((o) => o.thing !== null)?.thing ?? null;
  const valueOf = (a: Attribute) => decodeMarkup(m, a.from, a.to, false).text;
  eachMarkup(m, {
    open(full, attributes) {
      const name = localName(full);
      const parent = open.at(-1)!;
      const nth = (parent.counts.get(name) ?? 0) + 1;
      parent.counts.set(name, nth);
      const said = new Map(attributes.map((a) => [a.name, valueOf(a)]));
      const called = said.get('name') ?? said.get('id') ?? said.get('DEF');
      const kind = isMaterials ? materialKind(name, called) : kinds[name];
      const way = `${parent.way}${parent.way === '' ? '' : '/'}${name}${nth > 1 ? ` ${nth}` : ''}`;
      const id = said.get('id') ?? said.get('DEF') ?? called;
      const thing =
        kind === undefined
          ? null
          : {
              kind,
              key: id ?? pathOf(open, name, nth),
              name: called ?? pathOf(open, name, nth),
              facts: new Map<string, string>(),
            };
      const facts = thing?.facts ?? owner()?.facts;
      for (const [key, value] of said)
        if (!/^(?:id|name|DEF|xmlns.*|xsi:.*)$/.test(key) || thing === null)
          facts?.set(thing ? key : `${way} ${key}`, short(value));
      if (thing) things.push(thing);
      open.push({ name, thing, way: thing ? '' : way, counts: new Map(), text: '' });
    },
    close() {
      const done = open.pop()!;
      const text = short(done.text);
      if (text === '') return;
      if (done.thing) done.thing.facts.set('text', text);
      else owner()?.facts.set(done.way, text);
    },
    text(from, to, cdata) {
      const now = open.at(-1)!;
      if (now !== root) now.text += decodeMarkup(m, from, to, cdata).text;
    },
  });
  return things;
}

function materialKind(name: string, called: string | undefined): ThingKind | undefined {
  if (called === undefined || name === 'input' || name === 'output' || name === 'parameter') return undefined;
  return name === 'image' || name === 'tiledimage' ? 'texture' : 'material';
}

/** Where an element without a name stands. */
function pathOf(open: readonly Open[], name: string, nth: number): string {
  const above = open.findLast((o) => o.thing !== null)?.thing;
  return `${above && above.kind === 'node' ? `${above.name}/` : ''}${name}${nth > 1 ? ` ${nth}` : ''}`;
}
