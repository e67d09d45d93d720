'use client';
// Travel: rehearse the arrival, pack a bag, verify it, unpack it.

import { unpackBag } from '@/wire/routes/bags';
import { count } from '@/core/text/figures';
import type { OverviewView, StateView } from '@/wire/views';
import { useKeptForm } from '../kit/form';
import { Columns, Stack } from '../kit/layout';
import { Page } from '../kit/Page';
import { useOverview, useServerState, useWorkspaceId } from '../kit/work';
import { ArrivedCard, folderNameOf, type Arrival } from './ArrivedCard';
import { PackCard } from './PackCard';
import { RehearseCard } from './RehearseCard';

function answerOf(overview: OverviewView | null) {
  if (!overview)
    return 'A bag that arrived can be verified and unpacked here. To pack one, open a workspace first.';
  const lost = overview.references - overview.ready;
  return lost > 0 ? (
    <>
      <strong>{count(lost, 'reference')}</strong> of {overview.references} would not open elsewhere yet.
      Rehearse to see what the other machine would say; pack when it says all is well.
    </>
  ) : (
    <>
      Everything is in place. Rehearse the arrival, pack a bag, and unpack it on the other machine: every byte
      is checked.
    </>
  );
}

export function TravelPage() {
  const id = useWorkspaceId();
  const { data: state } = useServerState();
  const { data: overview } = useOverview();
  if (!state || (id !== null && !overview)) return <Page title="Travel" answer="Reading …" />;
  return <Travel state={state} overview={overview ?? null} />;
}

function Travel({ state, overview }: { state: StateView; overview: OverviewView | null }) {
  const usual = (bench: string) => (state.demo ? `${state.demo}/${bench}` : (state.allowed[0]?.path ?? ''));
  const form = useKeptForm<Arrival>('arrival', unpackBag.input, {
    bag: '',
    folder: usual('field-laptop'),
    name: '',
  });
  const { bag } = form.values;
  return (
    <Page title="Travel" answer={answerOf(overview)}>
      <Columns>
        <RehearseCard
          target={bag || (overview?.workspace.root ?? '')}
          isBag={bag !== ''}
          machines={state.machines}
        />
        <Stack $gap={4}>
          {overview && (
            <PackCard
              key={overview.workspace.id}
              overview={overview}
              folder={usual('bench')}
              onPacked={(made) => {
                form.setValue('bag', made, { shouldValidate: true });
                form.setValue('name', folderNameOf(made), { shouldValidate: true });
              }}
            />
          )}
          <ArrivedCard form={form} />
        </Stack>
      </Columns>
    </Page>
  );
}
