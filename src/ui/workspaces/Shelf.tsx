'use client';
// What was done above the workspaces, and the ways to put things right there.

import { readShelf, undoOnShelf } from '@/wire/routes/shelf';
import { useQuery } from '@tanstack/react-query';
import { FolderSearch, LayoutList } from '../kit/icons';
import { useState } from 'react';
import { ago, exactTime } from '@/core/text/figures';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, LinkButton, PlainButton } from '../kit/buttons';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useAddress, useReview } from '../kit/work';

/** What was done above the workspaces, with undo; and the ways to put things right there. */
export function Shelf() {
  const { data } = useQuery({
    queryKey: ['shelf'],
    queryFn: () => call(readShelf, {}),
  });
  const [now] = useState(() => Date.now());
  const { attempt, problem } = useAttempt();
  const [, change] = useAddress();
  const review = useReview();
  const undo = (e: { id: string; container: string }) =>
    void attempt(async () =>
      review((await call(undoOnShelf, {}, { container: e.container, id: e.id })).plan, { back: '/' }),
    );
  return (
    <Sheet aria-label="Above the workspaces">
      <Stack $gap={2}>
        <h2>Above the workspaces</h2>
        <Row $wrap>
          <Button onPress={() => change({ do: 'find' })}>
            <FolderSearch size={15} /> Look for workspaces…
          </Button>
          <LinkButton href="/layouts">
            <LayoutList size={15} /> Layouts
          </LinkButton>
        </Row>
        {(data ?? []).slice(0, 6).map((e) => (
          <div key={e.id}>
            <Soft title={exactTime(Date.parse(e.time))}>{ago(Date.parse(e.time), now)}</Soft>{' '}
            {e.state === 'undone' ? <s>{e.title}</s> : e.title}
            {e.state === 'applied' && e.kind !== 'undo' && (
              <>
                {' '}
                ·{' '}
                <PlainButton aria-label={`Undo: ${e.title}`} onPress={() => undo(e)}>
                  undo
                </PlainButton>
              </>
            )}
          </div>
        ))}
        {(data ?? []).length === 0 && (
          <Soft>Workspaces made together, moved or renamed show here, with their undo.</Soft>
        )}
        <ErrorNotice error={problem} />
      </Stack>
    </Sheet>
  );
}
