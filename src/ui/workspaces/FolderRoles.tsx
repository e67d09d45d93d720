'use client';
// On a server for several: who sees what lies in an allowed folder, and who may change it.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { readFolderRoles, writeFolderRoles } from '@/wire/routes/people';
import type { Role } from '@/wire/routes/roles';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Choose } from '../kit/fields';
import { Row } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';

const seen: readonly (readonly [Role, string])[] = [
  ['look', 'seen by everybody'],
  ['change', 'seen by those who change'],
  ['manage', 'seen by those who manage'],
];
const changed: readonly (readonly [Role, string])[] = [
  ['change', 'changed by those who change'],
  ['manage', 'changed by those who manage'],
];

export function FolderRoles({ path }: { path: string }) {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ['folder-roles'], queryFn: () => call(readFolderRoles, {}) });
  const { attempt, problem } = useAttempt();
  const own = data?.find((f) => f.path === path);
  if (!own) return null;
  const write = (change: { seenBy?: Role; changedBy?: Role }) =>
    attempt(async () => {
      await call(writeFolderRoles, {}, { ...own, ...change });
      await client.invalidateQueries();
    });
  return (
    <>
      <Row $wrap>
        <Choose
          hidden
          label={`Who sees ${path}`}
          value={own.seenBy}
          options={seen}
          onChange={(seenBy) => void write({ seenBy })}
        />
        <Choose
          hidden
          label={`Who changes ${path}`}
          value={own.changedBy}
          options={changed}
          onChange={(changedBy) => void write({ changedBy })}
        />
      </Row>
      <ErrorNotice error={problem} />
    </>
  );
}
