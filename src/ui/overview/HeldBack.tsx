'use client';
// What holds a workspace back, the worst first, each with the step that mends it.

import Link from '../kit/Link';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import type { OverviewView, ReferenceView } from '@/wire/views';
import { PlainButton } from '../kit/buttons';
import { Sheet, Soft } from '../kit/layout';
import { StateMark } from '../kit/marks';
import { Empty, Notice } from '../kit/notices';
import { Path } from '../kit/Path';
import { useStepHref } from '../kit/work';
import { Some } from '../kit/some';
import { color, space } from '../theme/theme';

const Line = styled.div`
  display: grid;
  grid-template-columns: 92px minmax(0, 2fr) minmax(124px, 1fr) 100px;
  gap: ${space(3)};
  align-items: center;
  min-height: 33px;
  border-bottom: 1px solid ${color.line};
  > :last-child {
    justify-self: end;
  }
  .scene {
    color: ${color.soft};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const fixWords: Record<string, string> = {
  outside: 'File it',
  case: 'Match letters',
  absolute: 'Make relative',
  missing: 'Look for it',
  travels: 'Spell it right',
};

function Held({
  r,
  onPlan,
  href,
}: {
  r: ReferenceView;
  onPlan: (only: { scene: string; at: string }[]) => void;
  href: (step: string, more?: Record<string, string>) => string;
}) {
  const fixable = r.state !== 'offline' && r.state !== 'remote';
  return (
    <Line>
      <StateMark state={r.state} odd={r.oddities.length > 0} />
      <Path path={r.written} />
      <span className="scene" title={r.scene}>
        {r.scene.split('/').pop()}
      </span>
      {fixable ? (
        <PlainButton onPress={() => onPlan([{ scene: r.scene, at: r.at }])}>
          {fixWords[r.state] ?? 'Mend it'}
        </PlainButton>
      ) : (
        <Link href={href('/references', { scene: r.scene, at: r.at })}>See it</Link>
      )}
    </Line>
  );
}

export function HeldBack({
  d,
  onMend,
}: {
  d: OverviewView;
  onMend: (only: { scene: string; at: string }[]) => void;
}) {
  const href = useStepHref();
  const lost = d.references - d.ready;
  return (
    <Sheet aria-label="What holds it back">
      <h2>What holds it back</h2>
      {d.attention.length === 0 ? (
        <div style={{ marginTop: 12 }}>
          {d.references > 0 ? (
            <Notice tone="green" title="Nothing.">
              Every reference is found inside the root, by a relative path, in the right letters.
            </Notice>
          ) : (
            <Empty>Problems of references show here, worst first.</Empty>
          )}
        </div>
      ) : (
        d.attention.map((r) => <Held key={`${r.scene}${r.at}`} r={r} onPlan={onMend} href={href} />)
      )}
      {lost > d.attention.length && (
        <p style={{ marginTop: 10 }}>
          <Link href={href('/references')}>{lost - d.attention.length} more in References</Link>
        </p>
      )}
      {d.problems.length > 0 && (
        <details style={{ marginTop: 12 }}>
          <summary>{count(d.problems.length, 'note')} about the files themselves</summary>
          <ul>
            <Some isList of={d.problems} more="more note" atOnce={50}>
              {(p, i) => (
                <li key={i}>
                  <Soft>{p.scene}:</Soft> {p.message}
                </li>
              )}
            </Some>
          </ul>
        </details>
      )}
    </Sheet>
  );
}
