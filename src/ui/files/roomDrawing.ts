// Rooms as areas of the chart, in a tone for each home.

import type { Room } from '@/core/layouts/room';
import { bytes, count } from '@/core/text/figures';
import type { Css } from '../kit/Chart';
import { font } from '../theme/theme';

const tones = ['--green-text', '--slate', '--amber', '--ink', '--soft'];

/** The chart's option. */
export function optionOf(rooms: readonly Room[], css: Css): object {
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
