'use client';
// Renames the files of a folder by one pattern: which, in what order, to what; a clash shows at once, and every path to them follows.

import { ArrowRight, XCircle } from '../kit/icons';
import styled from 'styled-components';
import { z } from 'zod';
import { inOrder, orders, renameAll, wrongPattern, type Order } from '@/core/names/renaming';
import { count } from '@/core/text/figures';
import type { FileView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Tick } from '../kit/fields';
import { Form, FormChoice, FormNumber, FormText, Submit, useKeptForm } from '../kit/form';
import { useKept } from '../kit/kept';
import { Grow, Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlan } from '../kit/work';
import { color, space } from '../theme/theme';

const values = z.object({
  pattern: z.string().refine((p) => wrongPattern(p) === null),
  order: z.enum(orders),
  first: z.number().int().min(0),
});
type Values = z.output<typeof values>;
const List = styled.div`
  max-height: 52vh;
  overflow: auto;
  outline-offset: -2px;
  .line {
    display: grid;
    grid-template-columns: 22px minmax(0, 1fr) 20px minmax(0, 1fr);
    gap: ${space(2)};
    align-items: center;
    min-height: 30px;
    border-bottom: 1px solid ${color.line};
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
  const { attempt, problem } = useAttempt();
  const [leftOut, setLeftOut] = useKept('left as they are', z.array(z.string()), []);
  const left = new Set(leftOut);
  const form = useKeptForm<Values>('rename', values, {
    pattern: '{name}_{number:3}',
    order: 'name',
    first: 1,
  });
  const { pattern, order, first } = form.values;
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
  const go = () =>
    attempt(() =>
      plan({ kind: 'move', moves: changes.map((r) => ({ path: prefix + r.from, to: prefix + r.to })) }),
    );
  const leave = (name: string, out: boolean) =>
    setLeftOut(out ? [...leftOut, name] : leftOut.filter((n) => n !== name));
  const close = () => {
    form.takeBack();
    setLeftOut(undefined);
    onClose();
  };
  return (
    <Sheet aria-label="Rename these files" style={{ overflow: 'auto' }}>
      <Stack>
        <Form form={form} label="Rename by a pattern" onSubmit={go}>
          <ErrorNotice error={problem} />
          <Row $wrap $gap={3} style={{ alignItems: 'flex-start' }}>
            <Grow style={{ minWidth: 220 }}>
              <FormText
                name="pattern"
                label="New names"
                mono
                check={(v) => wrongPattern(v) ?? undefined}
                description="{name} {number:3} {date} {year} {month} {day}; extensions stay"
              />
            </Grow>
            <FormChoice
              name="order"
              label="Counted"
              options={orders.map((o) => [o, orderNames[o]] as const)}
            />
            <div style={{ width: 100 }}>
              <FormNumber
                name="first"
                label="From"
                check={(v) => (/^\d{1,6}$/.test(v.trim()) ? undefined : 'A whole number.')}
              />
            </div>
          </Row>
          <Row>
            <Grow>
              <strong>{count(changes.length, 'file')} would be renamed</strong>
              {bad > 0 && <Soft>; {bad} cannot be</Soft>}
            </Grow>
            <Button onPress={close}>Leave, change nothing</Button>
            <Submit unless={changes.length === 0 || bad > 0 || wrong !== null}>Plan it…</Submit>
          </Row>
        </Form>
        <List tabIndex={0} role="group" aria-label="Names before and after">
          {inOrder(all, order)
            .slice(0, 1000)
            .map((f) => {
              const r = made.get(f.name);
              return (
                <div className="line" key={f.name}>
                  <Tick label={f.name} checked={!left.has(f.name)} onChange={(on) => leave(f.name, !on)} />
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
                </div>
              );
            })}
        </List>
      </Stack>
    </Sheet>
  );
}
