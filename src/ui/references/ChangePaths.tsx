'use client';
// Changes many written paths together: another head, a text or a pattern replaced, relative or absolute; before and after side by side with what
// will then be found. Every state on the way can be returned to; nothing is written until the plan is applied.

import { tryPathsRoute } from '@/wire/routes/references';
import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { count, figure } from '@/core/text/figures';
import type { ReferenceView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Stack } from '../kit/layout';
import { Empty, ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { usePlan, useSettings } from '../kit/work';
import { space } from '../theme/theme';
import { BeforeAndAfter } from './BeforeAndAfter';
import { rowsOf, useChange } from './change';
import { ChangeHow, StatesOnTheWay } from './ChangeHow';
import { AsElsewhere, WriteAll } from './WriteAll';

const Columns = styled.div`
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  gap: ${space(4)};
  align-items: start;
`;
const shownAtMost = 200;

/** Once it is done there is nothing to change any more: back to the table, as it was looked at. */
function tableAddress(): string {
  const { pathname, searchParams } = new URL(window.location.href);
  searchParams.delete('change');
  return `${pathname}?${searchParams}`;
}

export function ChangePaths({
  id,
  filter,
  chosen,
  onClose,
}: {
  id: string;
  filter: Record<string, string>;
  chosen: ReadonlySet<string>;
  onClose: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: ['rows to change', id, filter, [...chosen]],
    staleTime: Infinity,
    queryFn: () => rowsOf(id, filter, chosen),
  });
  if (error || data?.length === 0)
    return (
      <Page title="Change paths" actions={<Button onPress={onClose}>Back</Button>}>
        {error ? <ErrorNotice error={shapeOf(error)} /> : <Empty>No reference is chosen.</Empty>}
      </Page>
    );
  if (!data) return <Page title="Change paths" answer="Reading …" />;
  return <ChangeOf id={id} rows={data} onClose={onClose} />;
}

function ChangeOf({
  id,
  rows,
  onClose,
}: {
  id: string;
  rows: readonly ReferenceView[];
  onClose: () => void;
}) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const change = useChange(rows);
  const { changed, wrong } = change;
  const shown = (changed.length > 0 ? changed : rows.map((r) => ({ r, written: r.written }))).slice(
    0,
    shownAtMost,
  );
  const asked = shown.map(({ r, written }) => ({ scene: r.scene, written }));
  const { data: found } = useQuery({
    queryKey: ['try', id, asked],
    staleTime: 10_000,
    queryFn: () => call(tryPathsRoute, { id }, { paths: asked }),
  });
  const { data: settings } = useSettings({ staleTime: 60_000 });
  const lost = found?.filter((f) => f.state === 'missing').length ?? 0;
  const elsewhere = (settings?.places ?? []).filter((p) => p.heads.length > 1);
  const apply = () =>
    attempt(() =>
      plan(
        {
          kind: 'repath',
          only: null,
          change: {
            how: 'exact',
            paths: changed.map(({ r, written }) => ({ scene: r.scene, at: r.at, written })),
          },
        },
        { done: tableAddress() },
      ),
    );
  const answer =
    changed.length === 0 ? (
      <>{count(rows.length, 'path')} chosen. Nothing is written before you have seen the plan.</>
    ) : (
      <>
        <strong>
          {count(changed.length, 'path')} of {figure(rows.length)} would change
        </strong>
        {found && (
          <>
            ;{' '}
            {lost === 0
              ? 'all that are shown would be found'
              : `${figure(lost)} of those shown would not be found`}
          </>
        )}
        .
      </>
    );
  return (
    <Page
      title="Change paths"
      answer={answer}
      actions={
        <>
          <Button
            onPress={() => {
              change.drop();
              onClose();
            }}
          >
            Leave, change nothing
          </Button>
          <MainButton isDisabled={changed.length === 0 || wrong !== undefined} onPress={() => void apply()}>
            Plan {changed.length > 0 ? count(changed.length, 'change') : 'it'}…
          </MainButton>
        </>
      }
    >
      <ErrorNotice error={problem} />
      <Columns>
        <Stack $gap={4}>
          <ChangeHow change={change} />
          <StatesOnTheWay change={change} />
          <WriteAll
            hasLibraries={(settings?.libraries.length ?? 0) > 0}
            onWrite={(how, nested) =>
              void attempt(() =>
                plan(
                  {
                    kind: 'repath',
                    only: rows.map((r) => ({ scene: r.scene, at: r.at })),
                    nested,
                    change: how,
                  },
                  { done: tableAddress() },
                ),
              )
            }
          />
          {elsewhere.length > 0 && (
            <AsElsewhere id={id} places={elsewhere} rows={rows} change={change} attempt={attempt} />
          )}
        </Stack>
        <BeforeAndAfter shown={shown} found={found} more={changed.length - shownAtMost} />
      </Columns>
    </Page>
  );
}
