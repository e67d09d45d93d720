'use client';
// The files a plan touches: copied, made, changed, moved, taken out.

import { ArrowRight } from '../kit/icons';
import styled from 'styled-components';
import { bytes, exactBytes } from '@/core/text/figures';
import type { PlanView } from '@/wire/views';
import { Mono, Row, Sheet, Soft } from '../kit/layout';
import { Path } from '../kit/Path';
import { Some, useSome } from '../kit/some';
import { color } from '../theme/theme';

const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
  th {
    text-align: left;
    font-weight: 600;
    color: ${color.soft};
    font-size: 13.5px;
    border-bottom: 1px solid ${color.line};
    padding: 4px 8px 4px 0;
  }
  td {
    border-bottom: 1px solid ${color.line};
    padding: 5px 8px 5px 0;
    overflow: hidden;
  }
  th:last-child,
  td:last-child {
    text-align: right;
    width: 76px;
    padding-right: 0;
    font-variant-numeric: tabular-nums;
  }
`;
const MovedFrame = styled.div`
  padding: 3px 0;
  border-bottom: 1px solid ${color.line};
  .from {
    color: ${color.soft};
  }
`;

/** Where something was and will be. */
function Moved({ from, to }: { from: string; to: string }) {
  return (
    <MovedFrame>
      <div className="from">
        <Path path={from} strong={false} />
      </div>
      <Row>
        <ArrowRight size={14} aria-label="to" style={{ flex: 'none' }} />
        <Path path={to} />
      </Row>
    </MovedFrame>
  );
}

const shownAtMost = 300;
const linesAtMost = 60;

export function CopiedFiles({ copies }: { copies: PlanView['copies'] }) {
  const [shown, rest] = useSome(copies, 'more file', shownAtMost);
  return (
    <Sheet aria-label="Files to copy">
      <h2>Files to copy</h2>
      <Table>
        <thead>
          <tr>
            <th>From</th>
            <th>To</th>
            <th>Size</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((c) => (
            <tr key={c.to}>
              <td>
                <Path path={c.from} />
              </td>
              <td>
                <Path path={c.to} strong={false} />
              </td>
              <td title={exactBytes(c.size)}>{bytes(c.size)}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      {rest}
    </Sheet>
  );
}

export function TouchedFiles({ plan: p }: { plan: PlanView }) {
  return (
    <Sheet aria-label="Also">
      <h2>Files touched</h2>
      <Some of={p.writes} atOnce={linesAtMost} more="more file">
        {(w) => (
          <div key={w.path}>
            <Soft>{w.replaces ? 'change' : 'make'}</Soft> <Mono>{w.path}</Mono>
          </div>
        )}
      </Some>
      <Some of={p.moves} atOnce={shownAtMost} more="more move">
        {(m) => <Moved key={m.from} from={m.from} to={m.to} />}
      </Some>
      <Some of={p.removes} atOnce={linesAtMost} more="more">
        {(r) => (
          <div key={r}>
            <Soft>take out</Soft> <Mono>{r}</Mono>
          </div>
        )}
      </Some>
      <Some of={p.folders} atOnce={linesAtMost} more="more folder">
        {(f) => (
          <div key={f}>
            <Soft>folder</Soft> <Mono>{f}/</Mono>
          </div>
        )}
      </Some>
    </Sheet>
  );
}
