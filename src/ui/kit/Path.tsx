'use client';
// A path: the folder part soft, the file name strong. Too long, the head is shortened; only a name that is too long by itself loses
// its beginning, since numbers and extensions stand at the end. The whole path on hover.

import styled from 'styled-components';
import { color, font } from '../theme/theme';

const Frame = styled.span`
  display: inline-flex;
  min-width: 0;
  max-width: 100%;
  font: 400 13.5px/1.4 ${font.mono};
  white-space: pre;
  .head {
    color: ${color.soft};
    overflow: hidden;
    text-overflow: ellipsis;
    direction: rtl;
    text-align: left;
    flex-shrink: 1;
    min-width: 0;
  }
  .name {
    font-weight: 700;
    flex: none;
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
    direction: rtl;
    text-align: left;
  }
`;

export function Path({ path, strong = true }: { path: string; strong?: boolean }) {
  const at = Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\'), /^[a-z]+:$/.test(path) ? 0 : -1);
  const head = path.slice(0, at + 1);
  return (
    <Frame title={path}>
      {/* Set from right to left, so that the ellipsis falls on the beginning; <bdi> keeps the order of the letters. */}
      {head && (
        <span className="head">
          <bdi>{head}</bdi>
        </span>
      )}
      <span className="name" style={strong ? undefined : { fontWeight: 400 }}>
        <bdi>{path.slice(at + 1)}</bdi>
      </span>
    </Frame>
  );
}

const Diff = styled.div`
  font: 400 13.5px/1.5 ${font.mono};
  overflow-wrap: anywhere;
  del {
    color: ${color.brick};
    text-decoration: none;
    display: block;
  }
  ins {
    color: ${color.greenText};
    text-decoration: none;
    display: block;
  }
  del b {
    font-weight: 600;
    text-decoration: line-through;
  }
  ins b {
    font-weight: 700;
    text-decoration: underline;
    text-underline-offset: 3px;
  }
`;

/** Splits two texts into common start, what differs, common end. */
export function differ(
  before: string,
  after: string,
): { start: string; old: string; now: string; end: string } {
  let s = 0;
  while (s < before.length && s < after.length && before[s] === after[s]) s++;
  let e = 0;
  while (
    e < before.length - s &&
    e < after.length - s &&
    before[before.length - 1 - e] === after[after.length - 1 - e]
  )
    e++;
  return {
    start: before.slice(0, s),
    old: before.slice(s, before.length - e),
    now: after.slice(s, after.length - e),
    end: before.slice(before.length - e),
  };
}

/** A path before and after: the changed part struck and underlined. */
export function PathDiff({ before, after }: { before: string; after: string }) {
  const d = differ(before, after);
  return (
    <Diff>
      <del aria-label={`before: ${before}`}>
        {d.start}
        {d.old && <b>{d.old}</b>}
        {d.end}
      </del>
      <ins aria-label={`after: ${after}`}>
        {d.start}
        {d.now && <b>{d.now}</b>}
        {d.end}
      </ins>
    </Diff>
  );
}
