'use client';
// Workspaces anywhere below a folder: those that are not known yet are opened, those inside others are repaired by a plan.

import { findWorkspacesRoute } from '@/wire/routes/shelf';
import { openWorkspace } from '@/wire/routes/workspaces';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { CornerDownRight, FolderSearch, Layers } from '../kit/icons';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Form, FormFolder, Submit, useKeptForm } from '../kit/form';
import { Button, PlainButton } from '../kit/buttons';
import { Grow, Sheet, Soft, Stack } from '../kit/layout';
import { Empty, ErrorNotice, Notice } from '../kit/notices';
import { Page } from '../kit/Page';
import { Path } from '../kit/Path';
import { useAddress, useJob, useServerState } from '../kit/work';
import { color, space } from '../theme/theme';
import { NestedRepair, WhichRepair } from './NestedRepair';

interface Found {
  root: string;
  name: string;
  inside: string | null;
  problem: string | null;
}

const Line = styled.div<{ $deep: boolean }>`
  display: flex;
  align-items: center;
  gap: ${space(3)};
  padding: ${space(2)} 0 ${space(2)} ${(p) => (p.$deep ? 26 : 0)}px;
  border-bottom: 1px solid ${color.line};
  flex-wrap: wrap;
  strong {
    overflow-wrap: anywhere;
  }
`;

export function FindWorkspaces({ onClose }: { onClose: () => void }) {
  const { data: state } = useServerState();
  const run = useJob();
  const client = useQueryClient();
  const { attempt, problem } = useAttempt();
  // Where was looked stands in the address: a way back, and a reload, look there again.
  const [address, change] = useAddress();
  const at = address.get('at');
  const { data, error, isFetching, refetch } = useQuery({
    queryKey: ['find', at],
    enabled: at !== null,
    queryFn: () => run(findWorkspacesRoute, {}, { path: at! }),
  });
  const found: Found[] | null = at === null ? null : (data ?? null);
  const form = useKeptForm('below', findWorkspacesRoute.input, { path: at ?? state?.allowed[0]?.path ?? '' });
  const look = (path: string) => (path === at ? refetch() : change({ at: path }));
  const known = new Set(state?.workspaces.map((w) => w.root));
  const nested = found?.filter((f) => f.inside !== null) ?? [];
  const open = async (f: Found) => {
    await call(openWorkspace, {}, { path: f.root });
    await client.invalidateQueries();
  };
  const answer =
    found === null ? (
      'Every folder below is looked through for the mark of a workspace; nothing is changed.'
    ) : nested.length > 0 ? (
      <>
        <strong>
          {count(nested.length, 'workspace')} {nested.length === 1 ? 'lies' : 'lie'} inside another.
        </strong>{' '}
        Then “save” and “open” mean one root or the other by chance. Merge, move out, or unmark.
      </>
    ) : (
      <>{count(found.length, 'workspace')} found, none inside another.</>
    );
  return (
    <Form form={form} label="Look for workspaces" onSubmit={(v) => look(v.path)}>
      <Page
        title="Look for workspaces"
        answer={answer}
        actions={
          <>
            <Button onPress={onClose}>Back</Button>
            <Submit unless={form.values.path === ''}>
              <FolderSearch size={16} /> {isFetching ? 'Looking …' : 'Look'}
            </Submit>
          </>
        }
      >
        <ErrorNotice error={problem ?? (error ? shapeOf(error) : null)} />
        <Sheet>
          <FormFolder name="path" label="Below this folder" title="Where to look" />
        </Sheet>
        {found !== null && (
          <Sheet aria-label="Workspaces found">
            {found.length === 0 ? (
              <Empty>No workspace lies below this folder.</Empty>
            ) : (
              found.map((f) => (
                <Line key={f.root} $deep={f.inside !== null}>
                  {f.inside === null ? (
                    <Layers size={16} aria-hidden />
                  ) : (
                    <CornerDownRight size={16} color={color.amber} aria-label="inside another" />
                  )}
                  <Grow>
                    <strong>{f.name}</strong>{' '}
                    {f.inside !== null && <Soft>inside {f.inside.split('/').pop()}</Soft>}
                    <br />
                    <Path path={f.root} strong={false} />
                    {f.problem && <Notice tone="amber" title={f.problem} />}
                  </Grow>
                  {f.inside !== null ? (
                    <NestedRepair of={{ ...f, inside: f.inside }} />
                  ) : known.has(f.root) ? (
                    <Soft>known</Soft>
                  ) : (
                    <PlainButton
                      aria-label={`Add ${f.name} to the list`}
                      onPress={() => void attempt(() => open(f))}
                    >
                      Add to the list
                    </PlainButton>
                  )}
                </Line>
              ))
            )}
          </Sheet>
        )}
        {nested.length > 0 && (
          <Sheet>
            <Stack $gap={1}>
              <h2>Which repair?</h2>
              <WhichRepair />
            </Stack>
          </Sheet>
        )}
      </Page>
    </Form>
  );
}
