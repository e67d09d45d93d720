// The unit and the up axis a scene file declares, or that its format lays down. Sources: glTF 2.0 §3.4 (metres, +Y up); OpenUSD,
// UsdGeomLinearUnits and UsdGeomUpAxis (metersPerUnit 0.01 and Y where nothing is said); COLLADA 1.4.1 and 1.5 `unit` and `up_axis` (1 metre
// and Y_UP where nothing is said); X3D (ISO/IEC 19775-1, 4.3.6) and VRML97 (ISO/IEC 14772-1, 4.4.5): metres, +Y up, X3D's UNIT statement changes
// the unit; 3MF Core 1.3 §3.4 `unit` (millimetre where nothing is said, +Z up). Wavefront OBJ and PLY know no unit.

import type { FormatId } from '../formats/format';
import { decodeMarkup, eachMarkup, localName, openMarkup } from '../formats/markup';
import { decodeText, latin1 } from '../text/bytes';
import { metresIn, unitOfMetres, unitName, type UnitId } from './units';

export interface SceneUnits {
  /** Metres in one unit of the file; null: the format knows none. */
  metres: number | null;
  upAxis: 'X' | 'Y' | 'Z' | null;
  /** Who says so: the format's definition, the file, the format's rule where the file says nothing, or nobody. */
  by: 'definition' | 'file' | 'default' | 'nobody';
  /** The name the file gives its unit, where that is another one than its number says (COLLADA, X3D). */
  misnamed?: string | undefined;
}

const nobody: SceneUnits = { metres: null, upAxis: null, by: 'nobody' };
const byDefinition: SceneUnits = { metres: 1, upAxis: 'Y', by: 'definition' };

const threemf: Record<string, number> = {
  micron: 1e-6,
  millimeter: 0.001,
  centimeter: 0.01,
  inch: metresIn('in'),
  foot: metresIn('ft'),
  meter: 1,
};

// COLLADA 1.4.1 `unit`: the name is free text, the number counts; these are the names writers use. In lower case, one and many.
const unitNames: Record<string, number> = {
  ...threemf,
  mm: 0.001,
  cm: 0.01,
  m: 1,
  km: 1000,
  in: metresIn('in'),
  ft: metresIn('ft'),
  yd: metresIn('yd'),
  mi: metresIn('mi'),
  millimetre: 0.001,
  centimetre: 0.01,
  decimeter: 0.1,
  decimetre: 0.1,
  metre: 1,
  kilometer: 1000,
  kilometre: 1000,
  yard: metresIn('yd'),
  mile: metresIn('mi'),
};

/** Whether a unit's name and its number say two things; false where the name is none that is known. */
function saysTwo(name: string, metres: number): boolean {
  const plain = name.toLowerCase();
  const meant =
    plain === 'feet'
      ? metresIn('ft')
      : plain === 'inches'
        ? metresIn('in')
        : (unitNames[plain] ?? unitNames[plain.replace(/s$/, '')]);
  return meant !== undefined && Math.abs(metres / meant - 1) > 1e-3;
}

/** Units of a file of a text format, or of the model inside a package, by its first bytes (64 kB are enough). Null where this is no format with lengths. */
export function sceneUnits(format: FormatId, head: Uint8Array): SceneUnits | null {
  switch (format) {
    case 'gltf':
    case 'glb':
    case 'x3dv':
      return format === 'x3dv' ? vrml(head) : byDefinition;
    case 'usda':
      return usda(head);
    case 'dae':
    case 'x3d':
    case '3mf':
      return markup(format, head);
    case 'obj':
    case 'ply':
      return nobody;
    default:
      return null;
  }
}

/** What USD says where a layer says nothing, filled in with what it does say. */
export function usdUnits(metres: number | null, upAxis: string | null): SceneUnits {
  const up = upAxis === 'X' || upAxis === 'Y' || upAxis === 'Z' ? upAxis : 'Y';
  return {
    metres: metres !== null && metres > 0 ? metres : 0.01,
    upAxis: up,
    by: metres !== null ? 'file' : 'default',
  };
}

function usda(head: Uint8Array): SceneUnits {
  const text = decodeText(head).text;
  // The layer's own metadata: between the first parentheses, before any prim.
  const open = text.indexOf('(');
  const prim = text.search(/^\s*(def|over|class)\b/m);
  const block = open < 0 || (prim >= 0 && prim < open) ? '' : text.slice(open, prim < 0 ? undefined : prim);
  const plain = block.replace(/"""[\s\S]*?"""|"(?:\\.|[^"\\\n])*"|#.*$/gm, (m) =>
    m.startsWith('#') || m.includes('\n') ? '' : m,
  );
  const metres = /(?:^|[\n;(])\s*metersPerUnit\s*=\s*([\d.eE+-]+)/.exec(plain)?.[1];
  return usdUnits(
    metres === undefined ? null : Number(metres),
    /(?:^|[\n;(])\s*upAxis\s*=\s*"?([XYZ])"?/.exec(plain)?.[1] ?? null,
  );
}

function vrml(head: Uint8Array): SceneUnits {
  const factor = /^\s*UNIT\s+length\s+\S+\s+([\d.eE+-]+)/m.exec(latin1(head))?.[1];
  return factor === undefined ? byDefinition : { metres: Number(factor), upAxis: 'Y', by: 'file' };
}

function markup(format: 'dae' | 'x3d' | '3mf', head: Uint8Array): SceneUnits {
  const m = openMarkup(head);
  const path: string[] = [];
  let metres: number | null = null;
  let name = '';
  let up: string | null = null;
  let text = '';
  eachMarkup(m, {
    open(tag, attributes) {
      path.push(localName(tag));
      text = '';
      const value = (key: string) => {
        const a = attributes.find((x) => localName(x.name) === key);
        return a ? decodeMarkup(m, a.from, a.to).text : null;
      };
      const at = path.slice(1).join('/');
      if (format === 'dae' && at === 'asset/unit') {
        metres = Number(value('meter') ?? 1);
        name = (value('name') ?? '').trim();
      } else if (format === 'x3d' && at === 'head/unit' && value('category') === 'length') {
        metres = Number(value('conversionFactor'));
        name = (value('name') ?? '').trim();
      } else if (format === '3mf' && path.length === 1) metres = threemf[value('unit') ?? ''] ?? null;
    },
    text(from, to) {
      if (format === 'dae' && path.slice(1).join('/') === 'asset/up_axis')
        text += decodeMarkup(m, from, to).text;
    },
    close() {
      if (text !== '') up ??= text.trim();
      text = '';
      path.pop();
    },
  });
  if (metres !== null && !(Number.isFinite(metres) && metres > 0)) metres = null;
  const usual = format === '3mf' ? 0.001 : 1;
  const axis = format === '3mf' ? 'Z' : ((/^([XYZ])_UP$/.exec(up ?? '')?.[1] ?? 'Y') as 'X' | 'Y' | 'Z');
  return {
    metres: metres ?? usual,
    upAxis: axis,
    by: metres !== null ? 'file' : format === 'x3d' ? 'definition' : 'default',
    ...(metres !== null && saysTwo(name, metres) ? { misnamed: name } : {}),
  };
}

/** A declared unit in words: 'centimetres', '0.05 m', 'no unit'. */
export function sceneUnitText(metres: number | null): string {
  if (metres === null) return 'no unit';
  const unit: UnitId | null = unitOfMetres(metres);
  return unit ? unitName(unit) : `${Number(metres.toPrecision(6))} m`;
}
