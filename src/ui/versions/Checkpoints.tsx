'use client';
// Checkpoints: the state of the whole workspace under a name, what changed since, and the way back to it.

import { useQuery } from '@tanstack/react-query';
import { Flag, History, Trash2 } from '../kit/icons';
import styled from 'styled-components';
import { z } from 'zod';
import { ago, bytes, count, exactBytes, exactTime } from '@/core/text/figures';
import { listCheckpoints, makeCheckpointRoute, readSince } from '@/wire/routes/versions';
import type { CheckpointView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { PlainButton } from '../kit/buttons';
import { Form, FormText, Submit, useKeptForm } from '../kit/form';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useAddress, useJob, usePlan, useWorkspaceId } from '../kit/work';
import { color, space } from '../theme/theme';

const Line = styled.div`
  display: flex;
  gap: ${space(4)};
  align-items: center;
  flex-wrap: wrap;
  padding: ${space(2)} 0;
  border-bottom: 1px solid ${color.line};
  .name {
    flex: 1 1 220px;
    min-width: 0;
    font-weight: 700;
    overflow-wrap: anywhere;
  }
`;

const nameSchema = z.object({ name: z.string().max(200) });

export function Checkpoints({ now }: { now: number }) {
  const id = useWorkspaceId();
  const run = useJob();
  const { attempt, problem, busy } = useAttempt();
  const { data, error, refetch } = useQuery({
    queryKey: ['checkpoints', id],
    queryFn: () => call(listCheckpoints, { id }),
  });
  const form = useKeptForm('checkpoint', nameSchema, { name: '' });
  const make = (v: { name: string }) =>
    attempt(async () => {
      await run(makeCheckpointRoute, { id }, { name: v.name });
      form.takeBack();
      await refetch();
    }, 'make');
  return (
    <>
      <Sheet aria-label="A new checkpoint">
        <Form form={form} label="A new checkpoint" onSubmit={make}>
          <Stack>
            <ErrorNotice error={problem} />
            <Row $gap={4} $wrap style={{ alignItems: 'flex-end' }}>
              <FormText name="name" label="Name" placeholder="before the rig is taken apart" />
              <Submit unless={busy !== null}>
                <Flag size={16} /> {busy === 'make' ? 'Making it …' : 'Make a checkpoint'}
              </Submit>
            </Row>
            <Soft>
              Every file of the workspace is kept in its store, as it is now. The first one takes about as
              much room as the files; each later one what changed.
            </Soft>
          </Stack>
        </Form>
      </Sheet>
      <Sheet aria-label="Checkpoints">
        <ErrorNotice error={error ? shapeOf(error) : null} />
        {data?.length === 0 && (
          <Soft>
            No checkpoint yet. Make one before something risky: everything can go back to it at once.
          </Soft>
        )}
        {data?.map((c) => (
          <One key={c.id} checkpoint={c} now={now} />
        ))}
      </Sheet>
    </>
  );
}

function One({ checkpoint: c, now }: { checkpoint: CheckpointView; now: number }) {
  const [address, change] = useAddress();
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const isOpen = address.get('since') === c.id;
  const time = Date.parse(c.time);
  return (
    <>
      <Line>
        <span className="name">{c.name}</span>
        {c.by !== null && <span>{c.by}</span>}
        <span>{count(c.files, 'file')}</span>
        <span title={exactBytes(c.bytes)}>{bytes(c.bytes)}</span>
        <span title={exactTime(time)}>{ago(time, now)}</span>
        <PlainButton
          aria-expanded={isOpen}
          aria-label={`What changed since ${c.name}`}
          onPress={() => change({ since: isOpen ? undefined : c.id })}
        >
          What changed
        </PlainButton>
        <PlainButton
          aria-label={`Go back to ${c.name}`}
          onPress={() => void attempt(() => plan({ kind: 'back', id: c.id }))}
        >
          <History size={15} /> Go back…
        </PlainButton>
        <PlainButton
          aria-label={`Give up ${c.name}`}
          onPress={() => void attempt(() => plan({ kind: 'drop', id: c.id }))}
        >
          <Trash2 size={15} /> Give up…
        </PlainButton>
      </Line>
      <ErrorNotice error={problem} />
      {isOpen && <Since id={c.id} />}
    </>
  );
}

const groups = [
  ['changed', 'Changed'],
  ['gone', 'Gone'],
  ['fresh', 'New'],
] as const;

function Since({ id: checkpoint }: { id: string }) {
  const id = useWorkspaceId();
  const { data, error } = useQuery({
    queryKey: ['since', id, checkpoint],
    queryFn: () => call(readSince, { id }, { checkpoint }),
  });
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data) return <Soft>Looking at every file …</Soft>;
  const total = groups.reduce((sum, [key]) => sum + data[key].count, 0);
  return (
    <Stack $gap={2} style={{ padding: '8px 0 12px' }}>
      <span>
        {total === 0
          ? 'Nothing changed since.'
          : `${count(total, 'file')} differ; ${count(data.same, 'file')} are as they were.`}
      </span>
      {groups.map(
        ([key, title]) =>
          data[key].count > 0 && (
            <div key={key}>
              <strong>{title}</strong> <Soft>{data[key].count}</Soft>
              <ul style={{ margin: '2px 0 0', paddingLeft: 18 }}>
                {data[key].paths.map((p) => (
                  <li key={p}>
                    <Mono>{p}</Mono>
                  </li>
                ))}
                {data[key].count > data[key].paths.length && (
                  <li>and {data[key].count - data[key].paths.length} more</li>
                )}
              </ul>
            </div>
          ),
      )}
    </Stack>
  );
}
