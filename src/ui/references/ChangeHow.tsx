'use client';
// How paths are changed: another head, or a text replaced; the states on the way, each of which can be gone back to.

import styled from 'styled-components';
import { ToggleButton } from 'react-aria-components';
import { Button, Chip, LineButton } from '../kit/buttons';
import { TextField, Tick } from '../kit/fields';
import { EnterForm } from '../kit/form';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { color, font } from '../theme/theme';
import type { Change } from './change';

const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  font: 400 13.5px ${font.mono};
  button {
    border: 1px solid ${color.line};
    background: ${color.sheet};
    color: ${color.ink};
    border-radius: 4px;
    padding: 2px 6px;
    cursor: pointer;
    font: inherit;
  }
  button[data-selected] {
    background: ${color.brickTint};
    border-color: ${color.brick};
    text-decoration: line-through;
  }
`;
/** The parts that the paths begin with: struck ones go. */
function CommonHead({ change }: { change: Change }) {
  const { head, cut, type } = change;
  return (
    <>
      <div>
        <strong style={{ fontSize: 13.5 }}>What they share</strong>
        <br />
        <Soft style={{ fontSize: 13 }}>Struck parts go; choose where the rest begins.</Soft>
      </div>
      {head.length === 0 ? (
        <Soft>These paths begin differently: what is typed below is put before them.</Soft>
      ) : (
        <Head role="group" aria-label="Parts of the common head">
          {head.map((p, i) => (
            <ToggleButton
              key={i}
              isSelected={i < cut}
              onChange={() => type({ headParts: i < cut ? i : i + 1 })}
            >
              {p}
            </ToggleButton>
          ))}
        </Head>
      )}
      <TextField
        label="New head"
        mono
        value={change.typed.newHead}
        onChange={(newHead) => type({ newHead })}
        placeholder="../textures/"
      />
    </>
  );
}

export function ChangeHow({ change }: { change: Change }) {
  const { typed, type, wrong, isTyped } = change;
  const cannot = !isTyped || wrong !== undefined;
  return (
    <Sheet>
      <EnterForm onEnter={() => !cannot && change.keep()}>
        <Stack>
          <Row role="group" aria-label="How">
            <Chip isSelected={typed.way === 'head'} onChange={() => type({ way: 'head' })}>
              Another head
            </Chip>
            <Chip isSelected={typed.way === 'text'} onChange={() => type({ way: 'text' })}>
              Replace text
            </Chip>
          </Row>
          {typed.way === 'head' ? (
            <CommonHead change={change} />
          ) : (
            <>
              <TextField
                label="Find"
                mono
                value={typed.find}
                onChange={(find) => type({ find })}
                error={wrong}
              />
              <TextField
                label="Replace by"
                mono
                value={typed.replace}
                onChange={(replace) => type({ replace })}
              />
              <Tick checked={typed.isPattern} onChange={(isPattern) => type({ isPattern })}>
                It is a pattern <Soft>($1 is its first group)</Soft>
              </Tick>
            </>
          )}
          <Row>
            <Grow />
            <Button type="submit" isDisabled={cannot}>
              Keep this step
            </Button>
          </Row>
        </Stack>
      </EnterForm>
    </Sheet>
  );
}

const List = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
`;

export function StatesOnTheWay({ change }: { change: Change }) {
  return (
    <Sheet aria-label="States">
      <Stack $gap={2}>
        <h2>States on the way</h2>
        <List>
          {change.states.map((s, i) => (
            <li key={i}>
              <LineButton aria-current={i === change.at} onPress={() => change.go(i)}>
                {s.title}
              </LineButton>
            </li>
          ))}
        </List>
      </Stack>
    </Sheet>
  );
}
