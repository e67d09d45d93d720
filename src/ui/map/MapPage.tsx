'use client';
// Map: what leads to what. Scenes at the left, the folders they draw from at the right; what needs a hand stands first and by itself.

import { readMap } from '@/wire/routes/references';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { AlertTriangle, FolderClosed, FolderOpen, Table2 } from 'lucide-react';
import Link from 'next/link';
import { useCallback, useMemo, useState } from 'react';
import styled from 'styled-components';
import type { DependencyMap, MapNode } from '@/core/references/map';
import { count } from '@/core/text/figures';
import { call } from '../kit/api';
import { Chart, type Css } from '../kit/Chart';
import { Empty, Grow, LinkButton, PlainButton, Row, Soft, StateMark, toneOf } from '../kit/controls';
import { Needs, Page } from '../kit/Page';
import { useAddress, useStepHref, useWorkspaceId } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';

const Split = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: ${space(4)};
  align-items: start;
`;
const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: ${space(1)};
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  max-height: calc(100dvh - 210px);
  overflow: auto;
  li {
    border-radius: ${radius.small};
    padding: 2px;
  }
  li[data-chosen='true'] {
    background: ${color.greenTint};
  }
  button.line {
    display: block;
    width: 100%;
    text-align: left;
    border: none;
    background: none;
    color: ${color.ink};
    padding: 4px ${space(2)};
    cursor: pointer;
    border-radius: ${radius.small};
    min-height: 28px;
    overflow-wrap: anywhere;
  }
  button.line:hover {
    background: ${color.raised};
  }
  .name {
    font: 700 13.5px ${font.mono};
  }
  .more {
    font-size: 13px;
    color: ${color.soft};
  }
`;

const toneName = (state: string | null) =>
  state === null ? '--green-text' : (/var\((--[\w-]+)\)/.exec(toneOf(state))?.[1] ?? '--soft');

const troubleTone = (state: string | null) =>
  toneName(state === null || state === 'travels' || state === 'library' ? 'odd' : state);

/** What a node is, in words. */
function told(n: MapNode): string {
  const all = `${count(n.references, 'reference')}${n.attention > 0 ? `, ${n.attention} of them need attention` : ''}`;
  switch (n.kind) {
    case 'scene':
      return `${n.within || 'root'} · ${all}`;
    case 'scenes':
      return `${count(n.files, 'scene')} · ${all}`;
    case 'file':
      return `${n.within || 'root'} · ${all}`;
    default:
      return `${count(n.files, 'file')} · ${all}`;
  }
}

function optionOf(map: DependencyMap, chosen: string | null, css: Css): object {
  const near =
    chosen === null
      ? null
      : new Set([
          chosen,
          ...map.links.flatMap((l) => (l.from === chosen ? [l.to] : l.to === chosen ? [l.from] : [])),
        ]);
  const faint = (id: string) => (near && !near.has(id) ? 0.25 : 1);
  return {
    tooltip: {
      trigger: 'item',
      confine: true,
      backgroundColor: css('--sheet'),
      borderColor: css('--line'),
      textStyle: { color: css('--ink'), fontFamily: font.text, fontSize: 13.5 },
      renderMode: 'richText',
      formatter: (p: { dataType?: string; data: { told?: string } }) => p.data.told ?? '',
    },
    series: [
      {
        type: 'sankey',
        left: 8,
        right: 196,
        top: 14,
        bottom: 14,
        nodeWidth: 10,
        nodeGap: 17,
        layoutIterations: 0,
        draggable: false,
        emphasis: { focus: 'none' },
        label: {
          color: css('--ink'),
          fontFamily: font.mono,
          fontSize: 12.5,
          width: 184,
          overflow: 'truncate',
          position: 'right',
        },
        data: map.nodes.map((n) => ({
          id: n.id,
          name: n.id,
          depth: n.column,
          told: `${n.label}\n${told(n)}`,
          label: {
            formatter: `${n.kind === 'scenes' ? `${n.files} in ` : ''}${n.label}${n.kind === 'folder' && n.files > 1 ? ` · ${n.files}` : ''}`,
            ...(faint(n.id) < 1 ? { opacity: 0.4 } : {}),
          },
          itemStyle: {
            color: css(n.state ? toneName(n.state) : n.attention > 0 ? '--amber' : '--green-text'),
            borderColor: css('--sheet'),
            opacity: faint(n.id),
            ...(n.id === chosen ? { borderColor: css('--ink'), borderWidth: 2 } : {}),
          },
        })),
        links: map.links.map((l) => ({
          source: l.from,
          target: l.to,
          value: 1 + Math.log2(l.references), // broad enough to be seen beside a hundredfold; the numbers are told in words
          told: `${count(l.references, 'reference')}${l.attention > 0 ? `, ${l.attention} need attention` : ''}`,
          lineStyle: {
            color: css(
              l.attention > 0
                ? troubleTone(map.nodes.find((n) => n.id === l.to)?.state ?? null)
                : '--line-strong',
            ),
            opacity:
              (chosen === null ? 1 : l.from === chosen || l.to === chosen ? 1.6 : 0.3) *
              (l.attention > 0 ? 0.5 : 0.28),
            curveness: 0.5,
          },
        })),
      },
    ],
  };
}

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
  const href = useStepHref();
  const one = map.nodes.find((n) => n.id === chosen) ?? null;
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
  const listed = useMemo(
    () => map.nodes.toSorted((a, b) => Math.sign(b.attention) - Math.sign(a.attention)),
    [map],
  );
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
        <Empty action={<Link href={href('/files')}>Bring a scene in</Link>}>
          What leads to what shows here once a scene references another file.
        </Empty>
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
      <Split>
        <Chart
          label={`Map of ${map.scenes} scenes and ${map.files} files; the same is listed beside it.`}
          option={option}
          height={`max(${Math.max(440, rows * 32)}px, calc(100dvh - 214px))`}
          onPick={pick}
        />
        <List aria-label="What the map shows">
          {listed.map((n) => (
            <li key={n.id} data-chosen={n.id === chosen}>
              <button
                type="button"
                className="line"
                aria-pressed={n.id === chosen}
                onClick={() => setChosen(n.id === chosen ? null : n.id)}
              >
                <Row>
                  {n.state ? (
                    <StateMark state={n.state} />
                  ) : n.attention > 0 ? (
                    <AlertTriangle
                      size={15}
                      color={color.amber}
                      aria-label="needs attention"
                      style={{ flex: 'none' }}
                    />
                  ) : null}
                  <Grow>
                    <span className="name">{n.label}</span>
                  </Grow>
                </Row>
                <div className="more">{told(n)}</div>
              </button>
              {n === one && (
                <Row $wrap style={{ padding: '2px 8px 6px' }}>
                  {n.query && (
                    <LinkButton href={href('/references', { q: n.query })}>
                      <Table2 size={15} /> See in the table
                    </LinkButton>
                  )}
                  {n.opens && (
                    <PlainButton onPress={() => toggle(n)}>
                      {n.opens === 'open' ? (
                        <>
                          <FolderClosed size={15} /> Fold
                        </>
                      ) : (
                        <>
                          <FolderOpen size={15} /> Open
                        </>
                      )}
                    </PlainButton>
                  )}
                </Row>
              )}
            </li>
          ))}
        </List>
      </Split>
    </Page>
  );
}
