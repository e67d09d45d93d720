'use client';
// Workspaces that something could be taken from, each with its newest scene: where nothing is chosen yet, the next question is which.

import { Button as AriaButton } from 'react-aria-components';
import styled from 'styled-components';
import { bytes, count } from '@/core/text/figures';
import { Soft } from '../kit/layout';
import { useServerState } from '../kit/work';
import { color, radius, space } from '../theme/theme';
import { Portrait } from '../workspaces/Portrait';

const One = styled(AriaButton)`
  display: flex;
  align-items: center;
  gap: ${space(3)};
  width: 100%;
  padding: ${space(2)};
  border: 1px solid ${color.line};
  border-radius: ${radius.small};
  background: ${color.sheet};
  color: ${color.ink};
  font: inherit;
  text-align: left;
  cursor: pointer;
  &[data-hovered] {
    border-color: ${color.lineStrong};
  }
  .words {
    min-width: 0;
  }
  @media (max-width: 1180px) {
    flex-direction: column;
    align-items: flex-start;
    .words {
      max-width: 100%;
    }
  }
  strong {
    display: block;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
// What does not fit into the pane is scrolled in it.
const List = styled.div`
  display: flex;
  flex-direction: column;
  gap: ${space(2)};
  flex: 1 1 0;
  min-height: 0;
  overflow-y: auto;
`;
const most = 8;

export function Others({ without, onChoose }: { without: string; onChoose: (root: string) => void }) {
  const { data } = useServerState();
  const others = (data?.workspaces ?? []).filter((w) => w.there && w.root !== without);
  if (others.length === 0)
    return <Soft>No other workspace is known here. Any folder can be taken from as well.</Soft>;
  return (
    <List>
      {others.slice(0, most).map((w) => (
        <One key={w.id} aria-label={`Carry over from ${w.name}`} onPress={() => onChoose(w.root)}>
          <Portrait workspace={w.id} of={w.seen?.lastVersion ?? null} />
          <span className="words">
            <strong>{w.name}</strong>
            <Soft>{w.seen ? `${count(w.seen.files, 'file')} · ${bytes(w.seen.bytes)}` : 'not read yet'}</Soft>
          </span>
        </One>
      ))}
    </List>
  );
}
