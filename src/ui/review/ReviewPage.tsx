'use client';
// Shows any plan: what will happen in one sentence, before and after, what is left as it is, what it does to readiness and disk.

import { makeCheckpointRoute } from '@/wire/routes/versions';
import { applyPlanRoute, readPlan } from '@/wire/routes/plans';
import { useQuery } from '@tanstack/react-query';
import { useParams, useRouter } from 'next/navigation';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { RefreshCw } from '../kit/icons';
import { useState } from 'react';
import { Button, MainButton } from '../kit/buttons';
import { forgetKept } from '../kit/kept';
import { Row } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { useAddress, useAnew, useJob, useStepHref } from '../kit/work';
import { NotWaiting } from './NotWaiting';
import { Review } from './Review';

const isHere = (address: string | null): address is string =>
  address?.startsWith('/') === true && !address.startsWith('//');

/** Where the plan was made, and where to go once it is applied. */
function useWayBack() {
  const [address] = useAddress();
  const href = useStepHref();
  const [asked, then] = [address.get('back'), address.get('done')];
  const back = isHere(asked) ? asked : href('/overview');
  return { back, done: isHere(then) ? then : back, isKept: address.get('keep') === 'yes' };
}

const over = new Set(['stale-plan', 'plan-gone']);

export function ReviewPage() {
  const { id } = useParams<{ id: string }>();
  const { attempt, problem, busy } = useAttempt();
  const { back, done, isKept } = useWayBack();
  const router = useRouter();
  const run = useJob();
  const anew = useAnew(id);
  const [isTaken, setTaken] = useState(false);
  // The disk has gone on, or the plan is not there any more: it can only be made anew.
  const [isOver, setOver] = useState(false);
  const { data: p, error } = useQuery({
    queryKey: ['plan', id],
    // One that is being applied is not waiting any more: it is not asked for again.
    enabled: !isTaken,
    staleTime: Infinity,
    refetchOnWindowFocus: false,
    // Back to a plan that was applied since: it does not wait any more.
    refetchOnMount: 'always',
    retry: false,
    queryFn: () => call(readPlan, { plan: id }),
  });
  const again = anew && (
    <Row>
      <MainButton isPending={busy === 'anew'} onPress={() => void attempt(anew, 'anew')}>
        <RefreshCw size={15} /> Make it anew
      </MainButton>
    </Row>
  );
  if (error && !isTaken)
    return (
      <Page title="Plan" actions={<Button onPress={() => router.push(back)}>Back</Button>}>
        <NotWaiting id={id} error={shapeOf(error)} again={again} />
        <ErrorNotice error={problem} />
      </Page>
    );
  if (!p) return <Page title="Plan" answer="Reading …" />;
  const apply = (first: boolean) => {
    setTaken(true);
    return attempt(async () => {
      if (first && p.workspace !== null)
        await run(makeCheckpointRoute, { id: p.workspace }, { name: `before: ${p.title}`.slice(0, 200) });
      const result = await run(applyPlanRoute, { plan: id }).catch((cause: unknown) => {
        setOver(over.has(shapeOf(cause).code));
        throw cause;
      });
      // What was typed to make it is done.
      if (!isKept) forgetKept(back);
      router.push(result.workspace ? `/overview?w=${result.workspace}` : result.gone ? '/' : done);
    }, 'apply');
  };
  return (
    <Review
      plan={p}
      problem={
        <>
          <ErrorNotice error={problem} />
          {isTaken && (problem || busy === 'anew') && again}
        </>
      }
      isApplying={busy === 'apply'}
      isOver={isOver}
      onApply={(first) => void apply(first)}
      onBack={() => router.push(back)}
    />
  );
}
