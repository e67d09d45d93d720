'use client';
// What was done last in this workspace, with its undo.

import Link from '../kit/Link';
import { useState } from 'react';
import styled from 'styled-components';
import { ago, exactTime } from '@/core/text/figures';
import type { LedgerEntry } from '@/wire/views';
import { PlainButton } from '../kit/buttons';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { useStepHref } from '../kit/work';
import { color, space } from '../theme/theme';

const Day = styled.ol`
  list-style: none;
  margin: ${space(2)} 0 0;
  padding: 0;
  position: relative;
  li {
    position: relative;
    padding: 0 0 ${space(3)} ${space(6)};
    display: grid;
    grid-template-columns: 92px 1fr;
    gap: ${space(2)};
  }
  li::before {
    content: '';
    position: absolute;
    left: 2px;
    top: 5px;
    width: 10px;
    height: 10px;
    border: 2px solid ${color.soft};
    border-radius: 50%;
    background: ${color.sheet};
    z-index: 1;
  }
  li:not(:last-child)::after {
    content: '';
    position: absolute;
    left: 6.5px;
    top: 17px;
    bottom: -3px;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.line} 0 6px, transparent 6px 10px);
  }
  time {
    color: ${color.soft};
    font-size: 13px;
  }
  .undone {
    text-decoration: line-through;
    color: ${color.soft};
  }
`;

const shownAtMost = 8;

export function LastDone({ ledger, onUndo }: { ledger: LedgerEntry[]; onUndo: (id: string) => void }) {
  const href = useStepHref();
  const [now] = useState(() => Date.now());
  return (
    <Sheet aria-label="Ledger">
      <Row>
        <h2 style={{ flex: 1 }}>What was done</h2>
        {ledger.length > 0 && <Link href={href('/ledger')}>All of the ledger</Link>}
      </Row>
      {ledger.length === 0 ? (
        <Soft>Every applied plan stands here, with its undo.</Soft>
      ) : (
        <Day>
          {ledger.slice(0, shownAtMost).map((e) => (
            <li key={e.id}>
              <time title={exactTime(Date.parse(e.time))} dateTime={e.time}>
                {ago(Date.parse(e.time), now)}
              </time>
              <span>
                <span className={e.state === 'applied' ? '' : 'undone'}>{e.title}</span>
                {e.state === 'applied' ? (
                  <>
                    {' '}
                    ·{' '}
                    <PlainButton aria-label={`Undo: ${e.title}`} onPress={() => onUndo(e.id)}>
                      undo
                    </PlainButton>
                  </>
                ) : (
                  <Soft> {e.state}</Soft>
                )}
                {e.left.length > 0 && (
                  <Stack>
                    <Soft>left as it was found: {e.left.join(', ')}</Soft>
                  </Stack>
                )}
              </span>
            </li>
          ))}
        </Day>
      )}
    </Sheet>
  );
}
