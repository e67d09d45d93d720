'use client';
// Versions: save the next one with a note, see what there is to go back to and where the net has holes, and go back.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Flag, History, ListChecks, Save, Scale, SlidersHorizontal, Waypoints } from '../kit/icons';
import { NoScene } from '../workspaces/NoScene';
import { useState } from 'react';
import { nameOf as lastPart } from '@/core/files/treePath';
import { plainName } from '@/core/names/counters';
import { bytes, count, exactBytes, exactTime, span, when } from '@/core/text/figures';
import { keepNow, listSeries, listVersions, readNet } from '@/wire/routes/versions';
import type { NetView, SeriesView, VersionsView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Scroll, Split } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Needs, Page } from '../kit/Page';
import { Views } from '../kit/tabs';
import { useAddress, usePlan, useWorkspaceId } from '../kit/work';
import { Checkpoints } from './Checkpoints';
import { ClipDrawer, type FrameSet } from './ClipDrawer';
import { CompareDrawer } from './CompareDrawer';
import { historyOf, keyOf, nameOf, type Entry } from './history';
import { Cost } from './Cost';
import { HistoryCard } from './HistoryCard';
import { Keeping } from './Keeping';
import { Outputs, useOutputs } from './Outputs';
import { SaveCard } from './SaveCard';
import { TimeLineCard } from './TimeLineCard';

export function VersionsPage() {
  const id = useWorkspaceId();
  const series = useQuery({
    queryKey: ['series', id],
    enabled: id !== null,
    queryFn: () => call(listSeries, { id }),
  });
  return (
    <Needs title="Versions" result={series}>
      {(list) => <Versions series={list} />}
    </Needs>
  );
}

/** The scene asked for; else one that has versions. */
function sceneAsked(asked: string | null, series: readonly SeriesView[]): string | undefined {
  if (asked !== null) return asked;
  const latest = [...series].sort((a, b) => b.modified - a.modified);
  return (latest.find((s) => s.versions > 1) ?? latest[0])?.scene;
}

function Versions({ series }: { series: SeriesView[] }) {
  const id = useWorkspaceId();
  const [address] = useAddress();
  const scene = sceneAsked(address.get('scene'), series);
  const versions = useQuery({
    queryKey: ['versions', id, scene],
    enabled: scene !== undefined,
    queryFn: () => call(listVersions, { id }, { scene: scene! }),
  });
  const net = useQuery({
    queryKey: ['net', id, scene],
    enabled: scene !== undefined,
    refetchInterval: 60_000,
    queryFn: () => call(readNet, { id }, { scene: scene! }),
  });
  if (scene === undefined)
    return (
      <Page title="Versions">
        <NoScene>The versions of each scene show here, and what is kept between them.</NoScene>
      </Page>
    );
  const trouble = versions.error ?? net.error;
  if (!versions.data || !net.data)
    return (
      <Page title="Versions" answer={trouble ? undefined : 'Reading …'}>
        <ErrorNotice error={trouble ? shapeOf(trouble) : null} />
      </Page>
    );
  return (
    <OfScene key={plainName(versions.data.scene)} series={series} versions={versions.data} net={net.data} />
  );
}

function Answer({ versions, net, now }: { versions: VersionsView; net: NetView; now: number }) {
  const numbered = versions.versions.filter((v) => v.number !== null).length;
  const hole = net.holes.reduce((sum, h) => sum + h.to - h.from, 0);
  return (
    <>
      <strong>{lastPart(versions.scene)}</strong> has {count(numbered, 'version')},{' '}
      <span title={exactBytes(versions.total)}>{bytes(versions.total)}</span> on the drive
      {versions.changed ? '; it changed since the last one' : '; it is as the last one'}.{' '}
      {net.settings === null ? (
        'The net is off.'
      ) : net.back === null ? (
        'The net has kept nothing of it yet.'
      ) : (
        <>
          {net.states.length} kept every {net.settings.every} minutes: back to{' '}
          <strong title={exactTime(net.back)}>{when(net.back, now).replace(/^(at|on) /, '')}</strong>
          {net.holes.length > 0
            ? `, with ${count(net.holes.length, 'hole')} of ${span(hole)}`
            : ', without a hole'}
          .
        </>
      )}
    </>
  );
}

const views = ['scene', 'checkpoints', 'outputs', 'cost', 'keeping'] as const;

function OfScene({ series, versions, net }: { series: SeriesView[]; versions: VersionsView; net: NetView }) {
  const [address, change] = useAddress();
  const [now] = useState(() => Date.now());
  const view = views.find((v) => v === address.get('view')) ?? 'scene';
  const { scene } = versions;
  const compared = historyOf(versions, net).find((e) => keyOf(e) === address.get('beside'));
  const { bring, problem } = useBringing(scene, now);
  return (
    <Split>
      <Scroll>
        <Page
          title="Versions"
          answer={<Answer versions={versions} net={net} now={now} />}
          actions={<Actions net={net} />}
        >
          <Views
            label="Versions"
            chosen={view}
            onChoose={(to) => change({ view: to === 'scene' ? undefined : to })}
            views={[
              { id: 'scene', name: 'One scene', icon: History },
              { id: 'checkpoints', name: 'Checkpoints', icon: Flag },
              { id: 'outputs', name: 'Outputs', icon: ListChecks },
              { id: 'cost', name: 'Cost', icon: Scale },
              { id: 'keeping', name: 'How they are kept', icon: SlidersHorizontal },
            ]}
          >
            {view === 'keeping' && <Keeping versions={versions} net={net} />}
            {view === 'cost' && <Cost />}
            {view === 'checkpoints' && <Checkpoints now={now} />}
            {view === 'outputs' && <Outputs scene={scene} />}
            {view === 'scene' && (
              <>
                <SaveCard series={series} versions={versions} now={now} />
                <TimeLineCard versions={versions} net={net} now={now} />
                <HistoryCard
                  versions={versions}
                  net={net}
                  now={now}
                  onBring={bring}
                  onCompare={(entry) => change({ beside: keyOf(entry) })}
                  problem={problem}
                />
              </>
            )}
          </Views>
        </Page>
      </Scroll>
      {view === 'outputs' && address.get('clip') !== null && (
        <ClipOf path={address.get('clip')!} onClose={() => change({ clip: undefined })} />
      )}
      {compared && view === 'scene' && (
        <CompareDrawer
          key={keyOf(compared)}
          scene={scene}
          state={keyOf(compared)}
          name={nameOf(compared)}
          onBring={
            compared.what === 'version' && compared.version.number === null ? null : () => bring(compared)
          }
          onClose={() => change({ beside: undefined })}
        />
      )}
    </Split>
  );
}

/** The clip of a row of frames; nothing where there is no such row any more. */
function ClipOf({ path, onClose }: { path: string; onClose: () => void }) {
  const { data } = useOutputs();
  const set = data?.sets.find((s): s is FrameSet => s.path === path && s.frames !== null);
  return set ? <ClipDrawer key={path} set={set} onClose={onClose} /> : null;
}

/** Brings an entry of the history back. */
function useBringing(scene: string, now: number) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const bring = (entry: Entry) =>
    void attempt(() => {
      if (entry.what === 'version')
        return plan({
          kind: 'restore',
          scene,
          number: entry.version.number!,
          version: entry.version.path,
        });
      if (entry.what === 'other') return plan({ kind: 'other-back', scene, path: entry.save.path });
      return plan({
        kind: 'net-back',
        scene: entry.state.scene,
        at: entry.at,
        when: when(entry.at, now),
      });
    });
  return { bring, problem };
}

/** What concerns all scenes: those that changed are saved, or kept by the net, at once. */
function Actions({ net }: { net: NetView }) {
  const id = useWorkspaceId();
  const client = useQueryClient();
  const plan = usePlan();
  const { attempt, problem, busy } = useAttempt();
  return (
    <>
      {problem && <ErrorNotice error={problem} />}
      {net.settings !== null && (
        <Button
          isPending={busy === 'keep'}
          onPress={() =>
            void attempt(async () => {
              await call(keepNow, { id }, {});
              await client.invalidateQueries({ queryKey: ['net', id] });
            }, 'keep')
          }
        >
          <Waypoints size={16} /> Keep now
        </Button>
      )}
      <Button onPress={() => void attempt(() => plan({ kind: 'save', scenes: null, note: '' }))}>
        <Save size={16} /> Save all that changed…
      </Button>
    </>
  );
}
