'use client';
// What versions cost, how that grew, and what makes each save dear.

import { useQuery } from '@tanstack/react-query';
import { PackageOpen, RefreshCw } from '../kit/icons';
import { useCallback, useState } from 'react';
import styled from 'styled-components';
import { nameOf } from '@/core/files/treePath';
import { bytes, count, exactBytes, exactTime, figure } from '@/core/text/figures';
import { workOutCost } from '@/wire/routes/versions';
import type { CostView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Chart, type Css } from '../kit/Chart';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { SmallTable } from '../kit/SmallTable';
import { useJob, usePlan, useWorkspaceId } from '../kit/work';
import { space } from '../theme/theme';

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: ${space(4)};
`;

const fewScenes = 8;

/** Whether it can be taken out of a scene: from GLB all, from glTF in text pictures, from USD text prims. */
const mayBeTaken = (r: CostView['repeats'][number], scene: string): boolean =>
  r.apart &&
  (scene.endsWith('.glb') ||
    (scene.endsWith('.gltf') && r.kind === 'picture') ||
    (/\.usda?$/.test(scene) && r.kind === 'thing'));

export function Cost() {
  const id = useWorkspaceId();
  const run = useJob();
  const { data, error, isFetching, refetch } = useQuery<CostView>({
    queryKey: ['cost', id],
    staleTime: 60_000,
    queryFn: () => run(workOutCost, { id }),
  });
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data) return <Soft>Weighing versions …</Soft>;
  const taken = data.onDisk + data.inStore;
  return (
    <>
      {data.repeats.length > 0 && <Repeats view={data} />}
      <Sheet aria-label="What versions cost">
        <Stack $gap={3}>
          <Row $gap={4} $wrap style={{ justifyContent: 'space-between' }}>
            <span>
              <strong title={exactBytes(taken)}>{bytes(taken)}</strong> for{' '}
              {count(
                data.scenes.reduce((n, s) => n + s.states, 0),
                'version and kept state',
                'versions and kept states',
              )}
              : {bytes(data.onDisk)} as files, {bytes(data.inStore)} in the store. As copies they would take{' '}
              <strong title={exactBytes(data.copies)}>{bytes(data.copies)}</strong>.
            </span>
            <Button onPress={() => void refetch()} isDisabled={isFetching}>
              <RefreshCw size={15} /> Weigh again
            </Button>
          </Row>
          {data.grew.length > 1 && <Grown grew={data.grew} />}
          <Scenes scenes={data.scenes} />
        </Stack>
      </Sheet>
    </>
  );
}

function Grown({ grew }: { grew: CostView['grew'] }) {
  const option = useCallback(
    (css: Css) => {
      const words = { color: css('--soft'), fontFamily: 'inherit', fontSize: 13 };
      const line = { lineStyle: { color: css('--line') } };
      return {
        grid: { left: 12, right: 20, top: 40, bottom: 8, containLabel: true },
        legend: { top: 6, left: 8, itemGap: 26, itemWidth: 30, textStyle: { ...words, color: css('--ink') } },
        tooltip: { trigger: 'axis', valueFormatter: (v: number) => bytes(v) },
        xAxis: { type: 'time', axisLabel: words, axisLine: line, splitNumber: 5 },
        yAxis: {
          type: 'value',
          axisLabel: { ...words, formatter: (v: number) => bytes(v) },
          splitLine: line,
          splitNumber: 4,
        },
        series: [
          {
            name: 'as copies',
            type: 'line',
            step: 'end',
            symbol: 'none',
            lineStyle: { type: 'dashed', color: css('--saddle') },
            itemStyle: { color: css('--saddle') },
            data: grew.map((g) => [g.at, g.copies]),
          },
          {
            name: 'as it is',
            type: 'line',
            step: 'end',
            symbol: 'none',
            areaStyle: { color: css('--greenTint') },
            lineStyle: { color: css('--greenText') },
            itemStyle: { color: css('--greenText') },
            data: grew.map((g) => [g.at, g.taken]),
          },
        ],
      };
    },
    [grew],
  );
  const [first, last] = [grew[0]!, grew.at(-1)!];
  return (
    <Chart
      label={`From ${exactTime(first.at)} to ${exactTime(last.at)}: ${bytes(last.taken)} now, ${bytes(last.copies)} as copies. The table below says it for each scene.`}
      option={option}
      height={220}
    />
  );
}

function Scenes({ scenes }: { scenes: CostView['scenes'] }) {
  const [shown, setShown] = useState(fewScenes);
  const older = scenes.reduce(
    (sum, { older: o }) => ({ now: sum.now + (o?.now ?? 0), compact: sum.compact + (o?.compact ?? 0) }),
    { now: 0, compact: 0 },
  );
  return (
    <>
      <SmallTable>
        <thead>
          <tr>
            <th>Scene</th>
            <th className="number">States</th>
            <th className="number">As files</th>
            <th className="number">In the store</th>
            <th className="number">As copies</th>
            <th className="number">A save writes</th>
            <th className="number">of it new</th>
          </tr>
        </thead>
        <tbody>
          {scenes.slice(0, shown).map((s) => (
            <tr key={s.scene}>
              <td>
                <Mono>{s.scene}</Mono>
              </td>
              <td className="number">{s.states}</td>
              <td className="number">{bytes(s.onDisk)}</td>
              <td className="number">{bytes(s.inStore)}</td>
              <td className="number">{bytes(s.copies)}</td>
              <td className="number">{bytes(s.save)}</td>
              <td className="number">{s.changed === null ? <Soft>–</Soft> : bytes(s.changed)}</td>
            </tr>
          ))}
        </tbody>
      </SmallTable>
      {scenes.length > shown && (
        <Row>
          <Button onPress={() => setShown(scenes.length)}>Show all {figure(scenes.length)} scenes</Button>
        </Row>
      )}
      <Soft>
        {older.now > 0 &&
          `The older versions take ${bytes(older.now)}; kept compact (One scene, tick them) they would take about ${bytes(older.compact)}. `}
        Kept compact, or by the net, a version costs about what is new in it.
      </Soft>
    </>
  );
}

const kinds = { picture: 'the picture', geometry: 'the geometry', thing: '' } as const;

function Repeats({ view }: { view: CostView }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  return (
    <Sheet aria-label="What scenes carry inside them">
      <Stack $gap={3}>
        <h2>What scenes carry inside them</h2>
        <ErrorNotice error={problem} />
        <List>
          {view.repeats.map((r) => (
            <li key={r.digest}>
              <Stack $gap={1}>
                <span>
                  <strong title={exactBytes(r.each)}>{bytes(r.each)}</strong> of each save{' '}
                  {r.kind === 'thing' ? 'is' : `is ${kinds[r.kind]}`} <Mono>{r.name}</Mono> inside{' '}
                  {r.files.length <= 3
                    ? r.files.map(nameOf).join(', ')
                    : `${r.files.slice(0, 2).map(nameOf).join(', ')} and ${r.files.length - 2} more`}
                  .
                </span>
                <Soft>
                  {afterwards(r, view)} It stands there {r.files.length} times; once would be {bytes(r.spare)}{' '}
                  less.
                </Soft>
                <Row>
                  {r.present.some((f) => mayBeTaken(r, f)) ? (
                    <Button
                      onPress={() =>
                        void attempt(() =>
                          plan({
                            kind: 'take-out',
                            scenes: r.present.filter((f) => mayBeTaken(r, f)),
                            digest: r.digest,
                          }),
                        )
                      }
                    >
                      <PackageOpen size={15} /> Take {r.name} out of{' '}
                      {count(r.present.filter((f) => mayBeTaken(r, f)).length, 'scene')}…
                    </Button>
                  ) : (
                    <Soft>
                      {r.present.some((f) => f.endsWith('.gltf'))
                        ? 'Write the scene as GLB first (Files, The other form); from there it can be taken out.'
                        : 'In this format it is taken out by the program that made it: save it as a file of its own, and reference that.'}
                    </Soft>
                  )}
                </Row>
              </Stack>
            </li>
          ))}
        </List>
      </Stack>
    </Sheet>
  );
}

/** What a save would cost then. */
function afterwards(r: CostView['repeats'][number], { scenes }: CostView): string {
  const own = scenes.filter((s) => r.present.includes(s.scene));
  if (own.length === 0) return '';
  const least = Math.min(...own.map((s) => Math.max(0, s.save - r.each)));
  const most = Math.max(...own.map((s) => Math.max(0, s.save - r.each)));
  return least === most
    ? `Beside it, a save would cost ${bytes(most)}.`
    : `Beside it, a save would cost ${bytes(least)} to ${bytes(most)}.`;
}
