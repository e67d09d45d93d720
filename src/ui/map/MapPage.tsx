'use client';
// Map: what leads to what. Scenes at the left, the folders they draw from at the right; what needs a hand stands first and by itself.

import { readMap } from '@/wire/routes/references';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { NoScene } from '../workspaces/NoScene';
import { useCallback, useMemo, useState } from 'react';
import type { DependencyMap, MapNode } from '@/core/references/map';
import { count } from '@/core/text/figures';
import { call } from '../kit/api';
import { Chart, type Css } from '../kit/Chart';
import { Columns, Soft } from '../kit/layout';
import { Needs, Page } from '../kit/Page';
import { useAddress, useWorkspaceId } from '../kit/work';
import { optionOf } from './drawing';
import { MapList } from './MapList';

export function MapPage() {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const opened = address.get('open') ?? '';
  const result = useQuery({
    queryKey: ['map', id, opened],
    enabled: id !== null,
    placeholderData: keepPreviousData,
    queryFn: () => call(readMap, { id }, { open: opened }),
  });
  return (
    <Needs title="Map" result={result}>
      {(map) => <Map map={map} opened={opened.split('\n').filter(Boolean)} change={change} />}
    </Needs>
  );
}

function Map({
  map,
  opened,
  change,
}: {
  map: DependencyMap;
  opened: string[];
  change: (c: Record<string, string | undefined>) => void;
}) {
  const [chosen, setChosen] = useState<string | null>(null);
  const lost = map.nodes
    .filter((n) => n.kind === 'scene' || n.kind === 'scenes')
    .reduce((s, n) => s + n.attention, 0);
  const holder = (n: MapNode) =>
    (n.kind === 'scene'
      ? opened.find((o) => o.startsWith('scenes:') && o.replace(/^scenes:>?/, '') === n.within)
      : n.kind === 'file'
        ? opened.find((o) => o === `folder:${n.state}:${n.within}`)
        : n.id) ?? n.id;
  const toggle = (n: MapNode) => {
    const key = holder(n);
    change({ open: (opened.includes(key) ? opened.filter((o) => o !== key) : [...opened, key]).join('\n') });
  };
  const option = useCallback((css: Css) => optionOf(map, chosen, css), [map, chosen]);
  const pick = useCallback((name: string) => {
    if (name) setChosen((was) => (was === name ? null : name));
  }, []);
  const rows = useMemo(
    () =>
      Math.max(
        ...[0, ...map.nodes.map((n) => n.column)].map((c) => map.nodes.filter((n) => n.column === c).length),
      ),
    [map],
  );
  if (map.nodes.length === 0)
    return (
      <Page title="Map">
        <NoScene>What leads to what shows here once a scene references another file.</NoScene>
      </Page>
    );
  return (
    <Page
      title="Map"
      answer={
        <>
          <strong>
            {count(map.scenes, 'scene')} and material files lead to {count(map.files, 'file')}.
          </strong>{' '}
          <Soft>
            {lost > 0
              ? `${count(lost, 'reference')} would break elsewhere: they stand first.`
              : 'All of it would open on another machine.'}{' '}
            What is well is drawn together by folder; open it to see each.
          </Soft>
        </>
      }
    >
      <Columns $right="320px">
        <Chart
          label={`Map of ${count(map.scenes, 'scene')} and ${count(map.files, 'file')}; the same is listed beside it.`}
          option={option}
          height={`max(${Math.max(440, rows * 32)}px, calc(100dvh - 214px))`}
          onPick={pick}
        />
        <MapList map={map} chosen={chosen} onChoose={setChosen} onToggle={toggle} />
      </Columns>
    </Page>
  );
}
