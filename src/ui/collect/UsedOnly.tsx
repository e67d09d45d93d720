'use client';
// Frames and tiles that nothing shows: what they take is said before they are left out; where no scene says its frames, they are asked.

import { Scissors } from '../kit/icons';
import { useState } from 'react';
import styled from 'styled-components';
import { nameOf } from '@/core/files/treePath';
import { bytes, count } from '@/core/text/figures';
import type { CollectUsed } from '@/wire/collect';
import { Button, PlainButton } from '../kit/buttons';
import { TextField, Tick } from '../kit/fields';
import { EnterForm } from '../kit/form';
import { Mono, Row, Soft } from '../kit/layout';
import { color, radius, space } from '../theme/theme';

export type Frames = Record<string, [number, number]>;

const Box = styled.div`
  background: ${color.raised};
  border: 1px solid ${color.line};
  border-radius: ${radius.small};
  padding: ${space(2)} ${space(3)};
  max-height: 210px;
  overflow: auto;
  flex: none;
`;
const most = 20;

export function UsedOnly({
  isOn,
  onChange,
  used,
  frames,
  onFrames,
}: {
  isOn: boolean;
  onChange: (on: boolean) => void;
  /** Undefined: it is being looked for. */
  used: CollectUsed | undefined;
  frames: Frames;
  onFrames: (frames: Frames) => void;
}) {
  if (!isOn)
    return (
      <Row>
        <PlainButton onPress={() => onChange(true)}>
          <Scissors size={14} /> Leave out frames and tiles that nothing shows…
        </PlainButton>
      </Row>
    );
  const files = used?.notUsed.reduce((sum, u) => sum + u.files.length, 0) ?? 0;
  const size = used?.notUsed.reduce((sum, u) => sum + u.size, 0) ?? 0;
  const asked = [
    ...(used?.asks ?? []),
    // What was said can be said otherwise.
    ...Object.entries(frames)
      .filter(([set]) => !used?.asks.some((a) => a.set === set))
      .map(([set, [first, last]]) => ({ set, first, last })),
  ];
  return (
    <Box role="group" aria-label="What nothing shows">
      <Tick checked onChange={() => onChange(false)}>
        <strong>Leave out what nothing shows</strong>
        {used && `: ${count(files, 'file')}, ${bytes(size)} saved`}
      </Tick>
      {!used && <Soft>Looking into every scene …</Soft>}
      {used?.notUsed.slice(0, most).map((u) => (
        <div key={u.set}>
          <Mono>{nameOf(u.set)}</Mono>{' '}
          <Soft>
            {u.why}: {count(u.files.length, 'file')}, {bytes(u.size)} left out
          </Soft>
        </div>
      ))}
      {used && used.notUsed.length > most && <Soft>and {used.notUsed.length - most} more</Soft>}
      {used && files === 0 && asked.length === 0 && <Soft>All of it is shown, as far as can be known.</Soft>}
      {asked.slice(0, most).map((a) => (
        <Ask
          key={a.set}
          ask={a}
          said={frames[a.set]}
          onSay={(range) => onFrames({ ...frames, [a.set]: range })}
        />
      ))}
    </Box>
  );
}

const whole = (text: string) => (/^-?\d{1,9}$/.test(text.trim()) ? Number(text) : null);

function Ask({
  ask,
  said,
  onSay,
}: {
  ask: { set: string; first: number; last: number };
  said: [number, number] | undefined;
  onSay: (range: [number, number]) => void;
}) {
  const [first, setFirst] = useState(String(said?.[0] ?? ask.first));
  const [last, setLast] = useState(String(said?.[1] ?? ask.last));
  const range: [number | null, number | null] = [whole(first), whole(last)];
  const isRange = range[0] !== null && range[1] !== null && range[0] <= range[1];
  const say = () => isRange && onSay([range[0]!, range[1]!]);
  return (
    <EnterForm onEnter={say}>
      <div style={{ marginTop: 6 }}>
        <Mono>{nameOf(ask.set)}</Mono>{' '}
        <Soft>{said ? 'as you said' : 'no scene says which frames it shows'}</Soft>
      </div>
      <Row style={{ alignItems: 'flex-end' }}>
        <span style={{ width: 86 }}>
          <TextField label="From frame" value={first} onChange={setFirst} />
        </span>
        <span style={{ width: 86 }}>
          <TextField label="to frame" value={last} onChange={setLast} />
        </span>
        <Button type="submit" isDisabled={!isRange}>
          Only these
        </Button>
      </Row>
    </EnterForm>
  );
}
