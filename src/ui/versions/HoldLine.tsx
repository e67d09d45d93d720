'use client';
// On a server for several: who holds a scene while they work on it in another program; holding it, letting it go, or breaking the hold with a reason.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Hand } from '../kit/icons';
import { useState } from 'react';
import { plainName } from '@/core/names/counters';
import { when } from '@/core/text/figures';
import { listHolds, sayHoldRoute } from '@/wire/routes/versions';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { TextField } from '../kit/fields';
import { EnterForm } from '../kit/form';
import { Grow, Row, Soft } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { useServerState, useWorkspaceId } from '../kit/work';

type Word = 'hold' | 'release' | 'break';

export function HoldLine({ scene, now }: { scene: string; now: number }) {
  const id = useWorkspaceId();
  const me = useServerState().data?.me ?? null;
  const client = useQueryClient();
  const { attempt, problem, busy } = useAttempt();
  const [asks, setAsks] = useState<'hold' | 'break' | null>(null);
  const { data, error } = useQuery({
    queryKey: ['holds', id],
    enabled: me !== null,
    refetchInterval: 10_000,
    queryFn: () => call(listHolds, { id }),
  });
  if (me === null || !data) return <ErrorNotice error={error ? shapeOf(error) : null} />;
  // A hold is of a scene in all its versions: who saves the next one goes on holding it.
  const held = data.find((h) => plainName(h.scene) === plainName(scene));
  const say = (what: Word, why = '') =>
    attempt(async () => {
      setAsks(null);
      client.setQueryData(['holds', id], await call(sayHoldRoute, { id }, { do: what, scene, why }));
    });
  const isMine = held?.by === me.name;
  return (
    <>
      {held ? (
        <Notice
          tone={isMine ? 'green' : 'amber'}
          title={isMine ? 'You hold this scene' : `${held.by} holds this scene`}
        >
          <Row $wrap>
            <Grow>
              since {when(Date.parse(held.since), now)}
              {held.why === '' ? '' : `: “${held.why}”`}
            </Grow>
            {isMine ? (
              <Button isPending={busy !== null} onPress={() => void say('release')}>
                Let it go
              </Button>
            ) : (
              <Button onPress={() => setAsks('break')}>Break the hold…</Button>
            )}
          </Row>
        </Notice>
      ) : (
        <Row>
          <Grow>
            <Soft>Nobody holds this scene.</Soft>
          </Grow>
          <Button onPress={() => setAsks('hold')}>
            <Hand size={15} /> Hold it…
          </Button>
        </Row>
      )}
      <ErrorNotice error={problem} />
      {asks !== null && (
        <Why
          title={asks === 'hold' ? 'Hold this scene' : `Break the hold of ${held?.by ?? 'somebody'}`}
          about={
            asks === 'hold'
              ? 'Everybody sees it, and plans that touch the scene say so. Let it go when you are done.'
              : 'Whoever holds it may be working on it. Your reason is kept.'
          }
          isNeeded={asks === 'break'}
          action={asks === 'hold' ? 'Hold it' : 'Break it'}
          onClose={() => setAsks(null)}
          onSay={(why) => void say(asks, why)}
        />
      )}
    </>
  );
}

function Why({
  title,
  about,
  isNeeded,
  action,
  onClose,
  onSay,
}: {
  title: string;
  about: string;
  isNeeded: boolean;
  action: string;
  onClose: () => void;
  onSay: (why: string) => void;
}) {
  const [why, setWhy] = useState('');
  const isMissing = isNeeded && why.trim() === '';
  return (
    <Dialog title={title} width={480} onClose={onClose}>
      <EnterForm onEnter={() => !isMissing && onSay(why.trim())}>
        <div>{about}</div>
        <TextField
          label={isNeeded ? 'Why' : 'What for'}
          autoFocus
          maxLength={500}
          value={why}
          onChange={setWhy}
        />
        <Row>
          <Grow />
          <Button onPress={onClose}>Leave it</Button>
          <MainButton type="submit" isDisabled={isMissing}>
            {action}
          </MainButton>
        </Row>
      </EnterForm>
    </Dialog>
  );
}
