'use client';
// What travels: a tick for each class and library, what leaving it out breaks under the very tick, and how it fits on the drive at hand.

import { ListTree, Package, Recycle } from '../kit/icons';
import { useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { TravelChoice, TravelLook, Travelling } from '@/core/bags/travelling';
import { bundleGroups, isBundleName } from '@/core/bags/bundles';
import { aboutTime, secondsFor } from '@/core/places/drives';
import { nameOf } from '@/core/files/treePath';
import { bytes, count } from '@/core/text/figures';
import type { SettingsView } from '@/wire/views';
import { PlainButton } from '../kit/buttons';
import { Choose, TextField, Tick } from '../kit/fields';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { useTyped } from '../kit/kept';
import { color, space } from '../theme/theme';
import { Bundles } from './Bundles';
import { ByHand } from './ByHand';
import { classLines, withClass, type ClassLine } from './choice';
import type { Drive } from './drives';
import { Remade } from './Remade';

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0 ${space(3)};
  align-items: baseline;
  padding: 2px 0;
  > label {
    flex: 0 1 auto;
  }
  .number {
    margin-left: auto;
    align-self: center;
    text-align: right;
    font-variant-numeric: tabular-nums;
    color: ${color.soft};
    white-space: nowrap;
  }
  .breaks {
    flex-basis: 100%;
    color: ${color.amber};
    font-size: 13.5px;
    padding-left: 26px;
  }
`;
const Bar = styled.div`
  height: 14px;
  border: 1px solid ${color.line};
  border-radius: 8px;
  background: ${color.raised};
  overflow: hidden;
  div {
    height: 100%;
    background: ${color.greenText};
  }
`;

const breaksText = ({ breaks }: ClassLine) =>
  breaks &&
  `${count(breaks.files, 'file')} of it ${breaks.files === 1 ? 'is' : 'are'} needed by ${nameOf(breaks.scenes[0]!)}${breaks.scenes.length > 1 ? ` and ${count(breaks.scenes.length - 1, 'other scene')}` : ''}: missing there.`;

/** How it fits, and how long it takes. */
function Fit({
  travelling,
  drives,
  asZip,
  chosen,
  onChoose,
}: {
  travelling: Travelling;
  drives: readonly Drive[];
  asZip: boolean;
  chosen: string;
  onChoose: (id: string) => void;
}) {
  const [own, setOwn] = useTyped('own speed', '');
  const drive = drives.find((d) => d.id === chosen) ?? (chosen === 'own' ? null : drives[0]!);
  const typed = Number(own.replace(',', '.'));
  const speed = drive === null ? (typed > 0 ? { write: typed * 1e6, smallFiles: null } : null) : drive.speed;
  const size = { bytes: travelling.bytes, files: asZip ? 1 : travelling.files };
  const free = drive?.free ?? null;
  const part = free === null || free === 0 ? null : Math.min(1, travelling.bytes / free);
  const isTooMuch = free !== null && travelling.bytes > free;
  const oneByOne = speed && secondsFor({ bytes: travelling.bytes, files: travelling.files }, speed);
  const asOne = speed && secondsFor({ bytes: travelling.bytes, files: 1 }, speed);
  const isSlower = oneByOne !== null && asOne !== null && oneByOne - asOne > 20 && oneByOne > 1.3 * asOne;
  return (
    <Stack $gap={2}>
      {part !== null && (
        <Bar role="img" aria-label={`${bytes(travelling.bytes)} of ${bytes(free)} free`}>
          <div
            style={{
              width: `${Math.max(1, part * 100)}%`,
              ...(isTooMuch ? { background: color.brick } : {}),
            }}
          />
        </Bar>
      )}
      <Row $wrap $gap={3}>
        <span data-testid="fit">
          <strong>
            {bytes(travelling.bytes)} in {count(travelling.files, 'file')}
          </strong>
          {free !== null && ` of ${bytes(free)} on ${drive!.name}`}
          {speed && (
            <>
              {' · '}
              <strong>{aboutTime(secondsFor(size, speed))}</strong>
              {drive === null ? '' : drive.isMeasured ? ', as described' : ', by its kind'}
            </>
          )}
          {isTooMuch && (
            <strong style={{ color: color.brick }}>
              {' '}
              · does not fit: pack it in volumes, or leave more out
            </strong>
          )}
        </span>
        <Grow />
        <Choose
          label="On"
          value={chosen}
          onChange={onChoose}
          options={[...drives.map((d) => [d.id, d.name] as const), ['own', 'my own figure']]}
        />
        {drive === null && <TextField label="MB a second" value={own} onChange={setOwn} />}
      </Row>
      {isSlower && (
        <Soft style={{ fontSize: 13.5 }} data-testid="small-files">
          Copied one by one, {count(travelling.files, 'file')} take {aboutTime(oneByOne)}
          {drive?.isMeasured ? ' there, as described' : ' there'}: the bag goes as one file.
        </Soft>
      )}
    </Stack>
  );
}

export function WhatTravels({
  look,
  choice,
  travelling,
  onChoose,
  drives,
  drive,
  onDrive,
  asZip,
  settings,
}: {
  look: TravelLook;
  choice: TravelChoice;
  travelling: Travelling;
  onChoose: (choice: TravelChoice) => void;
  drives: readonly Drive[];
  drive: string;
  onDrive: (id: string) => void;
  asZip: boolean;
  settings: SettingsView | undefined;
}) {
  const [open, setOpen] = useState<'hand' | 'remade' | 'bundles' | null>(null);
  const lines = classLines(travelling);
  const hand = travelling.broken.filter((b) => b.because === 'by-hand');
  const handed = choice.byHand.length;
  const groups = useMemo(() => bundleGroups(look.files), [look]);
  const bundles = useMemo(() => look.files.filter((f) => isBundleName(f.path)), [look]);
  return (
    <Sheet aria-label="What travels">
      <Stack $gap={2}>
        <Row>
          <Grow>
            <h2>What travels</h2>
          </Grow>
          <Soft style={{ fontSize: 13 }}>what a tick leaves out is said at once</Soft>
        </Row>
        <div>
          {lines.map((l) => (
            <Line key={l.id}>
              <Tick
                checked={l.is !== 'out'}
                some={l.is === 'some'}
                onChange={(isIn) => onChoose(withClass(choice, l.id, isIn))}
              >
                {l.name}
              </Tick>
              {l.id === 'remade' && (
                <PlainButton aria-label="Which caches can be made again" onPress={() => setOpen('remade')}>
                  <Recycle size={14} /> which…
                </PlainButton>
              )}
              <span className="number" title={count(l.files, 'file')}>
                {bytes(l.bytes)}
              </span>
              {l.breaks && <span className="breaks">{breaksText(l)}</span>}
              {l.id === 'history' && l.is === 'out' && (
                <Soft style={{ flexBasis: '100%', fontSize: 13, paddingLeft: 26 }}>
                  It holds what was deleted, and paths of this machine.
                </Soft>
              )}
            </Line>
          ))}
          {look.outside.map((o) => (
            <Line key={`library ${o.name}`}>
              <Tick
                checked={choice.along.includes(o.name)}
                onChange={(isIn) =>
                  onChoose({
                    ...choice,
                    along: isIn ? [...choice.along, o.name] : choice.along.filter((n) => n !== o.name),
                  })
                }
              >
                {o.name === '' ? (
                  'What is used of other places outside, brought along'
                ) : (
                  <LibraryName name={o.name} />
                )}
              </Tick>
              <span className="number" title={count(o.files, 'file')}>
                {bytes(o.bytes)}
              </span>
              {travelling.leansOn.includes(o.name) && (
                <span className="breaks">
                  {o.name === '' ? 'Left here: missing there.' : 'Left here: it has to be there, too.'}
                </span>
              )}
            </Line>
          ))}
        </div>
        <Row>
          <PlainButton onPress={() => setOpen('hand')}>
            <ListTree size={15} /> Choose by hand…
          </PlainButton>
          {(groups.length > 0 || bundles.length > 0) && (
            <PlainButton onPress={() => setOpen('bundles')}>
              <Package size={15} /> {bundles.length > 0 ? 'Bundles…' : 'Many small files…'}
            </PlainButton>
          )}
          {handed > 0 && (
            <>
              <Soft>{count(handed, 'choice')} by hand</Soft>
              <PlainButton onPress={() => onChoose({ ...choice, byHand: [] })}>Take back</PlainButton>
            </>
          )}
          {hand.length > 0 && (
            <span style={{ color: color.amber }}>
              {count(hand.length, 'file')} left out by hand {hand.length === 1 ? 'is' : 'are'} needed.
            </span>
          )}
        </Row>
        <Fit travelling={travelling} drives={drives} chosen={drive} onChoose={onDrive} asZip={asZip} />
      </Stack>
      {open === 'hand' && (
        <ByHand
          look={look}
          choice={choice}
          travelling={travelling}
          onChoose={onChoose}
          onClose={() => setOpen(null)}
        />
      )}
      {open === 'bundles' && (
        <Bundles
          groups={groups}
          bundles={bundles}
          drives={drives}
          drive={drive}
          onClose={() => setOpen(null)}
        />
      )}
      {open === 'remade' && settings && <Remade settings={settings} onClose={() => setOpen(null)} />}
    </Sheet>
  );
}

function LibraryName({ name }: { name: string }): ReactNode {
  return (
    <>
      What is used of <strong>{name}</strong>, brought along
    </>
  );
}
