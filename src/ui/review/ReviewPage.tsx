'use client';
// Shows any plan: what will happen in one sentence, before and after, what is left as it is, what it does to readiness and disk.

import { applyPlanRoute, readPlan } from '@/wire/routes/plans';
import { useQuery } from '@tanstack/react-query';
import { AlertTriangle, ShieldCheck } from 'lucide-react';
import { useParams, useRouter } from 'next/navigation';
import styled from 'styled-components';
import type { PlanView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { forgetKept } from '../kit/kept';
import { Columns, Grow, Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { Page } from '../kit/Page';
import { useAddress, useJob, useStepHref } from '../kit/work';
import { color, radius, space } from '../theme/theme';
import { ChangedPaths } from './ChangedPaths';
import { PlanFigures } from './PlanFigures';
import { sentenceOf } from './sentence';
import { CopiedFiles, TouchedFiles } from './TouchedFiles';

const Bar = styled.div`
  position: sticky;
  bottom: 0;
  display: flex;
  align-items: center;
  gap: ${space(3)};
  background: ${color.raised};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  padding: ${space(3)} ${space(4)};
  margin-top: auto;
`;

const notesAtMost = 40;

function Notes({ notes }: { notes: PlanView['notes'] }) {
  return (
    <ul style={{ margin: '4px 0 0', paddingLeft: 18 }}>
      {notes.slice(0, notesAtMost).map((n, i) => (
        <li key={i} style={{ overflowWrap: 'anywhere' }}>
          {n.message}
        </li>
      ))}
      {notes.length > notesAtMost && <li>and {notes.length - notesAtMost} more</li>}
    </ul>
  );
}

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

export function ReviewPage() {
  const { id } = useParams<{ id: string }>();
  const { attempt, problem, busy } = useAttempt();
  const { back, done, isKept } = useWayBack();
  const router = useRouter();
  const run = useJob();
  const { data: p, error } = useQuery({
    queryKey: ['plan', id],
    staleTime: Infinity,
    refetchOnWindowFocus: false,
    retry: false,
    queryFn: () => call(readPlan, { plan: id }),
  });
  if (error && busy === null)
    return (
      <Page title="Plan" actions={<Button onPress={() => router.push(back)}>Back</Button>}>
        <ErrorNotice error={problem ?? shapeOf(error)} />
      </Page>
    );
  if (!p) return <Page title="Plan" answer="Reading …" />;
  const apply = () =>
    attempt(async () => {
      const result = await run(applyPlanRoute, { plan: id });
      // What was typed to make it is done.
      if (!isKept) forgetKept(back);
      router.push(result.workspace ? `/overview?w=${result.workspace}` : result.gone ? '/' : done);
    });
  return (
    <Review
      plan={p}
      problem={<ErrorNotice error={problem} />}
      isApplying={busy !== null}
      onApply={() => void apply()}
      onBack={() => router.push(back)}
    />
  );
}

function Review({
  plan: p,
  problem,
  isApplying,
  onApply,
  onBack,
}: {
  plan: PlanView;
  problem: React.ReactNode;
  isApplying: boolean;
  onApply: () => void;
  onBack: () => void;
}) {
  const touched = p.writes.length + p.folders.length + p.removes.length + p.moves.length;
  const noted = (level: PlanView['notes'][number]['level']) => p.notes.filter((n) => n.level === level);
  const [blocked, left, told] = [noted('blocker'), noted('warning'), noted('info')];
  return (
    <Page title={p.title} kicker={<h2>Plan · not applied yet</h2>} answer={sentenceOf(p)}>
      {problem}
      {blocked.length > 0 && (
        <Notice tone="brick" title="This plan cannot be applied.">
          <Notes notes={blocked} />
        </Notice>
      )}
      <Columns style={{ flex: 1 }}>
        <ChangedPaths plan={p} />
        <Stack $gap={4}>
          {p.copies.length > 0 && <CopiedFiles copies={p.copies} />}
          {touched > 0 && <TouchedFiles plan={p} />}
          {left.length > 0 && (
            <Notice tone="amber" title={`Left as it is: ${left.length}`}>
              <Notes notes={left} />
            </Notice>
          )}
          {told.length > 0 && (
            <Notice tone="slate" title="Good to know">
              <Notes notes={told} />
            </Notice>
          )}
          <PlanFigures plan={p} />
        </Stack>
      </Columns>
      <Bar>
        {blocked.length > 0 ? <AlertTriangle size={16} aria-hidden /> : <ShieldCheck size={16} aria-hidden />}
        <Grow>
          <Soft>Every file is checked before and after. Undo brings back the same bytes.</Soft>
        </Grow>
        <Row>
          <Button onPress={onBack}>Back, change nothing</Button>
          <MainButton
            autoFocus
            isDisabled={p.copies.length + touched === 0 || blocked.length > 0}
            isPending={isApplying}
            onPress={onApply}
          >
            {isApplying ? 'Applying …' : 'Apply the plan'}
          </MainButton>
        </Row>
      </Bar>
    </Page>
  );
}
