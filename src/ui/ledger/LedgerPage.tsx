'use client';
// Ledger: every plan that was applied, what it touched, and its undo, in any order as long as nothing later stands on it.

import { readLedgerLines } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import { Lock, Undo2 } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { count, exactTime } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import type { LedgerLine } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { Button, Chip, Empty, ErrorNotice, Grow, Row, Sheet, Soft, Stack, TextField } from '../kit/controls';
import { Needs, Page } from '../kit/Page';
import { Path, PathDiff } from '../kit/Path';
import { useAddress, usePlan, useWorkspaceId } from '../kit/work';
import { color, font, space } from '../theme/theme';

const Day = styled.section`
  h2 {
    font: 600 14.5px ${font.text};
    color: ${color.soft};
    margin: 0 0 ${space(2)};
  }
`;
/** Entries of a day, tied by the stitch. */
const Entries = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  > li {
    position: relative;
    padding: 0 0 ${space(3)} ${space(7)};
  }
  > li::before {
    content: '';
    position: absolute;
    left: 4px;
    top: 8px;
    width: 9px;
    height: 9px;
    border: 2px solid ${color.soft};
    border-radius: 50%;
    background: ${color.sheet};
  }
  > li[data-state='applied']::before {
    border-color: ${color.greenText};
    background: ${color.greenText};
  }
  > li:not(:last-child)::after {
    content: '';
    position: absolute;
    left: 9px;
    top: 24px;
    bottom: -4px;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.lineStrong} 0 6px, transparent 6px 10px);
  }
  .title {
    border: none;
    background: none;
    color: ${color.ink};
    font: 600 15px ${font.text};
    padding: 0;
    cursor: pointer;
    text-align: left;
    min-height: 26px;
  }
  .title:hover {
    text-decoration: underline;
  }
  .title[data-undone='true'] {
    font-weight: 400;
    text-decoration: line-through;
    color: ${color.soft};
  }
  .what {
    display: grid;
    gap: 4px;
    padding: ${space(2)} 0;
  }
`;

const dayOf = (time: string) =>
  new Date(time).toLocaleDateString('en', {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    year: 'numeric',
  });
const clockOf = (time: string) =>
  new Date(time).toLocaleTimeString('en', { hour: '2-digit', minute: '2-digit', hour12: false });

export function LedgerPage() {
  const id = useWorkspaceId();
  const result = useQuery({
    queryKey: ['ledger', id],
    enabled: id !== null,
    queryFn: () => call(readLedgerLines, { id }),
  });
  return (
    <Needs title="Ledger" result={result}>
      {(lines) => <Ledger lines={lines} />}
    </Needs>
  );
}

/** Why it cannot be undone yet; null where it can. */
function held(line: LedgerLine): string | null {
  const [last] = line.later;
  if (!last) return null;
  return `“${last.title}” has changed the same files since${line.later.length > 1 ? `, as have ${count(line.later.length - 1, 'other plan')}` : ''}. Undo ${line.later.length > 1 ? 'those first, the latest first' : 'that first'}.`;
}

function Entry({
  line,
  isOpen,
  onOpen,
  onUndo,
}: {
  line: LedgerLine;
  isOpen: boolean;
  onOpen: () => void;
  onUndo: () => void;
}) {
  const why = held(line);
  const files = line.touched;
  return (
    <li data-state={line.state}>
      <Row $gap={3} style={{ alignItems: 'flex-start' }}>
        <Soft
          style={{ fontVariantNumeric: 'tabular-nums', lineHeight: '26px' }}
          title={exactTime(Date.parse(line.time))}
        >
          {clockOf(line.time)}
        </Soft>
        <Grow>
          <button
            type="button"
            className="title"
            aria-expanded={isOpen}
            data-undone={line.state !== 'applied'}
            onClick={onOpen}
          >
            {line.title}
          </button>
          <div>
            <Soft>
              {line.state === 'applied' ? '' : `${line.state} · `}
              {count(line.files, 'file')}
              {line.paths > 0 && ` · ${count(line.paths, 'path')}`}
            </Soft>
          </div>
          {line.left.length > 0 && (
            <div>
              <Soft>left as it was found: {line.left.join(', ')}</Soft>
            </div>
          )}
          {isOpen && (
            <div className="what">
              {line.changes.slice(0, 20).map((c, i) => (
                <div key={i}>
                  <PathDiff before={c.before} after={c.after} />
                  <Soft style={{ fontSize: 13 }}>{c.scene}</Soft>
                </div>
              ))}
              {files.slice(0, 30).map((f) => (
                <Path key={f} path={f} />
              ))}
              {files.length > 30 && <Soft>and {count(files.length - 30, 'more')}</Soft>}
            </div>
          )}
        </Grow>
        {line.state === 'applied' &&
          (why === null ? (
            <Button aria-label={`Undo: ${line.title}`} onPress={onUndo}>
              <Undo2 size={15} /> Undo…
            </Button>
          ) : (
            <Row style={{ maxWidth: 380 }}>
              <Lock size={15} aria-hidden style={{ flex: 'none' }} color={color.soft} />
              <Soft style={{ fontSize: 13.5 }}>{why}</Soft>
            </Row>
          ))}
      </Row>
    </li>
  );
}

function Ledger({ lines }: { lines: readonly LedgerLine[] }) {
  const [address, change] = useAddress();
  const [open, setOpen] = useState<string | null>(null);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
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
              {count(still.length, 'plan')} in force,{' '}
              {free === still.length ? 'each can be undone now' : `${free} of them can be undone now`}.
            </strong>{' '}
            <Soft>Undoing gives the files back to the byte, and is itself a plan that can be undone.</Soft>
          </>
        )
      }
    >
      {problem && <ErrorNotice error={problem} />}
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
            <Chip
              type="button"
              aria-pressed={onlyHolding}
              onClick={() => change({ show: onlyHolding ? undefined : 'holding' })}
            >
              Only what is in force <strong>{still.length}</strong>
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
                        onUndo={() => {
                          setProblem(null);
                          plan({ kind: 'undo', id: l.id }).catch((cause: unknown) =>
                            setProblem(shapeOf(cause)),
                          );
                        }}
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
