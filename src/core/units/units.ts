// Lengths: units, conversions, and how people read them. Every unit is a whole number of tenths of a millimetre, so conversions between
// whole numbers of units are as exact as a number can be. Sources: NIST SP 811 (2008), Appendix B.8 and B.6: 1 in = 25.4 mm exactly,
// 1 ft = 0.3048 m, 1 yd = 0.9144 m, 1 mi = 1609.344 m exactly; SI prefixes.

export const unitIds = ['mm', 'cm', 'm', 'km', 'in', 'ft', 'yd', 'mi'] as const;
export type UnitId = (typeof unitIds)[number];

/** Tenths of a millimetre in one of each. */
const tenths: Record<UnitId, number> = {
  mm: 10,
  cm: 100,
  m: 10_000,
  km: 10_000_000,
  in: 254,
  ft: 3048,
  yd: 9144,
  mi: 16_093_440,
};

const names: Record<UnitId, [one: string, many: string]> = {
  mm: ['millimetre', 'millimetres'],
  cm: ['centimetre', 'centimetres'],
  m: ['metre', 'metres'],
  km: ['kilometre', 'kilometres'],
  in: ['inch', 'inches'],
  ft: ['foot', 'feet'],
  yd: ['yard', 'yards'],
  mi: ['mile', 'miles'],
};

/** How lengths are shown: with at most `digits` decimals, or in fractions of an inch down to 1/`parts`, a power of two. */
export type LengthDisplay = { form: 'decimal'; digits: number } | { form: 'fraction'; parts: number };

/** What a workspace says of lengths. Spacing and extent are in its unit. */
export interface WorkspaceUnits {
  unit: UnitId;
  display: LengthDisplay;
  upAxis: 'Y' | 'Z';
  /** A line every `spacing`, a heavier one every `heavyEvery` lines, as far as `extent` to each side of the middle. */
  grid: { spacing: number; heavyEvery: number; extent: number };
}

/** What holds until a workspace says otherwise: metres, as glTF has them. */
export const usualUnits: WorkspaceUnits = {
  unit: 'm',
  display: { form: 'decimal', digits: 3 },
  upAxis: 'Y',
  grid: { spacing: 1, heavyEvery: 10, extent: 50 },
};

/** 'metre', 'inches'. */
export function unitName(unit: UnitId, count = 2): string {
  return names[unit][count === 1 ? 0 : 1];
}

/** A length in another unit. */
export function convert(value: number, from: UnitId, to: UnitId): number {
  return from === to ? value : (value * tenths[from]) / tenths[to];
}

/** Metres in one of a unit, exact in decimal. */
export function metresIn(unit: UnitId): number {
  return tenths[unit] / 10_000;
}

/** The unit of so many metres, where it is one of those known; USD and COLLADA write them as decimal numbers, so the last digits may differ. */
export function unitOfMetres(metres: number): UnitId | null {
  return unitIds.find((u) => Math.abs(metres / metresIn(u) - 1) < 1e-6) ?? null;
}

/** A length for people: '1.25 m', '3 5/8 in', '5 ft 3 1/2 in'. `value` in `unit`; rounded to what the display can say. */
export function lengthText(value: number, unit: UnitId, display: LengthDisplay): string {
  if (!Number.isFinite(value)) return '–';
  if (display.form === 'fraction' && (unit === 'in' || unit === 'ft'))
    return fractionText(convert(value, unit, 'in'), unit, display.parts);
  const digits = display.form === 'decimal' ? display.digits : 3;
  return `${Number(value.toFixed(digits)).toLocaleString('en', { maximumFractionDigits: digits, useGrouping: Math.abs(value) >= 10_000 })} ${unit}`;
}

function fractionText(inches: number, unit: 'in' | 'ft', parts: number): string {
  const sign = inches < 0 ? '−' : '';
  const all = Math.round(Math.abs(inches) * parts);
  const feet = unit === 'ft' ? Math.floor(all / (12 * parts)) : 0;
  const rest = all - feet * 12 * parts;
  const whole = Math.floor(rest / parts);
  let [top, bottom] = [rest % parts, parts];
  while (top > 0 && top % 2 === 0 && bottom % 2 === 0) [top, bottom] = [top / 2, bottom / 2];
  const inchText = [whole > 0 || top === 0 ? String(whole) : '', top > 0 ? `${top}/${bottom}` : '']
    .filter(Boolean)
    .join(' ');
  const shown = [feet > 0 ? `${feet} ft` : '', feet > 0 && rest === 0 ? '' : `${inchText} in`]
    .filter(Boolean)
    .join(' ');
  return `${all === 0 ? '' : sign}${shown}`;
}

/** The same for a field where it is typed: never rounded so far that reading it back gives another length. */
export function exactLengthText(value: number, unit: UnitId, display: LengthDisplay): string {
  const shown = lengthText(value, unit, display);
  const back = parseLength(shown, unit);
  const isSame = back !== null && Math.abs(back - value) <= Math.abs(value) * 1e-9;
  return isSame
    ? shown
    : `${value.toLocaleString('en', { useGrouping: false, maximumSignificantDigits: 12 })} ${unit}`;
}

// Digits in groups of three ('60,000', '1.250.000', '60 000'), where a comma or a point alone before three digits is a thousands mark only if it is a comma
// and no bare zero stands before it: lengths are written '60,000 mm' here, and '1.250 m' is a metre and a quarter.
const grouped =
  /(?<![\d.,/])(?:([1-9]\d{0,2}(?:,\d{3})+)(\.\d+)?|([1-9]\d{0,2}(?:\.\d{3}){2,}|[1-9]\d{0,2}(?:\.\d{3})+(?=,\d))(,\d+)?|([1-9]\d{0,2}(?:[ \u00a0\u2009\u202f]\d{3})+)([.,]\d+)?)(?![\d.,]|\s*\/)/g;

function plainNumbers(text: string): string {
  return text
    .replace(
      grouped,
      (_all, a?: string, a2?: string, b?: string, b2?: string, c?: string, c2?: string) =>
        `${(a ?? b ?? c)!.replace(/\D/g, '')}${(a2 ?? b2 ?? c2 ?? '').replace(',', '.')}`,
    )
    .replaceAll(',', '.');
}

/** Fractions of one character ('½', '3⅝') as their parts; Unicode Standard, compatibility decompositions of U+00BC to U+00BE and U+2150 to U+215E. */
const plainFractions = (text: string): string =>
  text
    .replace(
      /(\d?)\s*([\u00bc-\u00be\u2150-\u215e])/g,
      (_all, before: string, c: string) => `${before === '' ? '' : `${before} `}${c.normalize('NFKC')}`,
    )
    .replaceAll('\u2044', '/');

const part =
  /\s*([+-]?)\s*(?:(\d+)\s*\/\s*(\d+)|(\d+(?:\.\d+)?|\.\d+)(?:\s+(\d+)\s*\/\s*(\d+))?)\s*([a-z]+|["″'′])?\s*/y;
/** Units as people write them. */
const written: Record<string, UnitId> = {
  ...Object.fromEntries(unitIds.flatMap((u) => [u, ...names[u]].map((n) => [n, u]))),
  '"': 'in',
  '″': 'in',
  "'": 'ft',
  '′': 'ft',
  millimeter: 'mm',
  millimeters: 'mm',
  centimeter: 'cm',
  centimeters: 'cm',
  meter: 'm',
  meters: 'm',
  kilometer: 'km',
  kilometers: 'km',
};

/** Reads what people type: '12', '1.5 m', '60,000 mm', '3 5/8"', '3½ in', "5' 3 1/2\"", '1/32 in'. In `unit`, which is meant where none is said
 * (inches after feet); null for anything else. */
export function parseLength(text: string, unit: UnitId): number | null {
  let sum = 0;
  let at = 0;
  let sign = 1;
  let before: UnitId | null = null;
  const trimmed = plainNumbers(plainFractions(text.trim().toLowerCase().replaceAll('−', '-')));
  if (trimmed === '') return null;
  while (at < trimmed.length) {
    part.lastIndex = at;
    const m = part.exec(trimmed);
    if (!m || m[0] === '' || (at > 0 && m[1] !== '')) return null;
    if (m[1] === '-') sign = -1;
    const bottom = Number(m[3] ?? m[6] ?? 1);
    if (bottom === 0) return null;
    const value = Number(m[4] ?? 0) + Number(m[2] ?? m[5] ?? 0) / bottom;
    const said = m[7];
    // Two numbers of no unit are no length: '60 12'.
    if (said === undefined && at > 0 && before !== 'ft') return null;
    if (at > 0 && before === null) return null;
    const of = said === undefined ? (at > 0 ? 'in' : unit) : written[said];
    if (of === undefined) return null;
    before = said === undefined ? null : of;
    sum += convert(value, of, unit);
    at = part.lastIndex;
  }
  return sign * sum;
}

/** Why a grid can not be drawn so; null where it can. */
export function gridTrouble(grid: WorkspaceUnits['grid']): string | null {
  if (!(grid.spacing > 0) || !(grid.extent > 0)) return 'A grid needs lengths above 0.';
  return grid.extent < grid.spacing
    ? 'The grid would end before its first line: it reaches less far than its lines lie apart.'
    : null;
}
