'use client';
// What was begun in this workspace and is not finished: said on every page until it is put back, or left as it is.

import { putBack } from '@/wire/routes/workspaces';
import { useQueryClient } from '@tanstack/react-query';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import styled from 'styled-components';
import { Button, PlainButton } from '../kit/buttons';
import { Row, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { useOverview, useWorkspaceId } from '../kit/work';
import { space } from '../theme/theme';
import type { OpenEntry } from '@/core/changes/summary';

const said: Record<OpenEntry['why'], string> = {
  unfinished:
    'Another installation began it, or it could not be put back yet: its files may lie half way, and what this page shows is then not what was meant. Putting it back gives every file as it was before.',
  damaged: 'Its record is damaged, so it cannot be put back or undone. Its files are as they are.',
  newer: 'A newer version of Loyal Satchel has begun it. Nothing is changed here until it has finished it.',
};

function Entry({ entry }: { entry: OpenEntry }) {
  const id = useWorkspaceId();
  const client = useQueryClient();
  const { attempt, problem, setProblem } = useAttempt();
  const end = (leave: boolean) =>
    attempt(async () => {
      const { done } = await call(putBack, { id }, { id: entry.id, leave });
      const stuck = done.flatMap((d) => d.stuck);
      if (stuck.length > 0)
        setProblem({
          code: 'unfinished',
          message: `${stuck[0]!.path} could not be put back: ${stuck[0]!.why}`,
          unchanged: 'What it held is safe in the workspace’s store.',
          next: 'Mend the cause, then put it back again.',
          details: stuck.map((s) => `${s.path}: ${s.why}`),
        });
    }).finally(() => client.invalidateQueries());
  return (
    <Notice tone="amber" title={`“${entry.title ?? entry.id}” was begun and is not finished`}>
      <p>{said[entry.why]}</p>
      <Row>
        {entry.why === 'unfinished' && <Button onPress={() => void end(false)}>Put it back</Button>}
        {entry.why !== 'newer' && (
          <PlainButton onPress={() => void end(true)}>Leave the files as they are</PlainButton>
        )}
      </Row>
      <ErrorNotice error={problem} />
    </Notice>
  );
}

const Frame = styled(Stack)`
  padding: ${space(3)} ${space(6)} 0;
`;

/** Nothing where all is finished. */
export function Unfinished() {
  const { data } = useOverview();
  if (!data || data.open.length === 0) return null;
  return (
    <Frame>
      {data.open.map((entry) => (
        <Entry key={entry.id} entry={entry} />
      ))}
    </Frame>
  );
}
