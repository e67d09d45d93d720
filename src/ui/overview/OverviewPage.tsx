'use client';
// Overview: would it open, complete, on the other machine? If not, what holds it back, and the one step that mends most.

import { scanWorkspace } from '@/wire/routes/workspaces';
import { Briefcase, RefreshCw } from '../kit/icons';
import Link from '../kit/Link';
import styled from 'styled-components';
import { count, figure } from '@/core/text/figures';
import type { OverviewView } from '@/wire/views';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Mono, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { Needs, Page } from '../kit/Page';
import { useOverview, usePlan, useStepHref, useWorkspaceId } from '../kit/work';
import { space } from '../theme/theme';
import { NestedRepair, WhichRepair } from '../workspaces/NestedRepair';
import { Cards } from './Cards';
import { Guide } from './Guide';
import { HeldBack } from './HeldBack';
import { whatHoldsBack } from './holdsBack';
import { LastDone } from './LastDone';

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1.55fr) minmax(0, 1fr);
  gap: ${space(4)};
  align-items: start;
  flex: 1;
  @media (max-width: 1120px) {
    grid-template-columns: minmax(0, 1fr);
  }
`;
function titleOf(d: OverviewView): string {
  if (d.references === 0) return d.scanned === null ? 'Reading the workspace' : 'Nothing referenced yet';
  const part = d.ready / d.references;
  return part === 1 ? 'Ready to travel' : part > 0.7 ? 'Almost ready to travel' : 'Not ready to travel yet';
}

export function OverviewPage() {
  const result = useOverview();
  return (
    <Needs title="Overview" result={result}>
      {(d) => <Overview d={d} />}
    </Needs>
  );
}

function answerOf(d: OverviewView) {
  const lost = d.references - d.ready;
  return d.references === 0 ? (
    d.scanned === null ? (
      'One moment: the scenes are being read.'
    ) : (
      'There is no scene with references in this workspace yet. Bring one in: everything it needs comes along.'
    )
  ) : lost === 0 ? (
    <>
      All <strong>{figure(d.references)}</strong> references in {count(d.scenes, 'file')} would open on
      another machine.
    </>
  ) : (
    <>
      <strong>
        {figure(d.ready)} of {figure(d.references)}
      </strong>{' '}
      references would open in a copy of this folder on another machine.{' '}
      {whatHoldsBack(d.byState, d.odd, d.gapped)}
      {d.withLibraries > d.ready && ` With its libraries there, ${figure(d.withLibraries)} would.`}
    </>
  );
}

/** Where it lies is no place to work in, or it lies somewhere else, too. */
function Misplaced({ d }: { d: OverviewView }) {
  const href = useStepHref();
  return (
    <>
      {d.misplaced !== null && (
        <Notice tone="amber" title="This is no place to work in.">
          {d.misplaced} <Link href={href('/travel')}>Let it arrive elsewhere</Link>
        </Notice>
      )}
      {d.inside !== null && (
        <Notice
          tone="amber"
          title={`It lies inside another workspace, ${d.inside.split('/').pop()}: “save” and “open” mean one root or the other by chance.`}
        >
          <NestedRepair of={{ ...d.workspace, inside: d.inside }} />
          <WhichRepair />
        </Notice>
      )}
      {d.copies.length > 0 && (
        <Notice
          tone="slate"
          title={`${d.workspace.name} lies ${d.copies.length === 1 ? 'at another place' : 'at other places'}, too.`}
        >
          <Mono>{d.copies.slice(0, 3).join(', ')}</Mono>: what is saved in one is not in the other. Under
          Travel the two are compared file by file.
        </Notice>
      )}
    </>
  );
}

function Overview({ d }: { d: OverviewView }) {
  const href = useStepHref();
  const plan = usePlan();
  const id = useWorkspaceId();
  const { attempt, problem } = useAttempt();
  const lost = d.references - d.ready;
  const mend = (only: { scene: string; at: string }[] | null) =>
    void attempt(() => plan({ kind: 'travel', only }));
  return (
    <Page
      title={titleOf(d)}
      answer={answerOf(d)}
      actions={
        <>
          <Button onPress={() => void attempt(() => call(scanWorkspace, { id }))}>
            <RefreshCw size={15} /> Read again
          </Button>
          {d.references === 0 ? (
            <Link href={href('/files')} style={{ alignSelf: 'center' }}>
              Bring a scene in
            </Link>
          ) : lost > 0 ? (
            <MainButton onPress={() => mend(null)}>
              <Briefcase size={16} /> Make them travel…
            </MainButton>
          ) : (
            <Link href={href('/travel')} style={{ alignSelf: 'center' }}>
              Pack a bag
            </Link>
          )}
        </>
      }
    >
      <ErrorNotice error={problem} />
      <Misplaced d={d} />
      <Cards d={d} />
      <Columns>
        <HeldBack d={d} onMend={mend} />
        <Stack $gap={4}>
          <Guide d={d} />
          <LastDone ledger={d.ledger} onUndo={(e) => void attempt(() => plan({ kind: 'undo', id: e }))} />
        </Stack>
      </Columns>
    </Page>
  );
}
