'use client';
// A way through the demo: each kind of trouble that a workspace can have, why it would break elsewhere, and where it is mended. Out of the way once it is put away.

import { Check, X } from '../kit/icons';
import Link from '../kit/Link';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import type { OverviewView } from '@/wire/views';
import { IconButton } from '../kit/buttons';
import { Grow, Mono, Row, Sheet, Soft } from '../kit/layout';
import { StateMark } from '../kit/marks';
import { useRemembered } from '../kit/remembered';
import { useStepHref } from '../kit/work';
import { color, space } from '../theme/theme';

/** What the demo has one of, easiest first; why it would break; what mends it. */
const stops: { trouble: string; why: string; mend: string }[] = [
  {
    trouble: 'case',
    why: 'Found only because this drive, or this application, forgives letters. On Linux, and on many servers, the model will be black.',
    mend: 'Match the letters',
  },
  {
    trouble: 'absolute',
    why: 'It lies in the workspace, but is written from the top of this drive: another machine has another top.',
    mend: 'Make it relative',
  },
  {
    trouble: 'outside',
    why: 'It opens here, and stays behind when the folder travels.',
    mend: 'File it in its home',
  },
  {
    trouble: 'missing',
    why: 'Its folder was renamed, or the path is another machine’s desktop. It breaks here already.',
    mend: 'See what it could be',
  },
  {
    trouble: 'gaps',
    why: 'A frame or a tile is missing between the first and the last: a flicker, or a hole in a wall, found at the render.',
    mend: 'See which',
  },
  {
    trouble: 'odd',
    why: 'Written with backslashes: Windows reads it, other systems look for one file of that long name.',
    mend: 'Spell it right',
  },
  {
    trouble: 'offline',
    why: 'Its drive is not connected here, and nobody else has it.',
    mend: 'Choose another file',
  },
  {
    trouble: 'library',
    why: 'It lies in a shared folder known by a name. Where that is not there, it is missing.',
    mend: 'See its library',
  },
  {
    trouble: 'remote',
    why: 'A web address opens only with the network, and only as long as the page is there.',
    mend: 'Choose a file instead',
  },
];

const Way = styled.ol`
  list-style: none;
  margin: ${space(2)} 0 0;
  padding: 0;
  li {
    position: relative;
    padding: 0 0 ${space(3)} ${space(6)};
  }
  li::before {
    content: '';
    position: absolute;
    left: 2px;
    top: 5px;
    width: 10px;
    height: 10px;
    border: 2px solid ${color.soft};
    border-radius: 50%;
    background: ${color.sheet};
    z-index: 1;
  }
  li.mended::before {
    background: ${color.greenText};
    border-color: ${color.greenText};
  }
  li:not(:last-child)::after {
    content: '';
    position: absolute;
    left: 7px;
    top: 18px;
    bottom: -3px;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.lineStrong} 0 6px, transparent 6px 10px);
  }
  li.mended:not(:last-child)::after {
    background: repeating-linear-gradient(180deg, ${color.greenText} 0 6px, transparent 6px 10px);
  }
`;

export function Guide({ d }: { d: OverviewView }) {
  const [isAway, putAway] = useRemembered('guide-away');
  const href = useStepHref();
  if (d.troubles === null || d.scanned === null || isAway) return null;
  const left = new Map(d.troubles.map((t) => [t.trouble, t]));
  const mended = stops.filter((s) => !left.has(s.trouble)).length;
  return (
    <Sheet aria-label="A way through the demo">
      <Row>
        <Grow>
          <h2>A way through its troubles</h2>
          <Soft>
            {mended === 0
              ? `One of every kind: ${count(stops.length, 'stop')}. Each shows why, and mends it after you have seen the plan.`
              : mended < stops.length
                ? `${mended} of ${stops.length} mended.`
                : 'All of them mended.'}
          </Soft>
        </Grow>
        <IconButton aria-label="Put this away; Help brings it back" onPress={() => putAway(true)}>
          <X size={15} />
        </IconButton>
      </Row>
      <Way>
        {stops.map(({ trouble, why, mend }) => {
          const one = left.get(trouble);
          return (
            <li key={trouble} className={one ? '' : 'mended'}>
              {one ? (
                <>
                  <Row>
                    <StateMark
                      state={trouble === 'odd' || trouble === 'gaps' ? 'travels' : trouble}
                      odd={trouble === 'odd'}
                      holes={trouble === 'gaps'}
                    />
                    <Mono style={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
                      {one.written.split(/[\\/]/).pop()}
                    </Mono>
                    {one.n > 1 && <Soft>and {one.n - 1} more</Soft>}
                  </Row>
                  <div>{why}</div>
                  <Link href={href('/references', { scene: one.scene, at: one.at })}>{mend}</Link>
                </>
              ) : (
                <Soft>
                  <Check size={14} aria-hidden /> {names[trouble]}: mended
                </Soft>
              )}
            </li>
          );
        })}
      </Way>
      <p style={{ margin: 0 }}>
        Then <Link href={href('/versions')}>save a version</Link>,{' '}
        <Link href={href('/collect')}>collect</Link> what a scene needs, or{' '}
        <Link href={href('/travel')}>pack a bag</Link>.
      </p>
    </Sheet>
  );
}

const names: Record<string, string> = {
  case: 'Letter case',
  absolute: 'Absolute paths',
  outside: 'Files outside',
  missing: 'Missing files',
  gaps: 'Holes in sequences',
  odd: 'Spelling',
  offline: 'Drives that are away',
  library: 'Libraries',
  remote: 'Web addresses',
};
