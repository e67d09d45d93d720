'use client';
// Carry over: from another workspace or folder, what that stands on level by level, into this one; then one plan.

import { lookCarry } from '@/wire/routes/carry';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { ArrowLeftRight, ShieldCheck } from '../kit/icons';
import { useMemo } from 'react';
import { z } from 'zod';
import { reach } from '@/core/collect/reach';
import { nameOf } from '@/core/files/treePath';
import { bytes, count, figure } from '@/core/text/figures';
import { clashWay, type CarryLook } from '@/wire/collect';
import type { OverviewView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { MainButton } from '../kit/buttons';
import { useKept } from '../kit/kept';
import { FootLine, Grow, Sheet, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Needs, Page } from '../kit/Page';
import { useAddress, useJob, useOverview, usePlan, useWorkspaceId } from '../kit/work';
import { needsIn } from '../collect/needs';
import { From } from './From';
import { Into, type Ways } from './Into';
import { Levels } from './Levels';
import { PartOfScene } from './PartOfScene';
import { SettingsBeside } from './SettingsBeside';
import { Panes } from './panes';
import { CarryViews, carryViews } from './views';

export function CarryPage() {
  const result = useOverview();
  const [address] = useAddress();
  const view = carryViews.find((v) => v === address.get('view')) ?? 'files';
  return (
    <Needs title="Carry over" result={result}>
      {(overview) => {
        const { id } = overview.workspace;
        if (view === 'part') return <PartOfScene key={id} overview={overview} />;
        if (view === 'settings') return <SettingsBeside key={id} overview={overview} />;
        return <Carry key={id} overview={overview} />;
      }}
    </Needs>
  );
}

function Carry({ overview }: { overview: OverviewView }) {
  const id = useWorkspaceId();
  const run = useJob();
  const plan = usePlan();
  const { attempt, problem, busy } = useAttempt();
  const [address, change] = useAddress();
  const from = address.get('from') ?? '';
  const asked = address.get('asset');
  const [assets, setAssets] = useKept('assets', z.array(z.string()), asked === null ? [] : [asked]);
  const [unticked, setUnticked] = useKept('left out', z.array(z.string()), []);
  const [flat, setFlat] = useKept('flat', z.boolean(), false);
  const [ways, setWays] = useKept<z.ZodType<Ways>>(
    'clashes',
    z.object({ all: clashWay, own: z.record(z.string(), clashWay) }),
    { all: 'both', own: {} },
  );
  const { data, error, isFetching } = useQuery({
    queryKey: ['carry', id, from, assets, flat],
    enabled: from !== '' && assets.length > 0,
    placeholderData: keepPreviousData,
    staleTime: 30_000,
    queryFn: () => run(lookCarry, { id }, { from, assets, flat }),
  });
  const look = from !== '' && assets.length > 0 ? data : undefined;
  const out = useMemo(() => new Set(unticked), [unticked]);
  const all = useMemo(() => (look ? needsIn(look) : null), [look]);
  const kept = useMemo(() => (all ? { ...all, ...reach(all, out) } : null), [all, out]);
  const clashes = look && kept ? look.clashes.filter((c) => isKept(kept, c.from)) : [];
  const go = () =>
    attempt(() =>
      plan({
        kind: 'carry',
        from,
        assets,
        flat,
        unticked,
        clash: ways.all,
        clashes: clashes.flatMap((c): [string, Ways['all']][] =>
          ways.own[c.from] ? [[c.from, ways.own[c.from]!]] : [],
        ),
      }),
    );
  const comes = look && kept ? comingOf(look, kept) : { files: 0, size: 0, there: 0 };
  return (
    <Page
      title="Carry over"
      fill
      answer={
        look && kept ? (
          <Answer
            look={look}
            assets={assets}
            kept={kept}
            clashes={clashes.length}
            into={overview.workspace.name}
          />
        ) : (
          <>Choose what comes into {overview.workspace.name}: what it needs comes along.</>
        )
      }
      actions={
        <MainButton
          isDisabled={!look || isFetching || kept?.files.size === 0}
          isPending={busy !== null}
          onPress={() => void go()}
        >
          <ArrowLeftRight size={16} /> {busy ? 'Planning …' : 'Plan the carrying…'}
        </MainButton>
      }
    >
      <ErrorNotice error={problem ?? (error ? shapeOf(error) : null)} />
      <CarryViews chosen="files">
        <Panes>
          <From
            root={overview.workspace.root}
            from={from}
            onFrom={(folder) => {
              change({ from: folder, asset: undefined });
              setAssets([]);
              setUnticked([]);
            }}
            assets={assets}
            onAssets={setAssets}
          />
          <Sheet
            aria-label="What it stands on"
            style={{ display: 'flex', flexDirection: 'column', gap: 8, minHeight: 0 }}
          >
            <h2>What it stands on, level by level</h2>
            {all && kept && look ? (
              <Levels
                all={all}
                kept={kept}
                look={look}
                unticked={out}
                onTick={(next) => setUnticked([...next])}
              />
            ) : (
              <Soft>
                {isFetching ? 'Looking …' : 'What you pick on the left shows here with all it needs.'}
              </Soft>
            )}
          </Sheet>
          <Into
            name={overview.workspace.name}
            flat={flat}
            onFlat={setFlat}
            clashes={clashes}
            ways={ways}
            onWays={setWays}
          />
        </Panes>
      </CarryViews>
      <FootLine>
        <ShieldCheck size={16} aria-hidden />
        <Grow>
          <Soft>
            {look ? `${look.name} stays as it is. ` : ''}What lies here is replaced only where you say so.
          </Soft>
        </Grow>
        <span>
          {count(comes.files, 'file')}, <strong>{bytes(comes.size)}</strong>,{' '}
          {comes.files === 1 ? 'comes' : 'come'}
          {comes.there > 0 && `, ${figure(comes.there)} there already`}
        </span>
      </FootLine>
    </Page>
  );
}

const isKept = (
  kept: { files: ReadonlyMap<string, { set: string | null }>; sets: ReadonlyMap<string, readonly string[]> },
  key: string,
) => kept.files.has(key) || (kept.sets.get(key) ?? []).some((m) => kept.files.has(m));

/** What is copied of what is kept. */
function comingOf(look: CarryLook, kept: { files: ReadonlyMap<string, unknown> }) {
  let [files, size, there] = [0, 0, 0];
  for (const [n, f] of look.files.entries()) {
    if (!kept.files.has(f.from)) continue;
    if (look.carried[n]?.how === 'copy') {
      files++;
      size += f.size;
    } else there++;
  }
  return { files, size, there };
}

function Answer({
  look,
  assets,
  kept,
  clashes,
  into,
}: {
  look: CarryLook;
  assets: readonly string[];
  kept: {
    files: ReadonlyMap<string, { chosen: boolean }>;
    left: readonly { why: string; neededBy: readonly unknown[] }[];
  };
  clashes: number;
  into: string;
}) {
  const needs = [...kept.files.values()].filter((f) => !f.chosen).length;
  const out = kept.left.filter((l) => l.why === 'unticked' && l.neededBy.length > 0).length;
  return (
    <>
      <strong>{assets.length === 1 ? nameOf(assets[0]!) || look.name : count(assets.length, 'thing')}</strong>{' '}
      of {look.name} needs <strong>{count(needs, 'other file')}</strong>.{' '}
      {clashes > 0 && (
        <>
          <strong>{clashes === 1 ? 'One name is taken' : `${clashes} names are taken`}</strong> in {into}
          .{' '}
        </>
      )}
      {out > 0 && (
        <strong>
          {out === 1 ? 'One thing it needs is left out.' : `${out} things it needs are left out.`}
        </strong>
      )}
    </>
  );
}
