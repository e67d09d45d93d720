'use client';
// The time line of a scene: the stitch is time, a knot a version, a ring a kept state, a gap a stretch in which nothing could be kept. All that is on it
// stands in the list below, too.

import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { count, exactTime, span, when } from '@/core/text/figures';
import type { NetView, VersionsView } from '@/wire/views';
import { Choose } from '../kit/fields';
import { Row, Sheet, Soft } from '../kit/layout';
import { useAddress } from '../kit/work';
import { color, font, space } from '../theme/theme';
import { endOf, hoursToShow, timeLine, type TimeLine } from './timeLine';

const Line = styled.svg`
  display: block;
  width: 100%;
  height: 106px;
  font: 12px ${font.text};
  .stitch {
    stroke: ${color.greenText};
    stroke-width: 2;
    stroke-dasharray: 7 4;
  }
  .ring {
    fill: ${color.sheet};
    stroke: ${color.greenText};
    stroke-width: 2;
  }
  .broken {
    stroke: ${color.brick};
  }
  .knot {
    fill: ${color.saddle};
  }
  .thread {
    stroke: ${color.saddle};
  }
  .label {
    fill: ${color.sheet};
    stroke: ${color.saddle};
  }
  .gap {
    fill: ${color.sheet};
    stroke: ${color.amber};
    stroke-dasharray: 3 3;
  }
  text {
    fill: ${color.soft};
  }
  text.name {
    fill: ${color.ink};
    font-weight: 700;
  }
  text.hole {
    fill: ${color.amber};
    font-weight: 600;
  }
`;

const spans = [
  ['2', '2 hours'],
  ['4', '4 hours'],
  ['8', '8 hours'],
  ['24', 'a day'],
  ['72', '3 days'],
  ['168', 'a week'],
] as const;

export function TimeLineCard({
  versions,
  net,
  now: today,
}: {
  versions: VersionsView;
  net: NetView;
  now: number;
}) {
  const now = endOf(versions, net, today);
  const [address, change] = useAddress();
  const frame = useRef<HTMLDivElement>(null);
  const width = useWidth(frame);
  const asked = address.get('span');
  const hours = spans.some(([h]) => h === asked) ? Number(asked) : hoursToShow(net, now);
  const line = timeLine(versions, net, now, hours, width);
  return (
    <Sheet aria-label="Time line">
      <Row $gap={4} $wrap style={{ justifyContent: 'space-between', marginBottom: space(2) }}>
        <span>
          <strong>
            {now === today ? 'Until now' : `Until ${when(now, today).replace(/^(at|on) /, '')}`}
          </strong>{' '}
          <Soft>{describe(line)}</Soft>
        </span>
        <Choose
          label="How much of it is shown"
          hidden
          value={String(hours) as (typeof spans)[number][0]}
          onChange={(to) => change({ span: to })}
          options={spans}
        />
      </Row>
      <div ref={frame}>
        <Drawn line={line} width={width} />
      </div>
    </Sheet>
  );
}

function describe({ knots, rings, gaps }: TimeLine): string {
  const holes =
    gaps.length === 0
      ? 'no hole'
      : `${count(gaps.length, 'hole')} of ${span(gaps.reduce((s, g) => s + g.to - g.from, 0))}`;
  return `${count(knots.length, 'version')}, ${count(rings.length, 'kept state')}, ${holes}`;
}

function useWidth(frame: React.RefObject<HTMLDivElement | null>): number {
  const [width, setWidth] = useState(800);
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const seen = new ResizeObserver(([entry]) => setWidth(Math.max(300, entry!.contentRect.width)));
    seen.observe(element);
    return () => seen.disconnect();
  }, [frame]);
  return width;
}

const middle = 62;

function Drawn({ line, width }: { line: TimeLine; width: number }) {
  const edge = 14;
  const x = (at: number) => edge + ((at - line.from) / (line.to - line.from)) * (width - 2 * edge);
  return (
    <Line viewBox={`0 0 ${width} 106`} role="img" aria-label={describe(line)}>
      <line className="stitch" x1={edge} x2={width - edge} y1={middle} y2={middle} />
      {line.gaps.map((g) => (
        <Gap key={g.from} from={x(g.from)} to={x(g.to)} gap={g} />
      ))}
      {line.rings.map((r) => (
        <circle key={r.at} className={r.broken ? 'ring broken' : 'ring'} cx={x(r.at)} cy={middle} r={4}>
          <title>{`kept ${exactTime(r.at)}${r.broken ? ', broken' : ''}`}</title>
        </circle>
      ))}
      {line.knots.map((k) => {
        const at = Math.min(Math.max(x(k.at), 52), width - 54);
        return (
          <g key={`${k.at} ${k.name}`}>
            {k.hasLabel && (
              <>
                <line className="thread" x1={x(k.at)} x2={x(k.at)} y1={36} y2={middle} />
                <rect className="label" x={at - 50} y={4} width={100} height={32} rx={4} />
                <text className="name" x={at - 43} y={18}>
                  {k.name}
                </text>
                <text x={at - 43} y={31}>
                  {k.note.length > 15 ? `${k.note.slice(0, 14)}…` : k.note}
                </text>
              </>
            )}
            <circle className="knot" cx={x(k.at)} cy={middle} r={6}>
              <title>{`${k.name}, saved ${exactTime(k.at)}${k.note ? `: ${k.note}` : ''}`}</title>
            </circle>
          </g>
        );
      })}
      {line.ticks.map((t) => (
        <text key={t.at} x={x(t.at)} y={96} textAnchor="middle">
          {t.label}
        </text>
      ))}
    </Line>
  );
}

function Gap({ from, to, gap }: { from: number; to: number; gap: TimeLine['gaps'][number] }) {
  const width = Math.max(to - from, 10);
  const word = gap.message
    .replace('the application was ', '')
    .replace('the drive was ', '')
    .replace('another program was ', '');
  return (
    <g>
      <rect className="gap" x={from} y={middle - 10} width={width} height={20} rx={10}>
        <title>{`${gap.message}: ${exactTime(gap.from)} to ${exactTime(gap.to)}`}</title>
      </rect>
      {width > word.length * 7 + 12 && (
        <text className="hole" x={from + width / 2} y={middle + 4} textAnchor="middle">
          {word}
        </text>
      )}
    </g>
  );
}
