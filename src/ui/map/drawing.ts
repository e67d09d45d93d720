// What the map is drawn with: nodes and links as the chart takes them, in the tones of what they are.

import type { DependencyMap, MapNode } from '@/core/references/map';
import { count, figure } from '@/core/text/figures';
import type { Css } from '../kit/Chart';
import { toneOf } from '../kit/marks';
import { font } from '../theme/theme';

const toneName = (state: string | null) =>
  state === null ? '--green-text' : (/var\((--[\w-]+)\)/.exec(toneOf(state))?.[1] ?? '--soft');

const troubleTone = (state: string | null) =>
  toneName(state === null || state === 'travels' || state === 'library' ? 'odd' : state);

/** What a node is, in words. */
export function told(n: MapNode): string {
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

// Letters of a label that fit beside a node.
const mostLetters = 22;
/** A label cut at its beginning: what tells one path from another stands at its end. */
const cut = (label: string): string => {
  const letters = [...label];
  return letters.length > mostLetters ? `…${letters.slice(1 - mostLetters).join('')}` : label;
};

/** The chart's option; what is not tied to the chosen node is faint. */
export function optionOf(map: DependencyMap, chosen: string | null, css: Css): object {
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
          position: 'right',
        },
        data: map.nodes.map((n) => ({
          id: n.id,
          name: n.id,
          depth: n.column,
          told: `${n.label}\n${told(n)}`,
          label: {
            formatter: cut(
              `${n.kind === 'scenes' ? `${figure(n.files)} in ` : ''}${n.label}${n.kind === 'folder' && n.files > 1 ? ` · ${figure(n.files)}` : ''}`,
            ),
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
