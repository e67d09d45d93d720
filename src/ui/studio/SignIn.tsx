'use client';
// Signing in to a server for several. Nothing typed here is kept.

import { useState } from 'react';
import { signIn } from '@/wire/routes/people';
import { call, loadPage } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { MainButton } from '../kit/buttons';
import { TextField } from '../kit/fields';
import { EnterForm } from '../kit/form';
import { Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Door } from './Door';

/** Where somebody wanted to go: a page of this server, nothing else. */
const wayOn = () => {
  const to = new URLSearchParams(window.location.search).get('to') ?? '/';
  return /^\/(?![/\\])/.test(to) ? to : '/';
};

export function SignIn() {
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const { attempt, problem, busy } = useAttempt();
  const enter = () =>
    attempt(async () => {
      await call(signIn, {}, { email: email.trim(), password });
      loadPage(wayOn());
      // Busy until the next page is there.
      await new Promise(() => undefined);
    });
  return (
    <Door title="Sign in">
      <EnterForm onEnter={() => void enter()}>
        <Stack $gap={3}>
          <TextField
            label="E-mail address"
            type="email"
            autoComplete="username"
            autoFocus
            value={email}
            onChange={setEmail}
          />
          <TextField
            label="Password"
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={setPassword}
          />
          <ErrorNotice error={problem} />
          <div>
            <MainButton
              type="submit"
              isDisabled={email.trim() === '' || password === ''}
              isPending={busy !== null}
            >
              Sign in
            </MainButton>
          </div>
          <Soft>
            You come in by invitation. Whoever manages this server makes you a link, also for a new password.
          </Soft>
        </Stack>
      </EnterForm>
    </Door>
  );
}
