'use client';
// Outputs: whose each is, how the next one is to be called, and whether all that are expected are there.

import { useQuery } from '@tanstack/react-query';
import { listOutputs } from '@/wire/routes/versions';
import type { OutputsView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useJob, useWorkspaceId } from '../kit/work';
import { today } from '../workspaces/PatternField';
import { NextOutput } from './NextOutput';
import { Origins } from './Origins';
import { Passes } from './Passes';

/** All outputs with their scenes. */
export function useOutputs() {
  const id = useWorkspaceId();
  const run = useJob();
  return useQuery<OutputsView>({
    queryKey: ['outputs', id],
    staleTime: 60_000,
    queryFn: () => run(listOutputs, { id }, { today: today() }),
  });
}

/** `scene`: the one that is looked at. */
export function Outputs({ scene }: { scene: string }) {
  const { data, error, isFetching, refetch } = useOutputs();
  return (
    <>
      {error ? <ErrorNotice error={shapeOf(error)} /> : !data && <Soft>Finding whose the outputs are …</Soft>}
      {data && (
        <>
          <Origins view={data} isFetching={isFetching} onAgain={() => void refetch()} />
          <NextOutput view={data} scene={scene} />
        </>
      )}
      <Passes />
    </>
  );
}
