'use client';
// An entry of the ledger: what it was, what it touched, its undo or why there is none yet.

import { Lock, Undo2 } from '../kit/icons';
import { Button as AriaButton } from 'react-aria-components';
import styled from 'styled-components';
import { count, exactTime } from '@/core/text/figures';
import type { LedgerLine } from '@/wire/views';
import { Button } from '../kit/buttons';
import { Grow, Row, Soft } from '../kit/layout';
import { Path, PathDiff } from '../kit/Path';
import { Some } from '../kit/some';
import { color, font, space } from '../theme/theme';

/** Entries of a day, tied by the stitch. */
export const Entries = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  > li {
    position: relative;
    padding: 0 0 ${space(3)} ${space(7)};
  }
  > li::before {
    content: '';
    position: absolute;
    left: 4px;
    top: 8px;
    width: 9px;
    height: 9px;
    border: 2px solid ${color.soft};
    border-radius: 50%;
    background: ${color.sheet};
  }
  > li[data-state='applied']::before {
    border-color: ${color.greenText};
    background: ${color.greenText};
  }
  > li:not(:last-child)::after {
    content: '';
    position: absolute;
    left: 9px;
    top: 24px;
    bottom: -4px;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.lineStrong} 0 6px, transparent 6px 10px);
  }
  .title {
    border: none;
    background: none;
    color: ${color.ink};
    font: 600 15px ${font.text};
    padding: 0;
    cursor: pointer;
    text-align: left;
    min-height: 26px;
  }
  .title[data-hovered] {
    text-decoration: underline;
  }
  .title[data-undone='true'] {
    font-weight: 400;
    text-decoration: line-through;
    color: ${color.soft};
  }
  .what {
    display: grid;
    gap: 4px;
    padding: ${space(2)} 0;
  }
`;

const clockOf = (time: string) =>
  new Date(time).toLocaleTimeString('en', { hour: '2-digit', minute: '2-digit', hour12: false });

/** Why it cannot be undone yet; null where it can. */
function held(line: LedgerLine): string | null {
  const [last] = line.later;
  if (!last) return null;
  return `“${last.title}” has changed the same files since${line.later.length > 1 ? `, as have ${count(line.later.length - 1, 'other plan')}` : ''}. Undo ${line.later.length > 1 ? 'those first, the latest first' : 'that first'}.`;
}

export function Entry({
  line,
  isOpen,
  isAway = false,
  onOpen,
  onUndo,
}: {
  line: LedgerLine;
  isOpen: boolean;
  /** The files are not there just now: nothing is undone. */
  isAway?: boolean;
  onOpen: () => void;
  onUndo: () => void;
}) {
  const why = held(line);
  const files = line.touched;
  return (
    <li data-state={line.state}>
      <Row $gap={3} style={{ alignItems: 'flex-start' }}>
        <Soft
          style={{ fontVariantNumeric: 'tabular-nums', lineHeight: '26px' }}
          title={exactTime(Date.parse(line.time))}
        >
          {clockOf(line.time)}
        </Soft>
        <Grow>
          <AriaButton
            className="title"
            aria-expanded={isOpen}
            data-undone={line.state !== 'applied'}
            onPress={onOpen}
          >
            {line.title}
          </AriaButton>
          <div>
            <Soft>
              {line.state === 'applied' ? '' : `${line.state} · `}
              {line.by === null ? '' : `${line.by} · `}
              {count(line.files, 'file')}
              {line.paths > 0 && ` · ${count(line.paths, 'path')}`}
            </Soft>
          </div>
          {line.left.length > 0 && (
            <div>
              <Soft>left as it was found: {line.left.join(', ')}</Soft>
            </div>
          )}
          {isOpen && (
            <div className="what">
              <Some of={line.changes} more="more path" atOnce={20}>
                {(c, i) => (
                  <div key={i}>
                    <PathDiff before={c.before} after={c.after} />
                    <Soft style={{ fontSize: 13 }}>{c.scene}</Soft>
                  </div>
                )}
              </Some>
              <Some of={files} more="more file" atOnce={30}>
                {(f) => <Path key={f} path={f} />}
              </Some>
            </div>
          )}
        </Grow>
        {line.state === 'applied' &&
          !isAway &&
          (why === null ? (
            <Button aria-label={`Undo: ${line.title}`} onPress={onUndo}>
              <Undo2 size={15} /> Undo…
            </Button>
          ) : (
            <Row style={{ maxWidth: 380 }}>
              <Lock size={15} aria-hidden style={{ flex: 'none' }} color={color.soft} />
              <Soft style={{ fontSize: 13.5 }}>{why}</Soft>
            </Row>
          ))}
      </Row>
    </li>
  );
}
