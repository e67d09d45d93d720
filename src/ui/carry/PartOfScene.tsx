'use client';
// Part of a scene into another: picked nodes, all they stand on level by level, where they go in a scene of the open workspace.

import { lookNodes } from '@/wire/routes/nodes';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Boxes, ShieldCheck } from '../kit/icons';
import { useMemo } from 'react';
import { z } from 'zod';
import { nameOf } from '@/core/files/treePath';
import { nodeClashWays } from '@/core/nodes/clashes';
import { bytes, count } from '@/core/text/figures';
import type { CarryNodesLook } from '@/wire/nodes';
import type { OverviewView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { MainButton } from '../kit/buttons';
import { useKept } from '../kit/kept';
import { FootLine, Grow, Sheet, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { useAddress, useJob, usePlan, useWorkspaceId } from '../kit/work';
import { Comes } from './Comes';
import { FromScene } from './FromScene';
import { IntoScene, type NodeWays } from './IntoScene';
import { Panes } from './panes';
import { CarryViews } from './views';

const way = z.enum(nodeClashWays);

export function PartOfScene({ overview }: { overview: OverviewView }) {
  const id = useWorkspaceId();
  const run = useJob();
  const plan = usePlan();
  const { attempt, problem, busy } = useAttempt();
  const [address, change] = useAddress();
  const root = address.get('from') ?? '';
  const scene = address.get('scene') ?? '';
  const [nodes, setNodes] = useKept('nodes', z.array(z.string()), []);
  const [into, setInto] = useKept('into', z.string(), '');
  const [under, setUnder] = useKept('under', z.string(), '');
  const [place, setPlace] = useKept('place', z.enum(['world', 'parent']), 'world');
  const [pictures, setPictures] = useKept('pictures', z.enum(['as-there', 'files', 'inside']), 'as-there');
  const [ways, setWays] = useKept<z.ZodType<NodeWays>>(
    'name clashes',
    z.object({ all: way.nullable(), own: z.record(z.string(), way) }),
    { all: null, own: {} },
  );
  const request = {
    from: { root, scene },
    nodes,
    into,
    under: under === '' ? null : under,
    place,
    pictures,
    buffer: 'own' as const,
    clash: ways.all,
    ways: Object.entries(ways.own),
  };
  const isReady = root !== '' && scene !== '' && nodes.length > 0 && into !== '';
  const { data, error, isFetching } = useQuery({
    queryKey: ['part', id, request],
    enabled: isReady,
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 10_000,
    queryFn: () => run(lookNodes, { id }, request),
  });
  const look = isReady && !error ? data : undefined;
  const size = useMemo(() => look?.things.reduce((sum, t) => sum + t.bytes, 0) ?? 0, [look]);
  const isBlocked = look?.notes.some((n) => n.level === 'blocker') ?? true;
  return (
    <Page
      title="Part of a scene"
      fill
      answer={
        look ? (
          <Answer look={look} chosen={nodes.length} into={into} />
        ) : (
          <>Pick nodes of a scene, and a scene of {overview.workspace.name} they go into.</>
        )
      }
      actions={
        <MainButton
          isDisabled={!look || isFetching || isBlocked}
          isPending={busy !== null}
          onPress={() => void attempt(() => plan({ kind: 'carry-nodes', ...request }))}
        >
          <Boxes size={16} /> {busy ? 'Planning …' : 'Plan the carrying…'}
        </MainButton>
      }
    >
      <ErrorNotice error={problem ?? (error && isReady ? shapeOf(error) : null)} />
      <CarryViews chosen="part">
        <Panes>
          <FromScene
            root={root}
            onRoot={(folder) => {
              change({ from: folder, scene: undefined });
              setNodes([]);
            }}
            scene={scene}
            onScene={(path) => {
              change({ scene: path });
              setNodes([]);
            }}
            chosen={nodes}
            onChosen={setNodes}
          />
          <Sheet
            aria-label="What it stands on"
            style={{ display: 'flex', flexDirection: 'column', gap: 8, minHeight: 0 }}
          >
            <h2>What it stands on, level by level</h2>
            {look ? (
              <Comes look={look} />
            ) : (
              <Soft>
                {isFetching
                  ? 'Looking …'
                  : nodes.length > 0
                    ? 'Choose the scene they go into, on the right.'
                    : 'What you pick on the left shows here with all it needs.'}
              </Soft>
            )}
          </Sheet>
          <IntoScene
            overview={overview}
            from={{ root, scene }}
            into={into}
            onInto={(path) => {
              setInto(path);
              setUnder('');
            }}
            under={under}
            onUnder={setUnder}
            place={place}
            onPlace={setPlace}
            pictures={pictures}
            onPictures={setPictures}
            clashes={look?.clashes ?? []}
            ways={ways}
            onWays={setWays}
          />
        </Panes>
      </CarryViews>
      <FootLine>
        <ShieldCheck size={16} aria-hidden />
        <Grow>
          <Soft>
            {scene === '' ? '' : `${nameOf(scene)} stays as it is. `}
            {into === '' ? '' : `${nameOf(into)} keeps every byte beside what is added.`}
          </Soft>
        </Grow>
        {look && (
          <span>
            <strong>{bytes(size)}</strong> {count(look.things.length, 'thing comes', 'things come')}
          </span>
        )}
      </FootLine>
    </Page>
  );
}

function Answer({ look, chosen, into }: { look: CarryNodesLook; chosen: number; into: string }) {
  const needed = look.things.filter((t) => t.level > 0).length;
  const differ = look.clashes.filter((c) => !c.isEqual).length;
  return (
    <>
      <strong>{count(chosen, 'node')}</strong> {chosen === 1 ? 'stands' : 'stand'} on{' '}
      <strong>{count(needed, 'other thing')}</strong>.{' '}
      {differ > 0 && (
        <>
          <strong>{differ === 1 ? 'One name is taken' : `${differ} names are taken`}</strong> in{' '}
          {nameOf(into)}.
        </>
      )}
    </>
  );
}
