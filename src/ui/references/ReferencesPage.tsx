'use client';
// References: every external file of the workspace at once; choose, and make them travel.

import { readGroups } from '@/wire/routes/references';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { call } from '../kit/api';
import { Needs } from '../kit/Page';
import { useWorkspaceId } from '../kit/work';
import { References } from './References';
import { useTableQuery } from './search';

export function ReferencesPage() {
  const id = useWorkspaceId();
  const { filter, search } = useTableQuery();
  const result = useQuery({
    queryKey: ['groups', id, filter],
    enabled: id !== null,
    placeholderData: keepPreviousData,
    queryFn: async () => ({ groups: await call(readGroups, { id }, { ...filter }), answers: filter }),
  });
  return (
    <Needs title="References" result={result}>
      {({ groups, answers }) => (
        <References key={id} id={id!} groups={groups} answers={answers} filter={filter} search={search} />
      )}
    </Needs>
  );
}
