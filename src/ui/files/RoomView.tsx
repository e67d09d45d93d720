'use client';
// What takes how much room, drawn as areas and listed beside: by home or by use; a folder leads to its files.

import { readRoom } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import styled from 'styled-components';
import type { Room } from '@/core/layouts/room';
import { bytes, count, exactBytes } from '@/core/text/figures';
import { call, shapeOf } from '../kit/api';
import { Chart, type Css } from '../kit/Chart';
import { Chip, Empty, ErrorNotice, Grow, PlainButton, Row, Soft, Stack } from '../kit/controls';
import { Path } from '../kit/Path';
import { useWorkspaceId } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';

const Split = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: ${space(4)};
  align-items: start;
`;
const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: ${space(2)} ${space(3)};
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  max-height: calc(100dvh - 280px);
  min-height: 300px;
  overflow: auto;
  li {
    padding: 5px 0;
    border-bottom: 1px solid ${color.line};
  }
  li:last-child {
    border-bottom: none;
  }
  .size {
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
  ul {
    list-style: none;
    padding: 2px 0 0 ${space(3)};
    margin: 0;
  }
  ul li {
    border: none;
    padding: 1px 0;
  }
`;

const tones = ['--green-text', '--slate', '--amber', '--ink', '--soft'];

function optionOf(rooms: readonly Room[], css: Css): object {
  type Area = {
    id: string;
    name: string;
    value: number;
    told: string;
    children?: Area[];
    itemStyle?: object;
  };
  const area = (r: Room, depth: number): Area => ({
    id: r.path ?? '',
    name: depth === 1 ? r.name : r.name.split('/').slice(-2).join('/'),
    value: r.bytes,
    told: `${r.path ?? r.name}\n${bytes(r.bytes)}${r.files > 1 ? `, ${count(r.files, 'file')}` : ''}`,
    ...(r.children.length > 0 ? { children: r.children.map((c) => area(c, depth + 1)) } : {}),
  });
  return {
    tooltip: {
      confine: true,
      renderMode: 'richText',
      backgroundColor: css('--sheet'),
      borderColor: css('--line'),
      textStyle: { color: css('--ink'), fontFamily: font.text, fontSize: 13.5 },
      formatter: (p: { data?: { told?: string } }) => p.data?.told ?? '',
    },
    series: [
      {
        type: 'treemap',
        left: 4,
        right: 4,
        top: 4,
        bottom: 4,
        roam: false,
        nodeClick: false,
        breadcrumb: { show: false },
        squareRatio: 1.2,
        label: { fontFamily: font.text, fontSize: 12.5, overflow: 'truncate', color: css('--sheet') },
        upperLabel: { show: true, height: 22, fontFamily: font.text, fontSize: 13, color: css('--ink') },
        levels: [
          {
            itemStyle: { borderColor: css('--sheet'), borderWidth: 0, gapWidth: 4 },
            upperLabel: { show: false },
          },
          { itemStyle: { gapWidth: 2, borderWidth: 3 } },
          { itemStyle: { gapWidth: 1, borderWidth: 2, borderColor: css('--raised') } },
          { itemStyle: { gapWidth: 1 } },
        ],
        data: rooms.map((r, i) => {
          const tone = css(tones[i % tones.length]!);
          const painted = (a: Area): Area => ({
            ...a,
            itemStyle: { color: tone },
            ...(a.children ? { children: a.children.map(painted) } : {}),
          });
          const one = area(r, 1);
          return {
            ...one,
            itemStyle: { borderColor: css('--raised'), color: tone },
            children: (one.children ?? []).map(painted),
          };
        }),
      },
    ],
  };
}

export function RoomView({
  onFolder,
  onFile,
}: {
  onFolder: (folder: string) => void;
  onFile: (path: string) => void;
}) {
  const id = useWorkspaceId();
  const [by, setBy] = useState<'home' | 'use'>('home');
  const [open, setOpen] = useState<string | null>(null);
  const { data, error } = useQuery({
    queryKey: ['room', id, by],
    queryFn: () => call(readRoom, { id }, { by }),
  });
  const option = useCallback((css: Css) => optionOf(data ?? [], css), [data]);
  const pick = useCallback(
    (name: string) => {
      if (!name || !data) return;
      const isFile = data.some((r) => r.children.some((f) => f.children.some((x) => x.path === name)));
      if (isFile) onFile(name);
      else onFolder(name);
    },
    [data, onFile, onFolder],
  );
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  const all = data?.reduce((s, r) => s + r.bytes, 0) ?? 0;
  return (
    <Stack>
      <Row role="group" aria-label="Drawn by">
        <Chip type="button" aria-pressed={by === 'home'} onClick={() => setBy('home')}>
          By home
        </Chip>
        <Chip type="button" aria-pressed={by === 'use'} onClick={() => setBy('use')}>
          By use
        </Chip>
        <Grow />
        {data && (
          <Soft>
            {bytes(all)} in{' '}
            {count(
              data.reduce((s, r) => s + r.files, 0),
              'file',
            )}
          </Soft>
        )}
      </Row>
      {!data ? (
        <Soft>Reading …</Soft>
      ) : data.length === 0 ? (
        <Empty>There is no file yet.</Empty>
      ) : (
        <Split>
          <Chart
            label="Areas as large as the room each takes; the same is listed beside it."
            option={option}
            height="calc(100dvh - 284px)"
            onPick={pick}
          />
          <List aria-label="Room">
            {data.map((r) => (
              <li key={r.name}>
                <Row>
                  <Grow>
                    <PlainButton
                      aria-expanded={open === r.name}
                      onPress={() => setOpen(open === r.name ? null : r.name)}
                    >
                      {r.name}
                    </PlainButton>
                  </Grow>
                  <span className="size" title={exactBytes(r.bytes)}>
                    {bytes(r.bytes)}
                  </span>
                </Row>
                <Soft style={{ fontSize: 13 }}>
                  {count(r.files, 'file')} · {all > 0 ? Math.round((100 * r.bytes) / all) : 0} %
                </Soft>
                {open === r.name && (
                  <ul>
                    {r.children.slice(0, 30).map((c) => (
                      <li key={c.name}>
                        <Row>
                          <Grow>
                            {c.path === null ? (
                              <Soft>{c.name}</Soft>
                            ) : (
                              <PlainButton
                                aria-label={c.name}
                                style={{ color: color.ink, maxWidth: '100%' }}
                                onPress={() => onFolder(c.path!)}
                              >
                                <Path path={c.name} />
                              </PlainButton>
                            )}
                          </Grow>
                          <span className="size">{bytes(c.bytes)}</span>
                        </Row>
                      </li>
                    ))}
                  </ul>
                )}
              </li>
            ))}
          </List>
        </Split>
      )}
    </Stack>
  );
}
