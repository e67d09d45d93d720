'use client';
// The grid from above with the reference box, and the ground that each measured scene covers on it; a person stands beside for scale.

import { useState } from 'react';
import styled from 'styled-components';
import { convert, lengthText, metresIn, type WorkspaceUnits } from '@/core/units/units';
import type { SceneMeasure } from '@/wire/views';
import { Choose } from '../kit/fields';
import { Row, Soft, Stack } from '../kit/layout';
import { color, font } from '../theme/theme';

const Svg = styled.svg`
  width: 100%;
  height: auto;
  max-height: 430px;
  background: ${color.raised};
  border-radius: 8px;
  display: block;
  .fine {
    stroke: ${color.line};
  }
  .heavy {
    stroke: ${color.lineStrong};
  }
  .axis {
    stroke: ${color.saddle};
  }
  .box {
    fill: ${color.saddle};
    fill-opacity: 0.35;
    stroke: ${color.saddle};
  }
  .scene {
    fill: ${color.slate};
    fill-opacity: 0.1;
    stroke: ${color.slate};
    stroke-opacity: 0.6;
  }
  .scene[data-beyond='true'] {
    fill-opacity: 0;
    stroke-dasharray: 6 4;
  }
  .scene[data-warned='true'] {
    fill: ${color.amber};
    fill-opacity: 0.14;
    stroke: ${color.amber};
  }
  .scene[data-chosen='true'] {
    fill-opacity: 0.4;
    stroke-opacity: 1;
  }
  text {
    font: 600 17px ${font.text};
    fill: ${color.soft};
  }
  .person {
    fill: ${color.ink};
  }
`;
const side = 600;
const personHeight = 1.75; // metres

/** What stands on the grid's plane of a box in metres, whose up axis is `up`: x, depth and height. */
function ground(m: SceneMeasure): { x: [number, number]; y: [number, number]; height: number } | null {
  if (!m.box) return null;
  const { min, max } = m.box;
  return m.upAxis === 'Z'
    ? { x: [min[0], max[0]], y: [-max[1], -min[1]], height: max[2] - min[2] }
    : { x: [min[0], max[0]], y: [min[2], max[2]], height: max[1] - min[1] };
}

export function GridPicture({
  units,
  scenes,
  chosen,
}: {
  units: WorkspaceUnits;
  scenes: readonly SceneMeasure[];
  chosen: string | null;
}) {
  const [view, setView] = useState<'grid' | 'near'>('near');
  const { spacing, heavyEvery, extent } = units.grid;
  const metres = (v: number) => convert(v, units.unit, 'm');
  const reach = view === 'grid' ? extent : Math.min(extent, spacing * Math.max(heavyEvery, 8));
  const lines = Math.min(400, Math.floor(reach / spacing));
  const scale = side / (2 * metres(reach) * 1.06);
  const at = (m: number) => side / 2 + m * scale;
  const stops = Array.from({ length: 2 * lines + 1 }, (_, i) => i - lines);
  // More lines than can be told apart are not drawn.
  const shown = stops.filter((n) => n % heavyEvery === 0 || metres(spacing) * scale >= 4);
  const end = metres(lines * spacing);
  const boxSide = metres(spacing) * scale;
  const person = personHeight * scale;
  return (
    <Stack $gap={2}>
      <Row $wrap $gap={4} style={{ alignItems: 'flex-end' }}>
        <h2 style={{ flex: 1 }}>From above</h2>
        <Choose
          label="Shown"
          value={view}
          onChange={setView}
          options={
            [
              ['near', 'around the middle'],
              ['grid', 'all of the grid'],
            ] as const
          }
        />
      </Row>
      <Svg
        viewBox={`0 0 ${side} ${side}`}
        role="img"
        aria-label={`A grid with a line every ${lengthText(spacing, units.unit, units.display)}, a heavier one every ${heavyEvery}, reaching ${lengthText(reach, units.unit, units.display)} to each side`}
      >
        {shown.map((n) => {
          const p = at(metres(n * spacing));
          const kind = n === 0 ? 'axis' : n % heavyEvery === 0 ? 'heavy' : 'fine';
          return (
            <g key={n} className={kind} strokeWidth={kind === 'fine' ? 0.8 : 1.4}>
              <line x1={p} x2={p} y1={at(-end)} y2={at(end)} />
              <line y1={p} y2={p} x1={at(-end)} x2={at(end)} />
            </g>
          );
        })}
        {scenes.map((m) => {
          const g = ground(m);
          if (!g) return null;
          return (
            <rect
              key={m.path}
              className="scene"
              data-chosen={m.path === chosen}
              data-warned={m.findings.some((f) => f.level === 'warning')}
              data-beyond={
                Math.max(Math.abs(g.x[0]), Math.abs(g.x[1]), Math.abs(g.y[0]), Math.abs(g.y[1])) > end
              }
              x={at(g.x[0])}
              y={at(g.y[0])}
              width={Math.max(1.5, (g.x[1] - g.x[0]) * scale)}
              height={Math.max(1.5, (g.y[1] - g.y[0]) * scale)}
            >
              <title>{m.path}</title>
            </rect>
          );
        })}
        <rect className="box" x={at(0)} y={at(0) - boxSide} width={boxSide} height={boxSide} />
        {person > 3 && person < side && (
          <g
            className="person"
            transform={`translate(${at(0) - Math.max(14, person * 0.3)} ${at(0)}) scale(${person / 100})`}
          >
            <circle cx="0" cy="-91" r="9" />
            <path d="M-9 -78 h18 a5 5 0 0 1 5 5 v32 h-7 v41 h-14 v-41 h-7 v-32 a5 5 0 0 1 5 -5 z" />
          </g>
        )}
        <text x={12} y={side - 12}>
          {lengthText(2 * reach, units.unit, units.display)} across
        </text>
      </Svg>
      <Soft style={{ fontSize: 13 }}>
        The box is {lengthText(spacing, units.unit, units.display)} to a side
        {person > 3 && person < side
          ? `; the person is ${lengthText(personHeight / metresIn(units.unit), units.unit, units.display)} tall`
          : ''}
        . Scenes that declare a unit, or whose format has one, are drawn as large as they would be.
      </Soft>
    </Stack>
  );
}
