'use client';
// The page of a plan that does not wait for review any more: it was applied, is being applied, failed, or is not known.

import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import type { ErrorShape } from '@/wire/jobs';
import { makePlan, readPlanState } from '@/wire/routes/plans';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, LinkButton } from '../kit/buttons';
import { Row } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { usePlanOf } from '../kit/work';

/** `again`: makes the plan anew, where it is known how it was made. */
export function NotWaiting({ id, error, again }: { id: string; error: ErrorShape; again: ReactNode }) {
  const planOf = usePlanOf();
  const { attempt, problem, busy } = useAttempt();
  const { data: state, isLoading } = useQuery({
    queryKey: ['plan', id, 'state'],
    enabled: error.code === 'plan-gone',
    refetchInterval: ({ state: { data } }) => (data?.is === 'applying' ? 1000 : false),
    queryFn: () => call(readPlanState, { plan: id }),
  });
  if (isLoading) return null;
  if (state?.is === 'applying')
    return (
      <Notice tone="slate" title={`“${state.title}” is being applied.`}>
        Its progress is shown at the top of the window, where it can be cancelled.
      </Notice>
    );
  if (state?.is === 'applied') {
    const { workspace, entry } = state;
    return (
      <>
        <Notice tone="green" title={`“${state.title}” was applied.`}>
          The ledger shows what it changed.
        </Notice>
        <ErrorNotice error={problem} />
        {workspace !== null && (
          <Row>
            <LinkButton href={`/ledger?w=${workspace}`}>Show in the ledger</LinkButton>
            <Button
              isPending={busy !== null}
              onPress={() =>
                void attempt(() => planOf(makePlan, { id: workspace }, { kind: 'undo', id: entry }))
              }
            >
              Undo…
            </Button>
          </Row>
        )}
      </>
    );
  }
  return (
    <>
      <ErrorNotice error={state?.is === 'failed' ? state.error : error} />
      {again}
    </>
  );
}
