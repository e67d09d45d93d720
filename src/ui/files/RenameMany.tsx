'use client';
// Renames the files of a folder by one pattern: which, in what order, to what; a clash shows at once, and every path to them follows.

import { ArrowRight, XCircle } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { checkNewName } from '@/core/names/portable';
import { inOrder, orders, renameAll, wrongPattern, type Order } from '@/core/names/renaming';
import { count } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import type { FileView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import {
  Button,
  ErrorNotice,
  Grow,
  MainButton,
  Mono,
  Row,
  Sheet,
  Soft,
  Stack,
  TextField,
} from '../kit/controls';
import { Choose, DraftField } from '../kit/fields';
import { usePlan } from '../kit/work';
import { color, space } from '../theme/theme';

const List = styled.div`
  max-height: 52vh;
  overflow: auto;
  outline-offset: -2px;
  label {
    display: grid;
    grid-template-columns: 22px minmax(0, 1fr) 20px minmax(0, 1fr);
    gap: ${space(2)};
    align-items: center;
    min-height: 30px;
    border-bottom: 1px solid ${color.line};
    cursor: pointer;
  }
  .wrong {
    color: ${color.brick};
    font-size: 13px;
  }
`;
const orderNames: Record<Order, string> = {
  name: 'by name',
  length: 'by length of the name',
  date: 'by when they were changed',
};

export function RenameMany({
  folder,
  files,
  onClose,
}: {
  folder: string;
  files: FileView[];
  onClose: () => void;
}) {
  const plan = usePlan();
  const [pattern, setPattern] = useState('{name}_{number:3}');
  const [order, setOrder] = useState<Order>('name');
  const [first, setFirst] = useState(1);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const all = files
    .filter((f) => f.kind === 'file')
    .map((f) => ({ name: f.name, modified: f.modified ?? 0 }));
  const chosen = all.filter((f) => !left.has(f.name));
  const others = files.filter((f) => f.kind === 'folder' || left.has(f.name)).map((f) => f.name);
  const wrong = wrongPattern(pattern);
  const made = new Map(wrong ? [] : renameAll(chosen, others, pattern, order, first).map((r) => [r.from, r]));
  const changes = [...made.values()].filter((r) => r.to !== r.from);
  const bad = changes.filter((r) => r.wrong !== null).length;
  const prefix = folder === '' ? '' : `${folder}/`;
  const go = () => {
    setProblem(null);
    plan({ kind: 'move', moves: changes.map((r) => ({ path: prefix + r.from, to: prefix + r.to })) }).catch(
      (cause: unknown) => setProblem(shapeOf(cause)),
    );
  };
  return (
    <Sheet aria-label="Rename these files">
      <Stack>
        {problem && <ErrorNotice error={problem} />}
        <Row $wrap $gap={3} style={{ alignItems: 'flex-start' }}>
          <Grow style={{ minWidth: 220 }}>
            <TextField
              label="New names"
              mono
              value={pattern}
              onChange={setPattern}
              error={wrong ?? undefined}
              description="{name} {number:3} {date} {year} {month} {day}; extensions stay"
            />
          </Grow>
          <Choose
            label="Counted"
            value={order}
            onChange={setOrder}
            options={orders.map((o) => [o, orderNames[o]] as const)}
          />
          <div style={{ width: 100 }}>
            <DraftField
              label="From"
              value={String(first)}
              check={(v) => (/^\d{1,6}$/.test(v.trim()) ? undefined : 'A whole number.')}
              onChange={(v) => setFirst(Number(v))}
            />
          </div>
        </Row>
        <Row>
          <Grow>
            <strong>{count(changes.length, 'file')} would be renamed</strong>
            {bad > 0 && <Soft>; {bad} cannot be</Soft>}
          </Grow>
          <Button onPress={onClose}>Leave, change nothing</Button>
          <MainButton isDisabled={changes.length === 0 || bad > 0 || wrong !== null} onPress={go}>
            Plan it…
          </MainButton>
        </Row>
        <List tabIndex={0} role="group" aria-label="Names before and after">
          {inOrder(all, order)
            .slice(0, 1000)
            .map((f) => {
              const r = made.get(f.name);
              return (
                <label key={f.name}>
                  <input
                    type="checkbox"
                    aria-label={f.name}
                    checked={!left.has(f.name)}
                    onChange={() => {
                      const next = new Set(left);
                      if (!next.delete(f.name)) next.add(f.name);
                      setLeft(next);
                    }}
                  />
                  <Mono>{f.name}</Mono>
                  {r ? (
                    r.wrong ? (
                      <XCircle size={15} color={color.brick} aria-label="cannot be" />
                    ) : (
                      <ArrowRight size={15} aria-label="becomes" />
                    )
                  ) : (
                    <span />
                  )}
                  {r ? (
                    <span>
                      <Mono>
                        <strong>{r.to}</strong>
                      </Mono>
                      {r.wrong && <div className="wrong">{r.wrong}</div>}
                    </span>
                  ) : (
                    <Soft>stays</Soft>
                  )}
                </label>
              );
            })}
        </List>
      </Stack>
    </Sheet>
  );
}

/** A folder under another name or elsewhere: all that is in it, every path to it, and a home that it is, follow. */
export function RenameFolder({ folder, onClose }: { folder: string; onClose: () => void }) {
  const plan = usePlan();
  const [to, setTo] = useState(folder);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const wrong = to.split('/').flatMap((part) => checkNewName(part))[0]?.message;
  const move = () => {
    setProblem(null);
    plan({ kind: 'move', moves: [{ path: folder, to }] }).catch((cause: unknown) =>
      setProblem(shapeOf(cause)),
    );
  };
  return (
    <Stack $gap={2}>
      {problem && <ErrorNotice error={problem} />}
      <Row style={{ alignItems: 'flex-start' }}>
        <TextField
          label="The folder’s path from the root"
          mono
          value={to}
          onChange={setTo}
          error={wrong}
          onKeyDown={(e) => {
            if (e.key === 'Enter' && to !== folder && !wrong) move();
          }}
        />
        <Button style={{ marginTop: 24 }} onPress={onClose}>
          Cancel
        </Button>
        <MainButton
          style={{ marginTop: 24 }}
          isDisabled={to === folder || wrong !== undefined}
          onPress={move}
        >
          Plan it…
        </MainButton>
      </Row>
    </Stack>
  );
}
