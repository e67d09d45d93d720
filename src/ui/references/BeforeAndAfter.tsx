'use client';
// Paths before and after a change, each with what would then be found.

import { CheckCircle2, CircleSlash } from '../kit/icons';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import type { ReferenceView } from '@/wire/views';
import { Sheet, Soft } from '../kit/layout';
import { PathDiff } from '../kit/Path';
import { color, space } from '../theme/theme';

const Rows = styled.div`
  max-height: calc(100dvh - 250px);
  overflow: auto;
  outline-offset: -2px;
  .row {
    display: grid;
    grid-template-columns: 110px minmax(0, 1fr);
    gap: ${space(3)};
    padding: ${space(2)} 0;
    border-bottom: 1px solid ${color.line};
  }
  .found {
    color: ${color.greenText};
  }
  .lost {
    color: ${color.brick};
  }
  .mark {
    display: inline-flex;
    gap: 6px;
    align-items: center;
    font-weight: 600;
  }
`;
export interface Shown {
  r: ReferenceView;
  written: string;
}

/** What a path would lead to; not known yet: undefined. */
function Found({ state }: { state: string | undefined }) {
  if (state === undefined) return <Soft>…</Soft>;
  const isLost = state === 'missing' || state === 'offline';
  const Icon = isLost ? CircleSlash : CheckCircle2;
  return (
    <span className={isLost ? 'mark lost' : 'mark found'}>
      <Icon size={14} aria-hidden />
      {state}
    </span>
  );
}

export function BeforeAndAfter({
  shown,
  found,
  more,
}: {
  shown: readonly Shown[];
  /** What each of them would lead to, in the same order. */
  found: readonly { state: string }[] | undefined;
  /** How many there are beside these. */
  more: number;
}) {
  return (
    <Sheet aria-label="Before and after">
      <Rows tabIndex={0} role="group" aria-label="Paths before and after">
        {shown.map(({ r, written }, n) => (
          <div className="row" key={`${r.scene} ${r.at}`}>
            <Found state={found?.[n]?.state} />
            <div style={{ minWidth: 0 }}>
              <PathDiff before={r.written} after={written} />
              <Soft style={{ fontSize: 13 }}>{r.scene}</Soft>
            </div>
          </div>
        ))}
      </Rows>
      {more > 0 && <Soft>… and {count(more, 'more path')}</Soft>}
    </Sheet>
  );
}
