'use client';
// Every scene with its own unit, up axis and size, and what is to be said of them; what needs a look first.

import { AlertTriangle, Info } from '../kit/icons';
import Link from '../kit/Link';
import styled from 'styled-components';
import { sceneUnitText } from '@/core/units/sceneUnits';
import { metresIn } from '@/core/units/units';
import type { SceneMeasure } from '@/wire/views';
import { Soft } from '../kit/layout';
import { Path } from '../kit/Path';
import { useStepHref } from '../kit/work';
import { useSome } from '../kit/some';
import { color, space } from '../theme/theme';

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
const shownAtMost = 500;
const by: Record<SceneMeasure['by'], string> = {
  definition: 'by its format',
  file: 'as it says',
  default: 'it says nothing: its format’s rule',
  nobody: 'its format knows none',
};

export const isWarned = (m: SceneMeasure) => m.findings.some((f) => f.level === 'warning');

function Said({ m }: { m: SceneMeasure }) {
  if (m.findings.length === 0) return <Soft>agrees</Soft>;
  return m.findings.map((f) => (
    <div key={f.code + f.message} className="finding">
      {f.level === 'warning' ? (
        <AlertTriangle size={14} className="warn" aria-label="warning" />
      ) : (
        <Info size={14} className="note" aria-label="note" />
      )}
      <span>{f.message}</span>
    </div>
  ));
}

export function MeasuredScenes({
  scenes,
  unit,
  lengthOf,
  chosen,
  onChoose,
}: {
  scenes: readonly SceneMeasure[];
  unit: Parameters<typeof metresIn>[0];
  /** A length of that unit in words. */
  lengthOf: (length: number) => string;
  chosen: string | null;
  onChoose: (path: string | null) => void;
}) {
  const href = useStepHref();
  const sorted = [...scenes].sort((a, b) => Number(isWarned(b)) - Number(isWarned(a)));
  const [shown, rest] = useSome(sorted, 'more scene', shownAtMost);
  return (
    <>
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
          {shown.map((m) => (
            <tr
              key={m.path}
              data-chosen={chosen === m.path}
              onMouseEnter={() => onChoose(m.path)}
              onMouseLeave={() => onChoose(null)}
            >
              <td className="name">
                <Link
                  href={href('/files', { folder: m.path.split('/').slice(0, -1).join('/'), file: m.path })}
                >
                  <Path path={m.path} />
                </Link>
              </td>
              <td>
                {sceneUnitText(m.metres)}
                <br />
                <Soft style={{ fontSize: 13 }}>{by[m.by]}</Soft>
              </td>
              <td>{m.upAxis ?? '–'}</td>
              <td className="number">
                {m.longest === null ? <Soft>not measured</Soft> : lengthOf(m.longest / metresIn(unit))}
              </td>
              <td>
                <Said m={m} />
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {rest}
    </>
  );
}
