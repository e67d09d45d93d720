'use client';
// Settings of the open workspace, or one of its scenes, beside another's: differences first, ticked ones taken over in either direction, as a plan.

import { layBeside } from '@/wire/routes/nodes';
import { makePlan } from '@/wire/routes/plans';
import { useQuery } from '@tanstack/react-query';
import { ArrowLeft, ArrowRight, Boxes, ShieldCheck } from '../kit/icons';
import Link from '../kit/Link';
import { useState } from 'react';
import styled from 'styled-components';
import { z } from 'zod';
import { nameOf } from '@/core/files/treePath';
import type { SettingGroup } from '@/core/settings/setting';
import { count } from '@/core/text/figures';
import type { BesideView } from '@/wire/nodes';
import type { OverviewView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, Chip } from '../kit/buttons';
import { Choose, Tick } from '../kit/fields';
import { useKept } from '../kit/kept';
import { FootLine, Grow, Row, Scroll, Sheet, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { useAddress, useJob, usePlan, usePlanOf, useServerState, useWorkspaceId } from '../kit/work';
import { color, space } from '../theme/theme';
import { useAnyScenes } from './FromScene';
import { OtherRoot } from './OtherRoot';
import { CarryViews } from './views';

const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  th {
    text-align: left;
    font-weight: 600;
    padding: ${space(2)} ${space(3)};
    border-bottom: 2px solid ${color.line};
  }
  td {
    padding: ${space(2)} ${space(3)};
    border-bottom: 1px solid ${color.line};
    vertical-align: top;
    overflow-wrap: anywhere;
  }
  td:nth-child(n + 2) {
    width: 36%;
  }
  tr[data-differs] td {
    background: ${color.amberTint};
  }
  th[scope='rowgroup'] {
    padding-top: ${space(4)};
    border-bottom: 0;
  }
`;

const groups: Readonly<Record<SettingGroup, string>> = {
  measure: 'Units and axes',
  grid: 'Grid',
  time: 'Time',
  homes: 'Homes',
  names: 'Names and versions',
  places: 'Libraries and places',
  layers: 'Layers',
  environment: 'Surroundings',
  background: 'Background and fog',
  lights: 'Lights',
  cameras: 'Cameras',
  colour: 'Colours',
  required: 'What it takes to open it',
};

type Row_ = BesideView['rows'][number];

export function SettingsBeside({ overview }: { overview: OverviewView }) {
  const id = useWorkspaceId();
  const run = useJob();
  const plan = usePlan();
  const planOf = usePlanOf();
  const { attempt, problem, busy } = useAttempt();
  const [address, change] = useAddress();
  const { data: state } = useServerState();
  const { root, name } = overview.workspace;
  const other = address.get('from') ?? '';
  const kind = address.get('of') === 'scenes' ? 'scenes' : 'workspaces';
  const [mine, theirs] = [address.get('here') ?? '', address.get('scene') ?? ''];
  const [ticked, setTicked] = useKept('settings', z.array(z.string()), []);
  const [hasAll, setAll] = useState(false);
  const isReady = other !== '' && (kind === 'workspaces' ? other !== root : mine !== '' && theirs !== '');
  const scenes = kind === 'scenes' ? ([mine, theirs] as [string, string]) : null;
  const { data, error } = useQuery({
    queryKey: ['beside', id, other, scenes],
    enabled: isReady,
    retry: false,
    queryFn: () => run(layBeside, { id }, { root: other, scenes }),
  });
  const rows = isReady && !error ? (data?.rows ?? null) : null;
  const wanted = rows?.filter((r) => ticked.includes(r.key) && r.takes.length > 0) ?? [];
  const otherId = state?.workspaces.find((w) => w.root === other)?.id;
  const [toMine, toTheirs] = (['a', 'b'] as const).map((side) =>
    wanted.filter((r) => r.takes.includes(side)),
  );
  const keys = (all: readonly Row_[] | undefined) => (all ?? []).map((r) => r.key);
  const differ = rows?.filter((r) => r.differs).length ?? 0;
  const change_ = (changes: Record<string, string | undefined>) => {
    setTicked([]);
    change(changes);
  };
  return (
    <Page
      title="Settings side by side"
      fill
      answer={
        rows && data ? (
          differ === 0 ? (
            <>
              {data.names[0]} and {data.names[1]} say the same.
            </>
          ) : (
            <>
              <strong>{count(differ, 'setting')}</strong> of {rows.length}{' '}
              {differ === 1 ? 'differs' : 'differ'}.{' '}
              {data.differences && data.differences.length > 0 && (
                <Soft>
                  {count(data.differences.length, 'thing')} in the scenes{' '}
                  {data.differences.length === 1 ? 'differs' : 'differ'}, too.
                </Soft>
              )}
            </>
          )
        ) : (
          <>Choose what {name} is laid beside: another workspace, or a scene beside one of its own.</>
        )
      }
    >
      <ErrorNotice error={problem ?? (error && isReady ? shapeOf(error) : null)} />
      <CarryViews chosen="settings">
        <Row $wrap style={{ alignItems: 'flex-end' }}>
          <Row role="group" aria-label="What is laid side by side">
            {(['workspaces', 'scenes'] as const).map((k) => (
              <Chip
                key={k}
                isSelected={kind === k}
                onChange={() => change_({ of: k === 'scenes' ? k : undefined })}
              >
                {k === 'workspaces' ? 'Two workspaces' : 'Two scenes'}
              </Chip>
            ))}
          </Row>
          {kind === 'scenes' && (
            <div style={{ minWidth: 220, flex: 1 }}>
              <SceneChoice
                label={`Scene of ${name}`}
                root={root}
                value={mine}
                onChange={(s) => change_({ here: s })}
              />
            </div>
          )}
          <div style={{ minWidth: 260, flex: 1 }}>
            <OtherRoot
              label={kind === 'scenes' ? 'Scene of' : 'Beside'}
              value={other}
              onChange={(folder) => change_({ from: folder, scene: undefined })}
              without={kind === 'scenes' ? null : root}
              purpose="Lay beside"
            />
          </div>
          {kind === 'scenes' && other !== '' && (
            <div style={{ minWidth: 220, flex: 1 }}>
              <SceneChoice
                label="Scene"
                root={other}
                value={theirs}
                onChange={(s) => change_({ scene: s })}
              />
            </div>
          )}
        </Row>
        <Sheet style={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
          {!isReady && <Soft>Nothing is chosen yet.</Soft>}
          {isReady && !rows && !error && <Soft>Looking …</Soft>}
          {rows && data && (
            <>
              <Row>
                <Grow />
                <Chip isSelected={hasAll} onChange={setAll}>
                  Show what is the same, too
                </Chip>
              </Row>
              <Scroll>
                <Rows
                  rows={hasAll ? rows : rows.filter((r) => r.differs)}
                  names={data.names}
                  ticked={ticked}
                  onTick={(key, on) => setTicked(on ? [...ticked, key] : ticked.filter((k) => k !== key))}
                  part={(r) =>
                    kind === 'scenes' &&
                    (r.group === 'lights' || r.group === 'cameras') &&
                    r.b !== null &&
                    r.differs
                      ? `/carry?${new URLSearchParams({ ...(id ? { w: id } : {}), view: 'part', from: other, scene: theirs }).toString()}`
                      : null
                  }
                />
                {data.differences && data.differences.length > 0 && <Things all={data.differences} />}
              </Scroll>
            </>
          )}
        </Sheet>
      </CarryViews>
      <FootLine>
        <ShieldCheck size={16} aria-hidden />
        <Grow>
          <Soft>Only what is ticked is taken over, and nothing before you have seen the plan.</Soft>
        </Grow>
        <Button
          isDisabled={toMine!.length === 0 || busy !== null}
          onPress={() =>
            void attempt(() =>
              plan({
                kind: 'take-over',
                from: other,
                scenes: scenes && { from: theirs, into: mine },
                keys: keys(toMine),
              }),
            )
          }
        >
          <ArrowLeft size={15} /> Take {toMine!.length || ''} over into{' '}
          {kind === 'scenes' ? nameOf(mine) || 'mine' : name}…
        </Button>
        <Button
          isDisabled={toTheirs!.length === 0 || otherId === undefined || busy !== null}
          onPress={() =>
            void attempt(() =>
              planOf(
                makePlan,
                { id: otherId! },
                {
                  kind: 'take-over',
                  from: root,
                  scenes: scenes && { from: mine, into: theirs },
                  keys: keys(toTheirs),
                },
              ),
            )
          }
        >
          Take {toTheirs!.length || ''} over into{' '}
          {kind === 'scenes' ? nameOf(theirs) || 'the other' : (data?.names[1] ?? 'the other')}…{' '}
          <ArrowRight size={15} />
        </Button>
      </FootLine>
    </Page>
  );
}

function SceneChoice({
  label,
  root,
  value,
  onChange,
}: {
  label: string;
  root: string;
  value: string;
  onChange: (scene: string) => void;
}) {
  const { scenes } = useAnyScenes(root);
  return (
    <Choose
      label={label}
      value={value}
      onChange={onChange}
      options={[
        ...(value === '' || !scenes?.includes(value)
          ? [[value, value === '' ? 'choose a scene' : value] as const]
          : []),
        ...(scenes ?? []).map((s) => [s, s] as const),
      ]}
    />
  );
}

function Rows({
  rows,
  names,
  ticked,
  onTick,
  part,
}: {
  rows: readonly Row_[];
  names: readonly [string, string];
  ticked: readonly string[];
  onTick: (key: string, on: boolean) => void;
  /** Where a light or camera is carried as part of the scene; null: it is not. */
  part: (row: Row_) => string | null;
}) {
  // Differences come first; within each half the groups follow each other.
  const halves = [rows.filter((r) => r.differs), rows.filter((r) => !r.differs)];
  return (
    <Table>
      <thead>
        <tr>
          <th scope="col">Setting</th>
          <th scope="col">{names[0]}</th>
          <th scope="col">{names[1]}</th>
        </tr>
      </thead>
      {halves.flatMap((half, h) =>
        [...new Set(half.map((r) => r.group))].map((group) => (
          <tbody key={`${h} ${group}`}>
            <tr>
              <th scope="rowgroup" colSpan={3}>
                {groups[group]}
                {h === 1 && <Soft> · the same</Soft>}
              </th>
            </tr>
            {half
              .filter((r) => r.group === group)
              .map((r) => (
                <tr key={r.key} data-differs={r.differs || undefined}>
                  <td>
                    {r.takes.length > 0 ? (
                      <Tick checked={ticked.includes(r.key)} onChange={(on) => onTick(r.key, on)}>
                        {r.name}
                      </Tick>
                    ) : (
                      r.name
                    )}
                  </td>
                  <td>{r.a ?? <Soft>nothing said</Soft>}</td>
                  <td>
                    {r.b ?? <Soft>nothing said</Soft>}
                    {part(r) !== null && (
                      <div>
                        <Link href={part(r)!}>
                          <Boxes size={13} aria-hidden /> Carry it over…
                        </Link>
                      </div>
                    )}
                  </td>
                </tr>
              ))}
          </tbody>
        )),
      )}
    </Table>
  );
}

const signs = {
  added: 'only in the second',
  removed: 'only in the first',
  renamed: 'renamed',
  changed: 'differs',
} as const;

function Things({ all }: { all: NonNullable<BesideView['differences']> }) {
  const most = 200;
  return (
    <>
      <h2 style={{ marginTop: space(4) }}>What differs in the scenes</h2>
      <ul>
        {all.slice(0, most).map((d, n) => (
          <li key={n}>
            <strong>{d.was === undefined ? d.name : `${d.was} → ${d.name}`}</strong>{' '}
            <Soft>
              {d.kind}, {signs[d.what]}
            </Soft>
          </li>
        ))}
      </ul>
      {all.length > most && <Soft>and {all.length - most} more</Soft>}
    </>
  );
}
