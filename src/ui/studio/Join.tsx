'use client';
// Coming in by a link: somebody new, or with a new password. What stands behind the # of the address goes to no log.

import { useEffect, useState } from 'react';
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
  const { attempt, problem } = useAttempt();
  useEffect(() => {
    const look = () => {
      const given = window.location.hash.slice(1);
      void attempt(async () => {
        setWay(await call(lookAtLinkRoute, {}, { token: given }));
        setToken(given);
        // It stays in no address that could be looked at over a shoulder.
        window.history.replaceState(null, '', window.location.pathname);
      });
    };
    look();
    // Another link in the same window loads no page anew.
    window.addEventListener('hashchange', look);
    return () => window.removeEventListener('hashchange', look);
  }, [attempt]);
  if (problem)
    return (
      <Door title="This link leads nowhere">
        <ErrorNotice error={problem} />
        <Soft>
          Ask whoever sent it for another one, or <Link href="/sign-in">sign in</Link>.
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
