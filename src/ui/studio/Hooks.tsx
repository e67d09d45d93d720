'use client';
// Web hooks: who is told what, and what became of each message.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { CheckCircle2, CircleSlash, Clock, Pause, Play, Send, Webhook, X } from '../kit/icons';
import { useState } from 'react';
import { ago, count } from '@/core/text/figures';
import {
  changeHook,
  dropHook,
  hookEvents,
  listHooks,
  makeHook,
  sendAgain,
  tryHook,
  type HookEvent,
  type HookMessage,
  type HookView,
} from '@/wire/routes/pipelines';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { IconButton, PlainButton } from '../kit/buttons';
import { asking, Form, FormText, FormTick, Submit, useKeptForm } from '../kit/form';
import { Grow, Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Some } from '../kit/some';
import { color } from '../theme/theme';
import { ShownOnce } from './ShownOnce';

const eventNames: Record<HookEvent, string> = {
  'version.saved': 'a version is saved',
  collected: 'something is collected',
  'backed-up': 'a backup is made',
  'readiness.fallen': 'fewer references would open elsewhere',
};
const keyOf = (event: HookEvent) => event.replace(/\W/g, '_');

type Typed = { about: string; url: string } & Record<string, string | boolean>;
const request = (v: Typed) => ({
  about: v.about,
  url: v.url,
  events: hookEvents.filter((e) => v[keyOf(e)] === true),
});

export function Hooks() {
  const client = useQueryClient();
  const { attempt, problem } = useAttempt();
  const [made, setMade] = useState<{ about: string; secret: string } | null>(null);
  const {
    data,
    error,
    dataUpdatedAt: now,
  } = useQuery({
    queryKey: ['hooks'],
    refetchInterval: 5000,
    queryFn: () => call(listHooks, {}),
  });
  const form = useKeptForm<Typed>('hook', asking(makeHook.input, request), {
    about: '',
    url: '',
    ...Object.fromEntries(hookEvents.map((e) => [keyOf(e), true])),
  } as Typed);
  const send = (values: Typed) =>
    attempt(async () => {
      const { secret } = await call(makeHook, {}, request(values));
      setMade({ about: values.about, secret });
      form.takeBack();
      await client.invalidateQueries({ queryKey: ['hooks'] });
    });
  const act = (what: () => Promise<unknown>) =>
    void attempt(async () => {
      await what();
      await client.invalidateQueries({ queryKey: ['hooks'] });
    });
  return (
    <Sheet aria-label="Web hooks">
      <Stack>
        <div>
          <h2>Web hooks</h2>
          <Soft>
            A program that listens at an address is told what was done, signed, so that it can tell our
            messages from others’. One that does not answer is told again for three days.
          </Soft>
        </div>
        <Form form={form} label="Make a web hook" onSubmit={send}>
          <Stack>
            <Row $gap={4} $wrap style={{ alignItems: 'flex-end' }}>
              <FormText name="about" label="For what" placeholder="the review page" maxLength={80} />
              <Grow>
                <FormText
                  name="url"
                  label="Address"
                  placeholder="https://review.studio.example/satchel"
                  mono
                />
              </Grow>
            </Row>
            <Row $gap={4} $wrap role="group" aria-label="It is told when">
              <Soft>told when</Soft>
              {hookEvents.map((e) => (
                <FormTick key={e} name={keyOf(e)}>
                  {eventNames[e]}
                </FormTick>
              ))}
              <Grow />
              <Submit>
                <Webhook size={16} /> Make a web hook
              </Submit>
            </Row>
          </Stack>
        </Form>
        <ErrorNotice error={problem ?? (error ? shapeOf(error) : null)} />
        {data?.hooks.map((hook) => (
          <One
            key={hook.id}
            hook={hook}
            messages={data.messages.filter((m) => m.hook === hook.id)}
            now={now}
            act={act}
          />
        ))}
      </Stack>
      {made && (
        <ShownOnce
          title={`What is sent to ${made.about} is signed with this`}
          text={made.secret}
          onClose={() => setMade(null)}
        >
          Give it to who checks the header webhook-signature (Standard Webhooks).
        </ShownOnce>
      )}
    </Sheet>
  );
}

function One({
  hook,
  messages,
  now,
  act,
}: {
  hook: HookView;
  messages: readonly HookMessage[];
  now: number;
  act: (what: () => Promise<unknown>) => void;
}) {
  const given = messages.filter((m) => m.state === 'given up').length;
  const unheard = messages.filter((m) => m.state === 'waiting' && m.tries > 0).length;
  return (
    <div role="group" aria-label={`The web hook for ${hook.about}`}>
      <Row $wrap>
        <Grow>
          <strong>{hook.about}</strong> <Mono>{hook.url}</Mono>{' '}
          <Soft>
            {hook.paused ? 'paused · ' : ''}
            told when {hook.events.map((e) => eventNames[e]).join(', ')} · made by {hook.madeBy}
          </Soft>
        </Grow>
        <PlainButton onPress={() => act(() => call(tryHook, { hook: hook.id }, {}))}>
          <Send size={15} /> Try it
        </PlainButton>
        <IconButton
          aria-label={hook.paused ? `Tell ${hook.about} again` : `Pause ${hook.about}`}
          onPress={() => act(() => call(changeHook, { hook: hook.id }, { paused: !hook.paused }))}
        >
          {hook.paused ? <Play size={15} /> : <Pause size={15} />}
        </IconButton>
        <IconButton
          aria-label={`The web hook for ${hook.about} goes`}
          onPress={() => act(() => call(dropHook, { hook: hook.id }, {}))}
        >
          <X size={15} />
        </IconButton>
      </Row>
      {messages.length === 0 ? (
        <Soft>Nothing was sent yet.</Soft>
      ) : (
        <details open={given > 0}>
          <summary>
            {count(messages.length, 'message')} of late
            {unheard > 0 && <span style={{ color: color.amber }}>, {unheard} not heard yet</span>}
            {given > 0 && <span style={{ color: color.brick }}>, {given} given up</span>}
          </summary>
          <Some of={messages} more="more message" atOnce={8}>
            {(m) => <Message key={m.id} message={m} now={now} act={act} />}
          </Some>
        </details>
      )}
    </div>
  );
}

const signs = {
  delivered: [CheckCircle2, color.greenText],
  waiting: [Clock, color.soft],
  'given up': [CircleSlash, color.brick],
} as const;

function Message({
  message: m,
  now,
  act,
}: {
  message: HookMessage;
  now: number;
  act: (what: () => Promise<unknown>) => void;
}) {
  const [Icon, tone] = signs[m.state];
  return (
    <Row $wrap>
      <Icon size={15} color={tone} aria-hidden />
      <span>{m.state === 'waiting' && m.tries > 0 ? 'is tried again' : m.state}</span>
      <Mono title={m.body}>{m.event}</Mono>
      <Soft>
        {ago(m.made, Math.max(now, m.made))}
        {m.tries > 0 && ` · ${count(m.tries, 'try', 'tries')}`}
        {m.answer !== null && ` · answered: ${m.answer}`}
      </Soft>
      {m.state === 'given up' && (
        <PlainButton onPress={() => act(() => call(sendAgain, { message: m.id }, {}))}>
          Send again
        </PlainButton>
      )}
    </Row>
  );
}
