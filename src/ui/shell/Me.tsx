'use client';
// Who is signed in, at the foot of the strap: another password, and the way out.

import { CircleUser } from '../kit/icons';
import { useState } from 'react';
import { Button as AriaButton, Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { changePassword, leastPassword, signOut, type WhoView } from '@/wire/routes/people';
import { call, loadPage } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton, MenuFrame } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { TextField } from '../kit/fields';
import { EnterForm } from '../kit/form';
import { Grow, Row, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { roleName } from '../studio/words';
import { color, font, radius, space } from '../theme/theme';

const Tag = styled(AriaButton)`
  display: flex;
  align-items: center;
  gap: ${space(2)};
  margin: ${space(2)} 2px 0;
  padding: ${space(2)} ${space(2)} ${space(2)} ${space(3)};
  border: none;
  border-top: 1px solid ${color.strapLine};
  border-radius: 0 0 ${radius.small} ${radius.small};
  background: none;
  color: ${color.strapText};
  font: 500 13.5px/1.3 ${font.text};
  text-align: left;
  cursor: pointer;
  z-index: 1;
  &[data-hovered] {
    background: ${color.strapCount};
  }
  svg {
    flex: none;
  }
  .role {
    color: ${color.strapSoft};
    font-size: 12px;
  }
  span {
    min-width: 0;
    overflow-wrap: anywhere;
  }
`;

export function Me({ me }: { me: WhoView }) {
  const [isChanging, setIsChanging] = useState(false);
  const leave = () =>
    void call(signOut, {}, {}).finally(() => {
      loadPage('/sign-in');
    });
  return (
    <>
      <MenuTrigger>
        <Tag aria-label={`${me.name}, who ${roleName(me.role)}: password, sign out`}>
          <CircleUser size={17} aria-hidden />
          <span>
            {me.name}
            <br />
            <span className="role">{roleName(me.role)}</span>
          </span>
        </Tag>
        <MenuFrame placement="top start">
          <Menu aria-label="Your account" onAction={(key) => (key === 'out' ? leave() : setIsChanging(true))}>
            <MenuItem id="password">Another password…</MenuItem>
            <MenuItem id="out">Sign out</MenuItem>
          </Menu>
        </MenuFrame>
      </MenuTrigger>
      {isChanging && <AnotherPassword onClose={() => setIsChanging(false)} />}
    </>
  );
}

function AnotherPassword({ onClose }: { onClose: () => void }) {
  const [old, setOld] = useState('');
  const [fresh, setFresh] = useState('');
  const { attempt, problem, busy } = useAttempt();
  const change = () =>
    attempt(async () => {
      await call(changePassword, {}, { old, fresh });
      // All sessions end with it, this one too.
      loadPage('/sign-in');
    });
  return (
    <Dialog title="Another password" width={460} onClose={onClose}>
      <EnterForm onEnter={() => void change()}>
        <TextField
          label="The old one"
          type="password"
          autoComplete="current-password"
          autoFocus
          value={old}
          onChange={setOld}
        />
        <TextField
          label="The new one"
          type="password"
          autoComplete="new-password"
          description={`${leastPassword} characters or more.`}
          value={fresh}
          onChange={setFresh}
        />
        <Soft>You sign in again with it, here and wherever else you are signed in.</Soft>
        <ErrorNotice error={problem} />
        <Row>
          <Grow />
          <Button onPress={onClose}>Leave it</Button>
          <MainButton
            type="submit"
            isDisabled={old === '' || fresh.length < leastPassword}
            isPending={busy !== null}
          >
            Change it
          </MainButton>
        </Row>
      </EnterForm>
    </Dialog>
  );
}
