'use client';
// The versions of one scene, the newest first, each with its way back.

import { History } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { ago, bytes, exactBytes, exactTime } from '@/core/text/figures';
import type { VersionsView } from '@/wire/views';
import { PlainButton } from '../kit/buttons';
import { Soft } from '../kit/layout';
import { color, font, space } from '../theme/theme';

const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  th {
    text-align: left;
    color: ${color.soft};
    font-size: 13.5px;
    font-weight: 600;
    padding: 0 ${space(4)} 6px 0;
    border-bottom: 1px solid ${color.line};
  }
  td {
    padding: 6px ${space(4)} 6px 0;
    border-bottom: 1px solid ${color.line};
  }
  td.name {
    font-family: ${font.mono};
    font-size: 13.5px;
    font-weight: 700;
  }
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
`;

export function VersionTable({
  versions,
  scene,
  onBring,
}: {
  versions: VersionsView['versions'];
  /** The present one. */
  scene: string;
  onBring: (number: number) => void;
}) {
  const [now] = useState(() => Date.now());
  return (
    <Table>
      <thead>
        <tr>
          <th className="number">No.</th>
          <th>File</th>
          <th>Note</th>
          <th className="number">Size</th>
          <th className="number">Saved</th>
          <th className="number">Way back</th>
        </tr>
      </thead>
      <tbody>
        {versions.map((v) => (
          <tr key={v.path}>
            <td className="number">{v.number ?? '–'}</td>
            <td className="name">{v.path.split('/').pop()}</td>
            <td>{v.note ? `“${v.note}”` : <Soft>–</Soft>}</td>
            <td className="number" title={exactBytes(v.size)}>
              {bytes(v.size)}
            </td>
            <td className="number" title={exactTime(v.modified)}>
              {ago(v.modified, now)}
            </td>
            <td className="number">
              {v.path === scene ? (
                <Soft>present</Soft>
              ) : (
                v.number !== null && (
                  <PlainButton
                    aria-label={`Bring ${v.path.split('/').pop()} back as a new version`}
                    onPress={() => onBring(v.number!)}
                  >
                    <History size={15} /> Bring back…
                  </PlainButton>
                )
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
