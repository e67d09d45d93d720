'use client';
// The working unit, how lengths are shown, which way is up; and the grid's spacing and reach.

import {
  convert,
  exactLengthText,
  gridTrouble,
  lengthText,
  metresIn,
  parseLength,
  unitIds,
  unitName,
  type WorkspaceUnits,
} from '@/core/units/units';
import { Choose, DraftField } from '../kit/fields';
import { Row, Sheet, Soft, Stack } from '../kit/layout';

const units = unitIds.map((u) => [u, `${unitName(u)} (${u})`] as const);

/** The same grid in the world, in round numbers of the new unit where they come out so. */
function inUnit(u: WorkspaceUnits, unit: WorkspaceUnits['unit']): WorkspaceUnits {
  const inNew = (v: number) => Number(convert(v, u.unit, unit).toPrecision(12));
  const display: WorkspaceUnits['display'] =
    unit === 'in' || unit === 'ft'
      ? u.display
      : { form: 'decimal', digits: u.display.form === 'decimal' ? u.display.digits : 3 };
  return {
    ...u,
    unit,
    display,
    grid: { ...u.grid, spacing: inNew(u.grid.spacing), extent: inNew(u.grid.extent) },
  };
}

export function UnitFields({
  u,
  onChange,
}: {
  u: WorkspaceUnits;
  onChange: (units: WorkspaceUnits) => void;
}) {
  const length = (v: number) => lengthText(v, u.unit, u.display);
  const set = (more: Partial<WorkspaceUnits>) => onChange({ ...u, ...more });
  const setGrid = (more: Partial<WorkspaceUnits['grid']>) => set({ grid: { ...u.grid, ...more } });
  const exact = (v: number) => exactLengthText(v, u.unit, u.display);
  const asLength = (part: 'spacing' | 'extent') => (v: string) => {
    const n = parseLength(v, u.unit);
    if (n === null) return `A length, such as 1.5 ${u.unit} or 3 5/8 in.`;
    if (n <= 0) return `A length above 0, such as 1.5 ${u.unit}.`;
    if (gridTrouble({ ...u.grid, [part]: n }) === null) return undefined;
    return part === 'spacing'
      ? `The grid reaches ${exact(u.grid.extent)}: its lines lie no further apart. Let it reach further first.`
      : `At least to the first line, ${exact(u.grid.spacing)}.`;
  };
  return (
    <Sheet>
      <Stack>
        <h2>Unit</h2>
        <Row $wrap $gap={4} style={{ alignItems: 'flex-end' }}>
          <Choose
            label="Working unit"
            value={u.unit}
            onChange={(unit) => onChange(inUnit(u, unit))}
            options={units}
          />
          <Choose
            label="Shown as"
            value={u.display.form === 'fraction' ? `f${u.display.parts}` : `d${u.display.digits}`}
            onChange={(v) =>
              set({
                display: v.startsWith('f')
                  ? { form: 'fraction', parts: Number(v.slice(1)) }
                  : { form: 'decimal', digits: Number(v.slice(1)) },
              })
            }
            options={[
              ...[0, 1, 2, 3, 4].map(
                (d) =>
                  [`d${d}`, d === 0 ? 'whole numbers' : `${d} ${d === 1 ? 'decimal' : 'decimals'}`] as const,
              ),
              ...(u.unit === 'in' || u.unit === 'ft'
                ? [2, 4, 8, 16, 32, 64].map((p) => [`f${p}`, `fractions to 1/${p} in`] as const)
                : []),
            ]}
          />
          <Choose
            label="Up axis"
            value={u.upAxis}
            onChange={(upAxis) => set({ upAxis })}
            options={
              [
                ['Y', 'Y is up'],
                ['Z', 'Z is up'],
              ] as const
            }
          />
        </Row>
        <Soft>
          1 {unitName(u.unit, 1)} = {metresIn(u.unit)} m, exactly. One third of it is shown as {length(1 / 3)}
          .
        </Soft>
        <h2>Grid</h2>
        <Row style={{ alignItems: 'flex-start' }}>
          <DraftField
            label="A line every"
            value={exact(u.grid.spacing)}
            check={asLength('spacing')}
            onChange={(v) => setGrid({ spacing: parseLength(v, u.unit)! })}
          />
          <DraftField
            label="Heavier every … lines"
            value={String(u.grid.heavyEvery)}
            check={(v) => (/^([1-9]\d?|100)$/.test(v.trim()) ? undefined : 'A whole number from 1 to 100.')}
            onChange={(v) => setGrid({ heavyEvery: Number(v) })}
          />
          <DraftField
            label="As far as"
            value={exact(u.grid.extent)}
            check={asLength('extent')}
            onChange={(v) => setGrid({ extent: parseLength(v, u.unit)! })}
          />
        </Row>
      </Stack>
    </Sheet>
  );
}
