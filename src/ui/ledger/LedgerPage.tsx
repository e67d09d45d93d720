'use client';
// Ledger: every plan that was applied, what it touched, and its undo, in any order as long as nothing later stands on it.

import { readLedgerLines, readSeenLedger } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { count, exactTime, figure } from '@/core/text/figures';
import type { LedgerLine } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Chip } from '../kit/buttons';
import { TextField } from '../kit/fields';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { Empty, ErrorNotice, Notice } from '../kit/notices';
import { Needs, Page } from '../kit/Page';
import { useAddress, usePlan, useWorkspaceId } from '../kit/work';
import { color, font, space } from '../theme/theme';
import { Entries, Entry } from './Entry';

const Day = styled.section`
  h2 {
    font: 600 14.5px ${font.text};
    color: ${color.soft};
    margin: 0 0 ${space(2)};
  }
`;
const dayOf = (time: string) =>
  new Date(time).toLocaleDateString('en', {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    year: 'numeric',
  });
export function LedgerPage() {
  const id = useWorkspaceId();
  const result = useQuery({
    queryKey: ['ledger', id],
    enabled: id !== null,
    queryFn: () => call(readLedgerLines, { id }),
  });
  const isAway = result.error !== null && shapeOf(result.error).code === 'offline';
  const before = useQuery({
    queryKey: ['ledger seen', id],
    enabled: id !== null && isAway,
    queryFn: () => call(readSeenLedger, { id }),
  });
  if (isAway && before.data) return <Ledger lines={before.data.lines} seen={before.data.seen} />;
  return (
    <Needs title="Ledger" result={result}>
      {(lines) => <Ledger lines={lines} seen={null} />}
    </Needs>
  );
}

/** `seen`: when it was read last, where the workspace's drive is away; then nothing can be undone. */
function Ledger({ lines, seen }: { lines: readonly LedgerLine[]; seen: number | null }) {
  const [address, change] = useAddress();
  const [open, setOpen] = useState<string | null>(null);
  const { attempt, problem } = useAttempt();
  const plan = usePlan();
  const text = address.get('q') ?? '';
  const onlyHolding = address.get('show') === 'holding';
  const wanted = lines.filter(
    (l) =>
      (!onlyHolding || (l.state === 'applied' && l.undoes === null)) &&
      (text === '' || `${l.title}\n${l.touched.join('\n')}`.toLowerCase().includes(text.toLowerCase())),
  );
  const days = new Map<string, LedgerLine[]>();
  for (const l of wanted) days.set(dayOf(l.time), [...(days.get(dayOf(l.time)) ?? []), l]);
  const still = lines.filter((l) => l.state === 'applied' && l.undoes === null);
  const free = still.filter((l) => l.later.length === 0).length;
  return (
    <Page
      title="Ledger"
      answer={
        lines.length === 0 ? undefined : (
          <>
            <strong>
              {count(still.length, 'plan')} in force
              {seen !== null
                ? ''
                : free === still.length
                  ? ', each can be undone now'
                  : `, ${free} of them can be undone now`}
              .
            </strong>{' '}
            <Soft>Undoing gives the files back to the byte, and is itself a plan that can be undone.</Soft>
          </>
        )
      }
    >
      <ErrorNotice error={problem} />
      {seen !== null && (
        <Notice tone="amber" title="Its drive or folder is not there just now.">
          This is the ledger as it was read on {exactTime(seen)}. What can be undone is undone once it is
          back.
        </Notice>
      )}
      {lines.length === 0 ? (
        <Empty>Every plan you apply is written down here, with what it touched and its undo.</Empty>
      ) : (
        <>
          <Row $gap={3} style={{ alignItems: 'flex-end' }}>
            <div style={{ width: 340 }}>
              <TextField
                label="Find a plan or a file"
                value={text}
                onChange={(q) => change({ q })}
                placeholder="hull_planks"
              />
            </div>
            <Chip isSelected={onlyHolding} onChange={(on) => change({ show: on ? 'holding' : undefined })}>
              Only what is in force <strong>{figure(still.length)}</strong>
            </Chip>
          </Row>
          <Sheet>
            <Stack $gap={4}>
              {wanted.length === 0 && <Soft>No plan fits.</Soft>}
              {[...days].map(([day, list]) => (
                <Day key={day}>
                  <h2>{day}</h2>
                  <Entries>
                    {list.map((l) => (
                      <Entry
                        key={l.id}
                        line={l}
                        isOpen={open === l.id}
                        onOpen={() => setOpen(open === l.id ? null : l.id)}
                        isAway={seen !== null}
                        onUndo={() => void attempt(() => plan({ kind: 'undo', id: l.id }))}
                      />
                    ))}
                  </Entries>
                </Day>
              ))}
            </Stack>
          </Sheet>
        </>
      )}
    </Page>
  );
}
