'use client';
// Coming in by a link: somebody new, or with a new password. What stands behind the # of the address goes to no log.

import { useCallback, useEffect, useRef, useState } from 'react';
import type { z } from 'zod';
import { joinRoute, leastPassword, lookAtLinkRoute, signIn } from '@/wire/routes/people';
import { call, loadPage } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { MainButton } from '../kit/buttons';
import { TextField } from '../kit/fields';
import { EnterForm } from '../kit/form';
import Link from '../kit/Link';
import { Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Door } from './Door';
import { roleName } from './words';

type Way = z.output<typeof lookAtLinkRoute.answer>;

export function Join() {
  const [token, setToken] = useState('');
  const [way, setWay] = useState<Way | null>(null);
  /** The last token that was given, and whether it was found to be good. */
  const last = useRef({ given: '', isGood: false });
  const { attempt, problem } = useAttempt();
  const look = useCallback(
    (given: string) => {
      // The token must not stay in an address that others can see.
      const hide = () => window.history.replaceState(null, '', window.location.pathname);
      // The same link once more: the form, and what was typed into it, stay.
      if (last.current.isGood && last.current.given === given) return hide();
      last.current = { given, isGood: false };
      void attempt(async () => {
        const found = await call(lookAtLinkRoute, {}, { token: given });
        if (last.current.given !== given) return;
        last.current.isGood = true;
        setWay(found);
        setToken(given);
        hide();
      });
    },
    [attempt],
  );
  useEffect(() => {
    look(window.location.hash.slice(1));
    // Another link in the same window loads no page anew. The event's address counts: by now the token may have been taken out of the window's.
    const onHash = ({ newURL }: HashChangeEvent) => look(new URL(newURL).hash.slice(1));
    window.addEventListener('hashchange', onHash);
    return () => window.removeEventListener('hashchange', onHash);
  }, [look]);
  const isOver = problem?.code === 'no-key';
  // The server or its database is away for a moment.
  useEffect(() => {
    if (!problem || isOver) return;
    const again = setTimeout(() => look(last.current.given), 2000);
    return () => clearTimeout(again);
  }, [problem, isOver, look]);
  if (problem)
    return (
      <Door title={isOver ? 'This link leads nowhere' : 'This link could not be checked'}>
        <ErrorNotice error={problem} />
        <Soft>
          {isOver ? (
            <>
              Ask whoever sent it for another one, or <Link href="/sign-in">sign in</Link>.
            </>
          ) : (
            'This page tries again by itself.'
          )}
        </Soft>
      </Door>
    );
  if (!way) return <Door title="One moment …">{null}</Door>;
  return <ComeIn key={token} way={way} token={token} />;
}

function ComeIn({ way, token }: { way: Way; token: string }) {
  const isNew = way.for === 'invitation';
  const [name, setName] = useState('');
  const [email, setEmail] = useState(way.email ?? '');
  const [password, setPassword] = useState('');
  const { attempt, problem, busy } = useAttempt();
  const input = {
    token,
    password,
    ...(isNew ? { name: name.trim(), email: email.trim() } : {}),
  };
  const isWhole =
    joinRoute.input.safeParse(input).success && (!isNew || (name.trim() !== '' && email.trim() !== ''));
  const enter = () =>
    attempt(async () => {
      const { email: address } = await call(joinRoute, {}, input);
      await call(signIn, {}, { email: address, password });
      loadPage('/');
      await new Promise(() => undefined);
    });
  const isShort = password !== '' && password.length < leastPassword;
  return (
    <Door title={isNew ? 'Come in' : `A new password for ${way.about}`}>
      {isNew && (
        <div>
          You were invited as somebody who <strong>{roleName(way.role)}</strong>.
        </div>
      )}
      <EnterForm onEnter={() => isWhole && void enter()}>
        <Stack $gap={3}>
          {isNew && (
            <TextField
              label="Your name"
              description="It stands beside what you do."
              autoComplete="name"
              autoFocus
              value={name}
              onChange={setName}
              maxLength={80}
            />
          )}
          <TextField
            label="E-mail address"
            description={isNew ? 'You sign in with it. Nothing is sent there.' : undefined}
            type="email"
            autoComplete="username"
            isReadOnly={!isNew}
            value={email}
            onChange={setEmail}
          />
          <TextField
            label="Password"
            type="password"
            autoComplete="new-password"
            description={`${leastPassword} characters or more: a sentence is easier than signs.`}
            error={
              isShort
                ? `${leastPassword - password.length} more to go; ${leastPassword} at least.`
                : undefined
            }
            value={password}
            onChange={setPassword}
          />
          <ErrorNotice error={problem} />
          <div>
            <MainButton type="submit" isDisabled={!isWhole} isPending={busy !== null}>
              {isNew ? 'Come in' : 'Use this password'}
            </MainButton>
          </div>
        </Stack>
      </EnterForm>
    </Door>
  );
}
