'use client';
// Gives a layout to workspaces that are there: one plan each.

import { makePlan } from '@/wire/routes/plans';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { usePlanOf, useServerState } from '../kit/work';

export function Give({ text, onClose }: { text: string; onClose: () => void }) {
  const { data } = useServerState();
  const planOf = usePlanOf();
  const { attempt, problem } = useAttempt();
  const there = (data?.workspaces ?? []).filter((w) => w.there);
  return (
    <Sheet aria-label="Give it to a workspace">
      <Stack>
        <Row>
          <Grow>
            <h2>Which workspace shall be laid out like this?</h2>
          </Grow>
          <Button onPress={onClose}>Close</Button>
        </Row>
        {there.length === 0 && <Notice tone="slate" title="No workspace is known here yet." />}
        {there.map((w) => (
          <Row key={w.id}>
            <Grow>
              <strong>{w.name}</strong> <Soft>{w.root}</Soft>
            </Grow>
            <Button
              aria-label={`Plan it for ${w.name}`}
              onPress={() =>
                void attempt(() =>
                  planOf(makePlan, { id: w.id }, { kind: 'layout', layout: { text } }, { keep: true }),
                )
              }
            >
              Plan it…
            </Button>
          </Row>
        ))}
        <Soft>
          Homes move with what lives there, new folders are made, empty ones that the layout does not name go.
          Paths in scenes follow. Nothing changes before you have seen the plan.
        </Soft>
        <ErrorNotice error={problem} />
      </Stack>
    </Sheet>
  );
}
