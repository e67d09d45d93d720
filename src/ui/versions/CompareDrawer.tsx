'use client';
// Two states of a scene side by side: what came, what went, what is called otherwise, what changed; and whether the other one would open.

import { useQuery } from '@tanstack/react-query';
import { ArrowRight, Box, CircleCheck, History, Minus, PencilLine, Plus, TriangleAlert } from '../kit/icons';
import dynamic from 'next/dynamic';
import { useState } from 'react';
import styled from 'styled-components';
import { formatOfName } from '@/core/formats/formats';
import { bytes, count, exactBytes, exactTime, figure } from '@/core/text/figures';
import { readScene } from '@/wire/routes/references';
import { compareVersions } from '@/wire/routes/versions';
import type { CompareView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { Button, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Drawer } from '../kit/Drawer';
import { Mono, Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useWorkspaceId } from '../kit/work';
import { seenFormats } from '@/core/formats/inSpace';
import { color, space } from '../theme/theme';

const Beside = dynamic(() => import('../preview/Beside'), { ssr: false });

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: ${space(2)};
  li {
    overflow-wrap: anywhere;
  }
  svg {
    vertical-align: -3px;
  }
  .added svg {
    color: ${color.greenText};
  }
  .removed svg {
    color: ${color.brick};
  }
  .old {
    color: ${color.brick};
    text-decoration: line-through;
  }
  .new {
    color: ${color.greenText};
    text-decoration: underline;
  }
`;

type Difference = CompareView['differences'][number];

const groups = [
  ['added', 'Came since', Plus],
  ['removed', 'Gone since', Minus],
  ['renamed', 'Renamed since', PencilLine],
  ['changed', 'Changed since', PencilLine],
] as const;

/** At most so many of a group are drawn. */
const most = 300;

export function CompareDrawer({
  scene,
  state,
  name,
  onBring,
  onClose,
}: {
  /** The present one. */
  scene: string;
  /** The other one, as a route takes it. */
  state: string;
  name: string;
  /** Null: it cannot be brought back. */
  onBring: (() => void) | null;
  onClose: () => void;
}) {
  const id = useWorkspaceId();
  const [isSeen, setSeen] = useState(false);
  const { data, error } = useQuery({
    queryKey: ['compare', id, scene, state],
    queryFn: () => call(compareVersions, { id }, { scene, before: state, after: scene }),
  });
  return (
    <Drawer title={`${name} beside the present`} label="Side by side" onClose={onClose}>
      <Stack $gap={4}>
        <ErrorNotice error={error ? shapeOf(error) : null} />
        {!data && !error && <Soft>Reading both …</Soft>}
        {data && <Told view={data} />}
        {data && canBeSeen(data) && (
          <Button onPress={() => setSeen(true)}>
            <Box size={16} /> See both in space
          </Button>
        )}
        {isSeen && <InSpace scene={scene} state={state} name={name} onClose={() => setSeen(false)} />}
        {onBring && (
          <MainButton onPress={onBring}>
            <History size={16} /> Bring it back…
          </MainButton>
        )}
      </Stack>
    </Drawer>
  );
}

/** Whether both are of a format that is drawn. */
const canBeSeen = ({ sides }: CompareView) =>
  sides.every((s) => seenFormats.has(formatOfName(s.path)?.id ?? ''));

function InSpace({
  scene,
  state,
  name,
  onClose,
}: {
  scene: string;
  state: string;
  name: string;
  onClose: () => void;
}) {
  const id = useWorkspaceId()!;
  const { data, error } = useQuery({
    queryKey: ['scene', id, scene],
    queryFn: () => call(readScene, { id }, { scene }),
  });
  return (
    <Dialog title={`${name} beside the present, in space`} width={1180} onClose={onClose}>
      <ErrorNotice error={error ? shapeOf(error) : null} />
      {!data && !error && <Soft>Loading both …</Soft>}
      {data && <Beside workspace={id} view={data} state={state} names={[name, 'the present one']} />}
      <Row style={{ justifyContent: 'flex-end' }}>
        <Button onPress={onClose}>Close</Button>
      </Row>
    </Dialog>
  );
}

function Told({ view }: { view: CompareView }) {
  const { sides, differences, looked } = view;
  const [before, after] = sides;
  return (
    <>
      <Sizes view={view} />
      {!looked && (
        <Soft>This format is not looked into: references, units and bytes are what can be told.</Soft>
      )}
      {differences.length === 0 && looked && <p>Both say the same.</p>}
      {groups.map(([what, title, Icon]) => {
        const own = differences.filter((d) => d.what === what);
        if (own.length === 0) return null;
        return (
          <section key={what} aria-label={title}>
            <h3 style={{ margin: '0 0 6px' }}>
              {title} <Soft>{figure(own.length)}</Soft>
            </h3>
            <List>
              {own.slice(0, most).map((d, i) => (
                <li key={`${d.kind} ${d.name} ${i}`} className={what}>
                  <Icon size={15} aria-hidden /> {d.kind} <One difference={d} />
                </li>
              ))}
            </List>
            {own.length > most && <Soft>and {count(own.length - most, 'more', 'more')}</Soft>}
          </section>
        );
      })}
      <p>
        {before.ready === before.references ? (
          <>
            <CircleCheck size={15} aria-hidden style={{ verticalAlign: -3, color: color.greenText }} /> All{' '}
            {count(before.references, 'reference')} of the older one would open.
          </>
        ) : (
          <>
            <TriangleAlert size={15} aria-hidden style={{ verticalAlign: -3, color: color.amber }} />{' '}
            {figure(before.ready)} of {count(before.references, 'reference')} of the older one would open; of
            the present one {figure(after.ready)} of {figure(after.references)}.
          </>
        )}
      </p>
    </>
  );
}

function Sizes({ view: { sides, shared } }: { view: CompareView }) {
  const [before, after] = sides;
  return (
    <Stack $gap={1}>
      <Row $gap={2} $wrap>
        <span title={`${exactBytes(before.size)}, ${exactTime(before.modified)}`}>{bytes(before.size)}</span>
        <ArrowRight size={14} aria-hidden />
        <span title={`${exactBytes(after.size)}, ${exactTime(after.modified)}`}>{bytes(after.size)}</span>
      </Row>
      <Soft title={exactBytes(after.size - shared)}>
        {after.size === shared && before.size === after.size
          ? 'The same bytes.'
          : `${bytes(Math.max(0, after.size - shared))} of the present one are new.`}
      </Soft>
    </Stack>
  );
}

function One({ difference: d }: { difference: Difference }) {
  if (d.what === 'renamed')
    return (
      <>
        <Mono className="old">{d.was}</Mono> <Mono className="new">{d.name}</Mono>
      </>
    );
  return (
    <>
      <Mono>
        <strong>{d.name}</strong>
      </Mono>
      {d.changes.map((c) => (
        <div key={c.fact} style={{ paddingLeft: 20 }}>
          <Soft>{c.fact}</Soft>{' '}
          {c.before !== null && c.before !== '' && <Mono className="old">{c.before}</Mono>}{' '}
          {c.after !== null && <Mono className="new">{c.after || 'said'}</Mono>}
        </div>
      ))}
    </>
  );
}
