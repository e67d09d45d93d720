'use client';
// The folders that a new workspace gets; each may be left out, with all that is in it.

import styled from 'styled-components';
import { Tick } from '../kit/fields';
import { Grow, Mono, Soft } from '../kit/layout';
import { space } from '../theme/theme';

const Line = styled.div<{ $depth: number }>`
  display: flex;
  gap: ${space(2)};
  align-items: center;
  padding-left: ${(p) => p.$depth * 20}px;
  min-height: 26px;
`;

export function FolderTicks({
  folders,
  without,
  onChange,
}: {
  folders: readonly { path: string; kinds: readonly string[] }[];
  without: readonly string[];
  onChange: (without: string[]) => void;
}) {
  return (
    <div role="group" aria-label="Folders">
      {folders.map((f) => {
        const isBelow = without.some((w) => f.path.startsWith(`${w}/`));
        return (
          <Line key={f.path} $depth={f.path.split('/').length - 1}>
            <Tick
              label={f.path}
              checked={!isBelow && !without.includes(f.path)}
              disabled={isBelow}
              onChange={(on) => onChange(on ? without.filter((w) => w !== f.path) : [...without, f.path])}
            >
              <Mono>{f.path.split('/').pop()}/</Mono>
            </Tick>
            {f.kinds.length > 0 && (
              <Grow>
                <Soft>{f.kinds.join(', ')}</Soft>
              </Grow>
            )}
          </Line>
        );
      })}
    </div>
  );
}
