'use client';
// Collect: left what scenes need, right where it will lie, changed by hand; then one plan of one new folder.

import { lookUsed, planCollect, readNeeds } from '@/wire/routes/collect';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Bookmark, Boxes, ListChecks, PackagePlus, ShieldCheck } from '../kit/icons';
import { useMemo, useState } from 'react';
import styled from 'styled-components';
import { z } from 'zod';
import { place } from '@/core/collect/placement';
import { reach } from '@/core/collect/reach';
import { reportNames } from '@/core/collect/report';
import { byKind } from '@/core/collect/rules';
import { nameOf } from '@/core/files/treePath';
import type { Rule } from '@/core/collect/placement';
import { bytes, count, figure } from '@/core/text/figures';
import { collectLayout, collectScope, handStep, type CollectNeeds, type CollectScope } from '@/wire/collect';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { useKept } from '../kit/kept';
import { FootLine, Grow, Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { NoScene } from '../workspaces/NoScene';
import { Needs, Page } from '../kit/Page';
import {
  useAddress,
  useJob,
  useOverview,
  usePlanOf,
  useServerState,
  useStepHref,
  useWorkspaceId,
} from '../kit/work';
import { space } from '../theme/theme';
import { Candidates } from './Candidates';
import { needsIn, type Grouping, type Needs as All } from './needs';
import { NewFolder } from './NewFolder';
import { Presets } from './Presets';
import { ChooseScenes } from './ChooseScenes';
import { Target } from './Target';
import { UsedOnly, type Frames } from './UsedOnly';

const Panes = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: ${space(4)};
  flex: 1;
  min-height: 320px;
  @media (max-width: 1120px) {
    min-height: 520px;
  }
`;
export function CollectPage() {
  const id = useWorkspaceId();
  const run = useJob();
  const [scenes, setScenes] = useKept('scenes', collectScope, 'latest');
  const [excluded, setExcluded] = useKept('excluded folders', z.array(z.string()), []);
  const result = useQuery({
    queryKey: ['needs', id, scenes, excluded],
    enabled: id !== null,
    staleTime: 60_000,
    queryFn: () => run(readNeeds, { id }, { scenes, excluded }),
  });
  return (
    <Needs title="Collect" result={result}>
      {(data) => (
        <Collect
          key={id}
          data={data}
          scenes={scenes}
          onScenes={setScenes}
          excluded={excluded}
          onExclude={setExcluded}
        />
      )}
    </Needs>
  );
}

/** Everything that was chosen on the page, kept until it is applied. */
function useChoices(data: CollectNeeds) {
  const { data: overview } = useOverview();
  const { data: state } = useServerState();
  const above = data.root.slice(0, data.root.lastIndexOf('/')) || '/';
  const [unticked, setUnticked] = useKept('left out', z.array(z.string()), []);
  const [rule, setRule] = useKept(
    'layout',
    collectLayout,
    byKind(data.homes) as z.output<typeof collectLayout>,
  );
  const [steps, setSteps] = useKept('by hand', z.array(handStep), []);
  const [folder, setFolder] = useKept('into', z.string(), state?.demo ? `${state.demo}/bench` : above);
  const [name, setName] = useKept(
    'name',
    z.string(),
    `${overview?.workspace.name ?? nameOf(data.root)} collected`,
  );
  const [as, setAs] = useKept('as', z.enum(['files', 'workspace', 'report']), 'files');
  const [usedOnly, setUsedOnly] = useKept('only what is shown', z.boolean(), false);
  const [frames, setFrames] = useKept(
    'frames',
    z.record(z.string(), z.tuple([z.number(), z.number()])),
    {} as Frames,
  );
  const [grouping, setGrouping] = useKept('grouped', z.enum(['kind', 'place', 'scene']), 'kind' as Grouping);
  return {
    unticked: useMemo(() => new Set(unticked), [unticked]),
    setUnticked: (next: Set<string>) => setUnticked([...next]),
    rule: rule as Rule,
    setRule: (next: Rule) => setRule(next as z.output<typeof collectLayout>),
    steps,
    setSteps,
    folder,
    setFolder,
    name,
    setName,
    as,
    setAs,
    usedOnly,
    setUsedOnly,
    frames,
    setFrames,
    grouping,
    setGrouping,
  };
}
export type Choices = ReturnType<typeof useChoices>;

function Collect({
  data,
  scenes,
  onScenes,
  excluded,
  onExclude,
}: {
  data: CollectNeeds;
  scenes: CollectScope;
  onScenes: (scenes: CollectScope) => void;
  excluded: string[];
  onExclude: (folders: string[]) => void;
}) {
  const id = useWorkspaceId();
  const href = useStepHref();
  const [address] = useAddress();
  const planOf = usePlanOf();
  const { attempt, problem, busy } = useAttempt();
  const [open, setOpen] = useState<'scenes' | 'presets' | null>(null);
  const c = useChoices(data);
  const all = useMemo(() => needsIn(data), [data]);
  const run = useJob();
  const { data: used, error: usedError } = useQuery({
    queryKey: ['used', id, scenes, excluded, c.frames],
    enabled: c.usedOnly,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
    queryFn: () => run(lookUsed, { id }, { scenes, excluded, frames: Object.entries(c.frames) }),
  });
  const notUsed = useMemo(
    () => new Set(c.usedOnly ? (used?.notUsed.flatMap((u) => u.files) ?? []) : []),
    [c.usedOnly, used],
  );
  const kept = useMemo(() => ({ ...all, ...reach(all, c.unticked, notUsed) }), [all, c.unticked, notUsed]);
  const placement = useMemo(
    () =>
      place(kept, {
        root: data.root,
        libraries: data.libraries,
        rule: c.rule,
        byHand: c.steps,
        reserved: Object.values(reportNames),
      }),
    [kept, data, c.rule, c.steps],
  );
  const size = [...kept.files.values()].reduce((sum, f) => sum + f.state.size, 0);
  const clashes = placement.clashes.length;
  const plan = () =>
    attempt(() =>
      planOf(
        planCollect,
        { id },
        {
          scenes,
          excluded,
          unticked: [...c.unticked],
          notUsed: [...notUsed],
          layout: c.rule as z.output<typeof collectLayout>,
          byHand: c.steps,
          folder: c.folder,
          name: c.name,
          as: c.as,
        },
        { done: href('/collect', { made: `${c.folder}/${c.name}` }) },
      ),
    );
  const made = address.get('made');
  return (
    <Page
      title="Collect"
      fill
      answer={
        data.scenes.length === 0 ? (
          'There is no scene in this workspace yet.'
        ) : (
          <Answer all={all} kept={kept} clashes={clashes} scenes={scenes} />
        )
      }
      actions={
        <>
          <Button onPress={() => setOpen('scenes')}>
            <ListChecks size={16} /> Which scenes…
          </Button>
          <Button onPress={() => setOpen('presets')}>
            <Bookmark size={16} /> Presets…
          </Button>
          <MainButton
            isDisabled={
              kept.files.size === 0 ||
              (c.usedOnly && !used) ||
              clashes > 0 ||
              c.name.trim() === '' ||
              c.folder.trim() === ''
            }
            isPending={busy !== null}
            onPress={() => void plan()}
          >
            <PackagePlus size={16} />{' '}
            {busy ? 'Planning …' : c.as === 'report' ? 'Plan the report…' : 'Plan the collecting…'}
          </MainButton>
        </>
      }
    >
      {made && (
        <Notice tone="green" title="Collected.">
          <Mono>{made}</Mono>: hand over the whole folder. “{reportNames.page}” in it says what it is, in any
          browser.
        </Notice>
      )}
      <ErrorNotice error={problem ?? (usedError ? shapeOf(usedError) : null)} />
      {data.notes.length > 0 && (
        <Notice tone="amber" title={`${count(data.notes.length, 'scene')} could not be read whole.`}>
          <ul style={{ margin: 0, paddingLeft: 18 }}>
            {data.notes.slice(0, 5).map((n, i) => (
              <li key={i}>{n}</li>
            ))}
            {data.notes.length > 5 && <li>and {data.notes.length - 5} more, named in the plan</li>}
          </ul>
        </Notice>
      )}
      {data.scenes.length === 0 ? (
        <NoScene>What a scene needs is collected here into one folder, to be handed over.</NoScene>
      ) : (
        <Panes>
          <Candidates
            all={all}
            kept={kept}
            unticked={c.unticked}
            onTick={c.setUnticked}
            grouping={c.grouping}
            onGroup={c.setGrouping}
          >
            {all.sets.size > 0 && (
              <UsedOnly
                isOn={c.usedOnly}
                onChange={c.setUsedOnly}
                used={used}
                frames={c.frames}
                onFrames={c.setFrames}
              />
            )}
          </Candidates>
          <Sheet
            aria-label="Where it will lie"
            style={{ display: 'flex', flexDirection: 'column', gap: 8, minHeight: 0 }}
          >
            <Target choices={c} homes={data.homes} />
            <NewFolder needs={kept} placement={placement} steps={c.steps} onSteps={c.setSteps} withReport />
          </Sheet>
        </Panes>
      )}
      <FootLine>
        <ShieldCheck size={16} aria-hidden />
        <Grow>
          <Soft>The sources stay as they are, to the byte. Only an empty folder is filled.</Soft>
        </Grow>
        <Row>
          <Boxes size={15} aria-hidden />
          <span>
            <strong>{bytes(c.as === 'report' ? 0 : size)}</strong> to copy
          </span>
        </Row>
      </FootLine>
      {open === 'scenes' && (
        <ChooseScenes
          scenes={data.scenes}
          root={data.root}
          chosen={scenes}
          onChoose={(next) => {
            onScenes(next);
            setOpen(null);
          }}
          onClose={() => setOpen(null)}
        />
      )}
      {open === 'presets' && (
        <Presets
          rule={c.rule}
          excluded={excluded}
          onUse={(rule, folders) => {
            if (rule) c.setRule(rule);
            onExclude(folders);
          }}
          onExclude={onExclude}
          onClose={() => setOpen(null)}
        />
      )}
    </Page>
  );
}

function Answer({
  all,
  kept,
  clashes,
  scenes,
}: {
  all: All;
  kept: Pick<All, 'files' | 'left'>;
  clashes: number;
  scenes: CollectScope;
}) {
  const size = [...kept.files.values()].reduce((sum, f) => sum + f.state.size, 0);
  const chosen = [...all.files.values()].filter((f) => f.chosen);
  const names = chosen.slice(0, 2).map((f) => nameOf(f.from));
  const out = kept.left.filter((l) => l.why === 'unticked');
  const needed = out.filter((l) => l.neededBy.length > 0);
  const stays = all.files.size - kept.files.size;
  return (
    <Stack $gap={1}>
      <span>
        <strong>
          {kept.files.size === all.files.size
            ? count(all.files.size, 'file')
            : `${figure(kept.files.size)} of ${count(all.files.size, 'file')}`}
        </strong>
        , {bytes(size)}, for{' '}
        {!Array.isArray(scenes) ? (
          <strong>
            {scenes === 'all' ? 'all' : 'the latest of'} {count(chosen.length, 'scene')}
          </strong>
        ) : (
          <>
            <strong>{names.join(' and ')}</strong>
            {chosen.length > 2 && ` and ${chosen.length - 2} more`}
          </>
        )}
        .{' '}
        {stays > 0 && (
          <>
            {figure(stays)} {stays === 1 ? 'is' : 'are'} left out
            {needed.length > 0 && (
              <>
                ;{' '}
                <strong>
                  {needed.length === 1
                    ? 'one of them is needed'
                    : `${figure(needed.length)} of them are needed`}
                </strong>
              </>
            )}
            .{' '}
          </>
        )}
        {clashes > 0 && (
          <strong>
            {clashes === 1
              ? 'One thing cannot lie where you put it.'
              : `${clashes} things cannot lie where you put them.`}
          </strong>
        )}
      </span>
    </Stack>
  );
}
