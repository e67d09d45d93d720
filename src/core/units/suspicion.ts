// Compares what scenes declare, and how large they are, with what the workspace works in; and says when a size is out by just the factor
// that a wrong unit would give. Those factors are the ratios of two units, so nothing is guessed that no unit could explain.

import { convert, lengthText, metresIn, unitIds, unitName, type UnitId, type WorkspaceUnits } from './units';
import { sceneUnitText, type SceneUnits } from './sceneUnits';

/** A scene as measured. `size`: its extent along each axis, in its own unit; null where it was not measured. */
export interface Measured {
  path: string;
  units: SceneUnits;
  size: readonly [number, number, number] | null;
}

export interface UnitFinding {
  code: 'unit-differs' | 'unit-name' | 'no-unit' | 'up-differs' | 'size' | 'twin';
  level: 'warning' | 'info';
  message: string;
}

/** Metres along the longest axis; the workspace's unit is taken where the file knows none. Null where it was not measured. */
export function longestMetres(m: Measured, units: WorkspaceUnits): number | null {
  return m.size === null ? null : Math.max(...m.size) * (m.units.metres ?? metresIn(units.unit));
}

/** A factor as people say it. */
export function factorText(factor: number): string {
  const f = factor >= 1 ? factor : 1 / factor;
  return `${Number(f.toPrecision(4)).toLocaleString('en')} times too ${factor >= 1 ? 'large' : 'small'}`;
}

/** The two units whose confusion explains that something is `factor` times as large as it should be; null where none does within one percent. */
export function confusionOf(factor: number): { meant: UnitId; taken: UnitId } | null {
  let best: { meant: UnitId; taken: UnitId; off: number } | null = null;
  for (const meant of unitIds)
    for (const taken of unitIds) {
      if (meant === taken) continue;
      const off = Math.abs(metresIn(taken) / metresIn(meant) / factor - 1);
      if (off < 0.01 && (best === null || off < best.off)) best = { meant, taken, off };
    }
  return best && { meant: best.meant, taken: best.taken };
}

/** What is to be said of one scene. `others`: all scenes of the workspace, for those that show the same thing in another format. */
export function suspicions(m: Measured, units: WorkspaceUnits, others: readonly Measured[]): UnitFinding[] {
  const findings: UnitFinding[] = [];
  const own = metresIn(units.unit);
  const { metres, upAxis } = m.units;
  if (metres === null)
    findings.push({
      code: 'no-unit',
      level: 'info',
      message: `This format knows no unit: its numbers are taken as ${unitName(units.unit)}, the unit of the workspace.`,
    });
  else if (Math.abs(metres / own - 1) > 1e-6)
    findings.push({
      code: 'unit-differs',
      level: 'info',
      message: `Its numbers are ${sceneUnitText(metres)}, the workspace works in ${unitName(units.unit)}. A program that does not convert shows it ${factorText(own / metres)}.`,
    });
  if (m.units.misnamed !== undefined && metres !== null)
    findings.push({
      code: 'unit-name',
      level: 'warning',
      message: `It names its unit “${m.units.misnamed}” and says 1 is ${metres} m: one of the two is wrong. Programs that go by the number and programs that go by the name show it in different sizes.`,
    });
  if (upAxis !== null && upAxis !== units.upAxis)
    findings.push({
      code: 'up-differs',
      level: 'info',
      message: `Its up axis is ${upAxis}, the workspace's is ${units.upAxis}: a program that does not turn it shows it lying down.`,
    });
  const longest = longestMetres(m, units);
  if (longest === null || longest === 0) return findings;
  const stem = stemKey(m.path);
  for (const other of others) {
    const length = other.path === m.path ? null : longestMetres(other, units);
    if (!length || stemKey(other.path) !== stem || !sameShape(m.size!, other.size!)) continue;
    const factor = longest / length;
    const confused = Math.abs(factor - 1) < 0.01 ? null : confusionOf(factor);
    if (confused)
      findings.push({
        code: 'twin',
        level: 'warning',
        message: `It is ${factorText(factor)
          .replace('too', 'as')
          .replace(
            / (large|small)$/,
            (_, w: string) => ` ${w} as ${other.path}`,
          )}, which shows the same: as if ${unitName(confused.meant)} had been taken for ${unitName(confused.taken)}.`,
      });
  }
  const text = (metresLong: number) => lengthText(metresLong / own, units.unit, units.display);
  const [least, most] = [
    convert(units.grid.spacing, units.unit, 'm') / 100,
    convert(units.grid.extent, units.unit, 'm') * 2,
  ];
  if (longest > most || longest < least) {
    const fit = likelyFactor(longest, metres ?? own, own, least, most);
    const where =
      longest > most
        ? `longer than the grid reaches (${text(most)} from end to end)`
        : `less than a hundredth of the grid's spacing (${text(least)})`;
    findings.push({
      code: 'size',
      level: fit ? 'warning' : 'info',
      message: `Its longest side is ${text(longest)}, ${where}.${fit ? ` If its numbers were ${unitName(fit)}, it would be ${text((longest / (metres ?? own)) * metresIn(fit))}.` : ''}`,
    });
  }
  return findings;
}

/** The unit in which the numbers would give a size that fits; the workspace's own before the others. */
function likelyFactor(
  longest: number,
  metres: number,
  own: number,
  least: number,
  most: number,
): UnitId | null {
  const number = longest / metres;
  const fits = unitIds.filter(
    (u) =>
      Math.abs(metresIn(u) / metres - 1) > 1e-6 &&
      number * metresIn(u) <= most &&
      number * metresIn(u) >= least,
  );
  return (
    fits.find((u) => metresIn(u) === own) ??
    (['cm', 'mm', 'in', 'm', 'ft'] as const).find((u) => fits.includes(u)) ??
    fits[0] ??
    null
  );
}

/** What a file shows, by its name: stem without a version number. */
function stemKey(path: string): string {
  const name = path.slice(path.lastIndexOf('/') + 1);
  return name
    .replace(/\.[^.]*$/, '')
    .replace(/[._-]?v?\d+$/i, '')
    .toLowerCase();
}

function sameShape(a: readonly number[], b: readonly number[]): boolean {
  const [x, y] = [[...a].sort((p, q) => p - q), [...b].sort((p, q) => p - q)];
  const [lx, ly] = [x[2]!, y[2]!];
  return lx > 0 && ly > 0 && x.every((v, i) => Math.abs(v / lx - y[i]! / ly) < 0.02);
}
