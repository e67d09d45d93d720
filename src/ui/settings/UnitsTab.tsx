'use client';
// Units and grid: the working unit and how lengths are shown, the grid; and every scene's own unit, up axis and size beside it.

import { measureScenesRoute } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { AlertTriangle, Box, Info, Ruler } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import { yardstickFormats, type YardstickFormat } from '@/core/units/yardstickScene';
import { sceneUnitText } from '@/core/units/sceneUnits';
import {
  convert,
  lengthText,
  metresIn,
  parseLength,
  unitIds,
  unitName,
  type WorkspaceUnits,
} from '@/core/units/units';
import type { ErrorShape } from '@/wire/jobs';
import type { SettingsView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { Button, Chip, Empty, ErrorNotice, Grow, MainButton, Row, Sheet, Soft, Stack } from '../kit/controls';
import { Choose, DraftField } from '../kit/fields';
import { Page } from '../kit/Page';
import { Path } from '../kit/Path';
import { useJob, usePlan, useStepHref, useWorkspaceId } from '../kit/work';
import { color, space } from '../theme/theme';
import { GridPicture } from './GridPicture';

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.25fr);
  gap: ${space(4)};
  align-items: start;
`;
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  td,
  th {
    text-align: left;
    padding: 5px ${space(3)} 5px 0;
    border-bottom: 1px solid ${color.line};
    vertical-align: top;
  }
  th {
    color: ${color.soft};
    font-size: 13.5px;
  }
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
  td.name {
    max-width: 0;
    width: 26%;
  }
  .warn {
    color: ${color.amber};
  }
  .note {
    color: ${color.slate};
  }
  .finding {
    display: grid;
    grid-template-columns: 18px minmax(0, 1fr);
    gap: 4px;
  }
  .finding svg {
    margin-top: 3px;
  }
  tr[data-chosen='true'] td {
    background: ${color.raised};
  }
`;
const formatNames: Record<YardstickFormat, string> = {
  gltf: 'glTF',
  glb: 'GLB',
  obj: 'OBJ',
  usda: 'USD text',
  usdz: 'USD package',
  dae: 'COLLADA',
  x3d: 'X3D',
  x3dv: 'VRML',
  ply: 'PLY',
  '3mf': '3MF',
};
const units = unitIds.map((u) => [u, `${unitName(u)} (${u})`] as const);

export function UnitsTab({ s, bar }: { s: SettingsView; bar: React.ReactNode }) {
  const id = useWorkspaceId();
  const run = useJob();
  const plan = usePlan();
  const href = useStepHref();
  const [u, setUnits] = useState<WorkspaceUnits>(s.units);
  const [formats, setFormats] = useState<YardstickFormat[]>(['glb', 'usda']);
  const [chosen, setChosen] = useState<string | null>(null);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const measured = useQuery({
    queryKey: ['measure', id, s.units],
    staleTime: 60_000,
    queryFn: () => run(measureScenesRoute, { id }),
  });
  const same = JSON.stringify(u) === JSON.stringify(s.units) && !s.usualUnits;
  const length = (v: number) => lengthText(v, u.unit, u.display);
  const set = (more: Partial<WorkspaceUnits>) => setUnits({ ...u, ...more });
  const setGrid = (more: Partial<WorkspaceUnits['grid']>) => set({ grid: { ...u.grid, ...more } });
  const changeUnit = (unit: WorkspaceUnits['unit']) => {
    // The same grid in the world, in round numbers of the new unit where they come out so.
    const inNew = (v: number) => Number(convert(v, u.unit, unit).toPrecision(12));
    const display: WorkspaceUnits['display'] =
      unit === 'in' || unit === 'ft'
        ? u.display
        : { form: 'decimal', digits: u.display.form === 'decimal' ? u.display.digits : 3 };
    setUnits({
      ...u,
      unit,
      display,
      grid: { ...u.grid, spacing: inNew(u.grid.spacing), extent: inNew(u.grid.extent) },
    });
  };
  const asLength = (v: string) => {
    const n = parseLength(v, u.unit);
    return n !== null && n > 0 ? undefined : `A length, such as 1.5 ${u.unit} or 3 5/8 in.`;
  };
  const attempt = (work: Promise<unknown>) => {
    setProblem(null);
    work.catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  const scenes = measured.data ?? [];
  const warned = scenes.filter((m) => m.findings.some((f) => f.level === 'warning'));
  const differ = scenes.filter((m) => m.findings.some((f) => f.code === 'unit-differs'));
  const answer =
    measured.data === undefined ? (
      'The scenes are being measured.'
    ) : warned.length > 0 ? (
      <>
        <strong>
          {count(warned.length, 'scene')} {warned.length === 1 ? 'is' : 'are'} of a size that a wrong unit
          would explain.
        </strong>
      </>
    ) : differ.length > 0 ? (
      <>
        {count(differ.length, 'scene')} of {scenes.length} {differ.length === 1 ? 'declares' : 'declare'}{' '}
        another unit than {unitName(s.units.unit)}.
      </>
    ) : scenes.length === 0 ? (
      'No scene yet. What is set here holds for those to come.'
    ) : (
      <>
        All {count(scenes.length, 'scene')} agree with {unitName(s.units.unit)}.
      </>
    );
  return (
    <Page
      title="Settings"
      answer={answer}
      actions={
        <>
          <Button isDisabled={same} onPress={() => setUnits(s.units)}>
            As it was
          </Button>
          <MainButton
            isDisabled={same}
            onPress={() => attempt(plan({ kind: 'settings', change: { units: u } }))}
          >
            <Ruler size={16} /> Plan the change…
          </MainButton>
        </>
      }
    >
      {bar}
      {problem && <ErrorNotice error={problem} />}
      <Columns>
        <Stack $gap={4}>
          <Sheet>
            <Stack>
              <h2>Unit</h2>
              <Row $wrap $gap={4} style={{ alignItems: 'flex-end' }}>
                <Choose label="Working unit" value={u.unit} onChange={changeUnit} options={units} />
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
                        [
                          `d${d}`,
                          d === 0 ? 'whole numbers' : `${d} ${d === 1 ? 'decimal' : 'decimals'}`,
                        ] as const,
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
                1 {unitName(u.unit, 1)} = {metresIn(u.unit)} m, exactly. One third of it is shown as{' '}
                {length(1 / 3)}.
              </Soft>
              <h2>Grid</h2>
              <Row style={{ alignItems: 'flex-start' }}>
                <DraftField
                  label="A line every"
                  value={length(u.grid.spacing)}
                  check={asLength}
                  onChange={(v) => setGrid({ spacing: parseLength(v, u.unit)! })}
                />
                <DraftField
                  label="Heavier every … lines"
                  value={String(u.grid.heavyEvery)}
                  check={(v) =>
                    /^([1-9]\d?|100)$/.test(v.trim()) ? undefined : 'A whole number from 1 to 100.'
                  }
                  onChange={(v) => setGrid({ heavyEvery: Number(v) })}
                />
                <DraftField
                  label="As far as"
                  value={length(u.grid.extent)}
                  check={asLength}
                  onChange={(v) => setGrid({ extent: parseLength(v, u.unit)! })}
                />
              </Row>
            </Stack>
          </Sheet>
          <Sheet aria-label="Grid and box as files">
            <Stack>
              <h2>Grid and box as files</h2>
              <Soft>
                Opened in your program, the box is {length(u.grid.spacing)} to a side: if it is not, the
                program’s unit is not the workspace’s.
              </Soft>
              <Row $wrap $gap={1} role="group" aria-label="Formats">
                {yardstickFormats.map((f) => (
                  <Chip
                    key={f}
                    type="button"
                    aria-pressed={formats.includes(f)}
                    onClick={() =>
                      setFormats(
                        formats.includes(f)
                          ? formats.filter((x) => x !== f)
                          : yardstickFormats.filter((x) => x === f || formats.includes(x)),
                      )
                    }
                  >
                    {formatNames[f]}
                  </Chip>
                ))}
              </Row>
              <Row>
                <Grow />
                {!same && <Soft>Made with the units as they were saved.</Soft>}
                <Button
                  isDisabled={formats.length === 0}
                  onPress={() => attempt(plan({ kind: 'yardstick', formats }))}
                >
                  <Box size={15} /> Make {count(formats.length, 'file')}…
                </Button>
              </Row>
            </Stack>
          </Sheet>
        </Stack>
        <Sheet aria-label="The grid, seen from above">
          <GridPicture units={u} scenes={scenes} chosen={chosen} />
        </Sheet>
      </Columns>
      <Sheet aria-label="Scenes">
        <h2>Scenes</h2>
        {measured.error ? (
          <ErrorNotice error={shapeOf(measured.error)} />
        ) : scenes.length === 0 ? (
          measured.data ? (
            <Empty>Scenes show here with the unit they declare.</Empty>
          ) : (
            <Soft>Measuring …</Soft>
          )
        ) : (
          <Table>
            <thead>
              <tr>
                <th>Scene</th>
                <th>Its unit</th>
                <th>Up</th>
                <th className="number">Longest side</th>
                <th>To be said</th>
              </tr>
            </thead>
            <tbody>
              {[...scenes]
                .sort((a, b) => Number(warned.includes(b)) - Number(warned.includes(a)))
                .slice(0, 500)
                .map((m) => (
                  <tr
                    key={m.path}
                    data-chosen={chosen === m.path}
                    onMouseEnter={() => setChosen(m.path)}
                    onMouseLeave={() => setChosen(null)}
                  >
                    <td className="name">
                      <Link
                        href={href('/files', {
                          folder: m.path.split('/').slice(0, -1).join('/'),
                          file: m.path,
                        })}
                      >
                        <Path path={m.path} />
                      </Link>
                    </td>
                    <td>
                      {sceneUnitText(m.metres)}
                      <br />
                      <Soft style={{ fontSize: 13 }}>
                        {
                          {
                            definition: 'by its format',
                            file: 'as it says',
                            default: 'it says nothing: its format’s rule',
                            nobody: 'its format knows none',
                          }[m.by]
                        }
                      </Soft>
                    </td>
                    <td>{m.upAxis ?? '–'}</td>
                    <td className="number">
                      {m.longest === null ? <Soft>not measured</Soft> : length(m.longest / metresIn(u.unit))}
                    </td>
                    <td>
                      {m.findings.length === 0 ? (
                        <Soft>agrees</Soft>
                      ) : (
                        m.findings.map((f) => (
                          <div key={f.code + f.message} className="finding">
                            {f.level === 'warning' ? (
                              <AlertTriangle size={14} className="warn" aria-label="warning" />
                            ) : (
                              <Info size={14} className="note" aria-label="note" />
                            )}
                            <span>{f.message}</span>
                          </div>
                        ))
                      )}
                    </td>
                  </tr>
                ))}
            </tbody>
          </Table>
        )}
      </Sheet>
    </Page>
  );
}
