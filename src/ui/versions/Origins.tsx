'use client';
// Whose every output is: scene, version, camera, and how sure that is.

import { Clapperboard, RefreshCw, TriangleAlert } from '../kit/icons';
import Link from '../kit/Link';
import { Fragment, useState } from 'react';
import styled from 'styled-components';
import { nameOf } from '@/core/files/treePath';
import { mayHavePicture } from '@/core/formats/kinds';
import { bytes, count, exactBytes, exactTime, framesText } from '@/core/text/figures';
import type { OutputsView } from '@/wire/views';
import { query } from '../kit/api';
import { Button, PlainButton } from '../kit/buttons';
import { Choose } from '../kit/fields';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { SmallTable } from '../kit/SmallTable';
import { Thumb } from '../kit/Thumb';
import { useAddress, useStepHref, useWorkspaceId } from '../kit/work';
import { color } from '../theme/theme';
import type { OutputSet } from './ClipDrawer';

const Table = styled(SmallTable)`
  td {
    vertical-align: top;
  }
  td.name {
    width: 42%;
  }
  svg {
    vertical-align: -3px;
  }
`;

const sureOf = { sure: 'sure', likely: 'likely', guess: 'a guess' } as const;
const atOnce = 60;

export function Origins({
  view,
  isFetching,
  onAgain,
}: {
  view: OutputsView;
  isFetching: boolean;
  onAgain: () => void;
}) {
  const [address, change] = useAddress();
  const of = address.get('of') ?? '';
  const [shown, setShown] = useState(atOnce);
  // Of a version's address its outputs; of a scene's those of all its versions.
  const sets = view.sets.filter((s) => of === '' || s.origin?.version === of || s.origin?.scene === of);
  const told = [
    ...(['sure', 'likely', 'guess'] as const).map(
      (how) => [view.sets.filter((s) => s.origin?.sure === how).length, sureOf[how]] as const,
    ),
    [view.sets.filter((s) => s.origin === null).length, 'nobody’s'] as const,
  ].filter(([n]) => n > 0);
  const owners = [...new Set(view.sets.flatMap((s) => (s.origin ? [s.origin.scene] : [])))].sort();
  const choices = [...new Set([...owners, ...(of === '' ? [] : [of])])];
  if (view.sets.length === 0)
    return (
      <Sheet aria-label="Whose outputs they are">
        <Soft>
          {view.folders.length === 0
            ? 'This workspace has no folder for outputs yet: give renders a home in Settings.'
            : `Nothing lies in ${view.folders.join(' or ')} yet. What is rendered there shows here with its scene, version and camera.`}
        </Soft>
      </Sheet>
    );
  return (
    <Sheet aria-label="Whose outputs they are">
      <Stack $gap={3}>
        <Row $gap={4} $wrap style={{ justifyContent: 'space-between' }}>
          <span>
            <strong>{count(view.sets.length, 'output')}</strong> in {view.folders.join(' and ')}; whose each
            is: {told.map(([n, words]) => `${n} ${words}`).join(', ')}.
          </span>
          <Row $gap={3}>
            <Choose
              label="Of which scene"
              hidden
              value={of === '' ? 'all' : of}
              onChange={(to) => change({ of: to === 'all' ? undefined : to })}
              options={[['all', 'of all scenes'], ...choices.map((s) => [s, `of ${nameOf(s)}`] as const)]}
            />
            <Button onPress={onAgain} isDisabled={isFetching}>
              <RefreshCw size={15} /> Look again
            </Button>
          </Row>
        </Row>
        {sets.length === 0 ? (
          <Soft>No output of {nameOf(of)} is known.</Soft>
        ) : (
          <Table>
            <thead>
              <tr>
                <th>Output</th>
                <th>Scene and version</th>
                <th>Camera</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {sets.slice(0, shown).map((set) => (
                <One key={set.path} set={set} onClip={() => change({ clip: set.path })} />
              ))}
            </tbody>
          </Table>
        )}
        {sets.length > shown && (
          <Row>
            <Button onPress={() => setShown(shown + 200)}>
              Show {Math.min(200, sets.length - shown)} more of {(sets.length - shown).toLocaleString('en')}
            </Button>
          </Row>
        )}
      </Stack>
    </Sheet>
  );
}

function One({ set, onClip }: { set: OutputSet; onClip: () => void }) {
  const id = useWorkspaceId();
  const href = useStepHref();
  const { origin } = set;
  return (
    <tr>
      <td className="name">
        <Row $gap={3} style={{ alignItems: 'flex-start' }}>
          <Thumb
            side={48}
            src={
              mayHavePicture(set.sample)
                ? `/api/workspaces/${id}/picture${query({ path: set.sample })}`
                : null
            }
          />
          <Stack $gap={1}>
            <Mono>
              {set.path.split(/(?<=[/_.-])/).map((part, n) => (
                <Fragment key={n}>
                  {part}
                  <wbr />
                </Fragment>
              ))}
            </Mono>
            <Soft title={`${exactTime(set.to)}, ${exactBytes(set.size)}`}>
              {set.frames ? `frames ${framesText(set.frames)} · ` : ''}
              {bytes(set.size)} · {exactTime(set.to).slice(0, 16)}
            </Soft>
          </Stack>
        </Row>
      </td>
      <td>
        {origin ? (
          <Stack $gap={1}>
            <span>
              <Link href={href('/versions', { scene: origin.scene })}>
                {nameOf(origin.version ?? origin.scene)}
              </Link>{' '}
              · {sureOf[origin.sure]}
            </span>
            <Soft>{origin.why}</Soft>
            {origin.changedSince && (
              <Soft>
                <TriangleAlert size={14} aria-hidden style={{ color: color.amber }} /> That version was
                changed after it was rendered.
              </Soft>
            )}
          </Stack>
        ) : (
          <Soft>Nothing tells: no scene is called like it, and none was written shortly before it.</Soft>
        )}
      </td>
      <td>{origin?.camera ?? <Soft>–</Soft>}</td>
      <td>
        {set.frames && (
          <PlainButton aria-label={`Make a clip of ${set.path}`} onPress={onClip}>
            <Clapperboard size={15} /> Clip…
          </PlainButton>
        )}
      </td>
    </tr>
  );
}
