// What a scene says of itself, as settings: how it is measured, its times, layers, surroundings, lights, cameras, colours, and what it takes to open it. Which format
// says what: glTF 2.0 §3 and its extensions for lights; OpenUSD layer metadata and UsdLux; COLLADA 1.4.1 §5 (asset, light, camera; frame rates stand in vendors'
// `extra`); X3D ISO/IEC 19775-1 (Background, Fog, layers, viewpoints); MaterialX 1.39 (colorspace, cms).

import { saysOf } from '../collect/says';
import type { Thing } from '../compare/things';
import { headOf, blanked } from '../documents/usdPrims';
import { listIn, parseObject, isObject, type Json } from '../documents/gltfText';
import type { FormatId } from '../formats/format';
import { decodeMarkup, eachMarkup, localName, openMarkup } from '../formats/markup';
import { latin1 } from '../text/bytes';
import { sceneUnits, sceneUnitText } from '../units/sceneUnits';
import type { Setting, SettingGroup } from './setting';

/** Settings of a scene. `things`: what is in it (compare/sceneThings). */
export function sceneSettings(format: FormatId, bytes: Uint8Array, things: readonly Thing[]): Setting[] {
  const found: Setting[] = [];
  const units = sceneUnits(format, bytes.subarray(0, 64 * 1024));
  if (units) {
    const by = { definition: ' (by its format)', file: '', default: ' (nothing said)', nobody: '' }[units.by];
    const text = sceneUnitText(units.metres);
    found.push({
      key: 'unit',
      group: 'measure',
      name: 'Unit',
      value: units.metres === null ? text : `${text}: 1 is ${units.metres} m${by}`,
      same: String(units.metres),
    });
    if (units.upAxis)
      found.push({
        key: 'up',
        group: 'measure',
        name: 'Up axis',
        value: `${units.upAxis}${by}`,
        same: units.upAxis,
      });
  }
  if (format === 'usda') found.push(...usdSettings(latin1(bytes)));
  if (format === 'gltf' || format === 'glb') found.push(...gltfSettings(format, bytes, things));
  if (format === 'dae' || format === 'x3d' || format === 'mtlx') found.push(...markupSettings(format, bytes));
  for (const kind of ['light', 'camera'] as const)
    for (const t of things)
      if (t.kind === kind) found.push(ofThing(t, kind === 'light' ? 'lights' : 'cameras'));
  const says = saysOf(format, bytes);
  if (says && format !== 'gltf' && format !== 'glb')
    for (const name of says.required)
      found.push({ key: `required ${name}`, group: 'required', name, value: 'required' });
  return found;
}

function ofThing(t: Thing, group: SettingGroup): Setting {
  const facts = [...t.facts].map(([k, v]) => `${k} ${v}`).join(', ');
  return { key: `${t.kind} ${t.key}`, group, name: t.name, value: facts || 'as its format has it' };
}

/** Layer metadata that is a setting, in the order it is shown. */
const usdKeys: readonly (readonly [key: string, group: SettingGroup, name: string, usual: string | null])[] =
  [
    ['timeCodesPerSecond', 'time', 'Time codes a second', '24'],
    ['framesPerSecond', 'time', 'Frames a second', '24'],
    ['startTimeCode', 'time', 'First time code', null],
    ['endTimeCode', 'time', 'Last time code', null],
    ['defaultPrim', 'layers', 'Default prim', null],
    ['colorConfiguration', 'colour', 'Colour configuration', null],
    ['colorManagementSystem', 'colour', 'Colour management', null],
    ['renderSettingsPrimPath', 'colour', 'Render settings', null],
  ];

function usdSettings(text: string): Setting[] {
  const bare = blanked(text);
  const found: Setting[] = [];
  for (const [key, group, name, usual] of usdKeys) {
    const at = metadataAt(bare, key);
    const said = at ? text.slice(...at) : null;
    if (said !== null) found.push({ key, group, name, value: said.replace(/^"(.*)"$/, '$1') });
    else if (usual !== null) found.push({ key, group, name, value: `${usual} (nothing said)`, same: usual });
  }
  const layers = metadataAt(bare, 'subLayers');
  const paths = layers ? [...text.slice(...layers).matchAll(/@([^@\n]+)@/g)].map((m) => m[1]!) : [];
  for (const [n, path] of paths.entries())
    found.push({ key: `layer ${path}`, group: 'layers', name: `Layer ${n + 1}`, value: path });
  for (const m of text.matchAll(
    /\bdef\s+DomeLight\w*\s+"([^"]*)"[\s\S]*?inputs:texture:file\s*=\s*@([^@\n]*)@/g,
  ))
    found.push({ key: `environment ${m[1]}`, group: 'environment', name: m[1]!, value: m[2]! });
  return found;
}

/** Where the value of a key of the layer's metadata stands, without blanks around it; null: it is not said. */
export function metadataAt(bare: string, key: string): readonly [number, number] | null {
  const head = headOf(bare);
  if (!head) return null;
  const m = new RegExp(`(?:^|[\\n;])[ \\t]*${key}[ \\t]*=[ \\t]*`).exec(bare.slice(...head));
  if (!m) return null;
  const from = head[0] + m.index + m[0].length;
  if (bare[from] === '[') {
    const end = bare.indexOf(']', from);
    return end < 0 ? null : [from, end + 1];
  }
  const end = /[\n\r;)#]/.exec(bare.slice(from));
  const to = end ? from + end.index : head[1];
  // A comment behind it is blank there.
  return [from, from + bare.slice(from, Math.min(to, head[1])).trimEnd().length];
}

function gltfSettings(format: FormatId, bytes: Uint8Array, things: readonly Thing[]): Setting[] {
  const found: Setting[] = [
    {
      key: 'colour',
      group: 'colour',
      name: 'Colours',
      value: 'sRGB in pictures of colour, linear in all else (by its format)',
    },
  ];
  const length = Math.max(
    0,
    ...things
      .filter((t) => t.kind === 'animation')
      .map((t) => Number.parseFloat(t.facts.get('length') ?? '0')),
  );
  if (length > 0)
    found.push({ key: 'range', group: 'time', name: 'Longest animation', value: `${length} s` });
  const json = parseObject(format === 'glb' ? jsonOf(bytes) : bytes) ?? {};
  for (const [n, light] of lightsIn(json, 'EXT_lights_image_based').entries())
    found.push({
      key: `environment ${String(light.name ?? n)}`,
      group: 'environment',
      name: typeof light.name === 'string' ? light.name : `Environment ${n + 1}`,
      value: `${listIn(light, 'specularImages').length} levels, intensity ${String(light.intensity ?? 1)}`,
    });
  const strings = (key: string) => (Array.isArray(json[key]) ? json[key].map(String) : []);
  const required = strings('extensionsRequired');
  for (const name of new Set([...required, ...strings('extensionsUsed')]))
    found.push({
      key: `required ${name}`,
      group: 'required',
      name,
      value: required.includes(name) ? 'required' : 'used',
    });
  return found;
}

function lightsIn(json: Json, extension: string): Json[] {
  const all = isObject(json.extensions) ? json.extensions[extension] : undefined;
  return listIn(all, 'lights');
}

/** The JSON of a GLB (glTF 2.0, §4.4). */
function jsonOf(glb: Uint8Array): Uint8Array {
  if (glb.length < 20) return new Uint8Array();
  return glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset, 20).getUint32(12, true));
}

const ofElement: Readonly<Record<string, readonly [SettingGroup, string]>> = {
  Background: ['background', 'Background'],
  TextureBackground: ['background', 'Background'],
  Fog: ['background', 'Fog'],
  LocalFog: ['background', 'Fog of a part'],
  NavigationInfo: ['background', 'Navigation'],
  EnvironmentLight: ['environment', 'Environment light'],
  Layer: ['layers', 'Layer'],
  LayoutLayer: ['layers', 'Layer'],
  // Where COLLADA's writers put times (common practice, no source).
  frame_rate: ['time', 'Frames a second'],
  start_time: ['time', 'First time'],
  end_time: ['time', 'Last time'],
};

function markupSettings(format: FormatId, bytes: Uint8Array): Setting[] {
  const m = openMarkup(bytes);
  const found: Setting[] = [];
  const layers = new Set<string>();
  let open: Setting | null = null;
  let depth = 0;
  eachMarkup(m, {
    open(full, attributes) {
      const name = localName(full);
      const said = new Map(
        attributes.map((a) => [localName(a.name), decodeMarkup(m, a.from, a.to, false).text]),
      );
      if (depth === 0 && format === 'mtlx')
        for (const [key, called] of [
          ['colorspace', 'Colour space'],
          ['cms', 'Colour management'],
          ['cmsconfig', 'Colour configuration'],
        ] as const)
          if (said.has(key)) found.push({ key, group: 'colour', name: called, value: said.get(key)! });
      if (format === 'dae' && name === 'node' && said.has('layer'))
        for (const layer of said.get('layer')!.split(/\s+/)) if (layer) layers.add(layer);
      const known = format === 'mtlx' ? undefined : ofElement[name];
      if (known) {
        const [group, called] = known;
        const nth = found.filter((s) => s.key.startsWith(`${name} `)).length;
        const id = said.get('DEF') ?? said.get('id') ?? '';
        const value = [...said]
          .filter(([k]) => k !== 'DEF' && k !== 'id')
          .map(([k, v]) => `${k} ${v.trim()}`)
          .join(', ');
        found.push({ key: `${name} ${id || nth}`, group, name: id ? `${called} ${id}` : called, value });
        open = found.at(-1)!;
      }
      depth++;
    },
    text(from, to, cdata) {
      if (open?.group === 'time') open.value += decodeMarkup(m, from, to, cdata).text.trim();
    },
    close() {
      depth--;
      open = null;
    },
  });
  for (const layer of layers)
    found.push({ key: `layer ${layer}`, group: 'layers', name: layer, value: 'used' });
  return found;
}

/** Settings that a scene of a format can take over from another: scalar words of the file itself. Things, as lights, are carried as parts of the scene. */
export function sceneTakes(format: FormatId, key: string): boolean {
  if (format === 'usda')
    return key === 'unit' || key === 'up' || usdKeys.some(([k]) => k === key && k !== 'defaultPrim');
  if (format === 'dae') return key === 'unit' || key === 'up';
  return format === 'mtlx' && ['colorspace', 'cms', 'cmsconfig'].includes(key);
}
