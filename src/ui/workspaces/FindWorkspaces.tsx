'use client';
// Workspaces anywhere below a folder: those that are not known yet are opened, those inside others are repaired by a plan.

import { makePlan } from '@/wire/routes/plans';
import { findWorkspacesRoute, relocate } from '@/wire/routes/shelf';
import { openWorkspace } from '@/wire/routes/workspaces';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { CornerDownRight, FolderSearch, Layers } from 'lucide-react';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Form, FormFolder, Submit, useKeptForm } from '../kit/form';
import { Button, PlainButton } from '../kit/buttons';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { Empty, ErrorNotice, Notice } from '../kit/notices';
import { Page } from '../kit/Page';
import { Path } from '../kit/Path';
import { useAddress, useJob, usePlanOf, useServerState } from '../kit/work';
import { color, space } from '../theme/theme';

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
  const planOf = usePlanOf();
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
  const repair = async (f: Found, how: 'unmark' | 'merge') => {
    const outer = await call(openWorkspace, {}, { path: f.inside! });
    await planOf(
      makePlan,
      { id: outer.id },
      { kind: 'nested', inner: f.root.slice(f.inside!.length + 1), how },
    );
  };
  const moveOut = (f: Found) => {
    const parent = f.inside!.slice(0, f.inside!.lastIndexOf('/'));
    return planOf(relocate, {}, { moves: [{ from: f.root, to: `${parent}/${f.root.split('/').pop()}` }] });
  };
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
                    <Row>
                      <Button
                        aria-label={`Merge ${f.name} into the outer workspace`}
                        onPress={() => void attempt(() => repair(f, 'merge'))}
                      >
                        Merge it…
                      </Button>
                      <Button
                        aria-label={`Move ${f.name} out`}
                        onPress={() => void attempt(() => moveOut(f))}
                      >
                        Move it out…
                      </Button>
                      <Button
                        aria-label={`Unmark ${f.name}`}
                        onPress={() => void attempt(() => repair(f, 'unmark'))}
                      >
                        Unmark it…
                      </Button>
                    </Row>
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
              <div>
                <strong>Merge</strong>{' '}
                <Soft>files go to the homes of the outer workspace, paths follow.</Soft>
              </div>
              <div>
                <strong>Move out</strong>{' '}
                <Soft>it becomes a neighbour of the outer one; paths between them follow.</Soft>
              </div>
              <div>
                <strong>Unmark</strong> <Soft>it stays where it is, as a plain folder.</Soft>
              </div>
            </Stack>
          </Sheet>
        )}
      </Page>
    </Form>
  );
}
