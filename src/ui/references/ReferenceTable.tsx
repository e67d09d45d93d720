'use client';
// The table of references, in groups. Letters jump to a file's name, Enter opens a reference, or shows the scene of a heading; space on a heading means the
// whole group.

import { figure } from '@/core/text/figures';
import { useCallback, useMemo, useState } from 'react';
import { Button } from 'react-aria-components';
import styled from 'styled-components';
import { keyOfRow } from '@/core/references/key';
import type { Grouping, SheetGroup } from '@/core/references/sheet';
import type { GroupsView, ReferenceView } from '@/wire/views';
import { Grid, type GridLine } from '../kit/grid/Grid';
import { Grow } from '../kit/layout';
import { StateMark } from '../kit/marks';
import { seenFormats } from '@/core/formats/inSpace';
import { color, font } from '../theme/theme';
import type { useReferenceColumns } from './columns';
import { useLines, type TableQuery } from './lines';

/** What is selected, by its key. */
export type Selected = ReadonlyMap<string, { scene: string; at: string }>;

interface Props {
  workspace: string;
  groups: GroupsView;
  /** The question that `groups` answers. */
  filter: TableQuery;
  selected: Selected;
  columns: ReturnType<typeof useReferenceColumns>;
  onSelect: (selected: Selected) => void;
  /** Of the group of this name; null: all that is shown. */
  onSelectGroup: (key: string | null) => void;
  onSelectRange: (offset: number, limit: number) => void;
  onOpen: (r: ReferenceView) => void;
  /** Shows a scene in space. */
  onSee: (scene: string) => void;
}

const OfGroup = styled(Button)`
  border: 1px solid ${color.line};
  background: ${color.sheet};
  color: ${color.greenText};
  border-radius: 12px;
  padding: 1px 10px;
  font: 600 13px ${font.text};
  cursor: pointer;
  min-height: 24px;
  flex: none;
`;

/** What a group is called. */
function GroupTitle({ g, by }: { g: SheetGroup; by: Grouping }) {
  if (by === 'state') return <StateMark state={g.key} />;
  if (by === 'kind') return <strong>{g.key}</strong>;
  const cut = g.key.lastIndexOf('/');
  if (by === 'folder') return <strong>{g.key || 'beside the scene, or in the root'}</strong>;
  return (
    <>
      <strong>{g.key.slice(cut + 1)}</strong>
      <span>· {cut < 0 ? 'root' : g.key.slice(0, cut)}</span>
    </>
  );
}

export function ReferenceTable({
  workspace,
  groups,
  filter,
  selected,
  columns,
  onSelect,
  onSelectGroup,
  onSelectRange,
  onOpen,
  onSee,
}: Props) {
  const { lines, rowAt, groupAt, rowsBetween, onSight } = useLines(workspace, groups, filter);
  const [isMoving, setMoving] = useState(false);
  const byScene = filter.group === 'scene';
  const headingOf = useCallback(
    (g: SheetGroup) => (
      <>
        <GroupTitle g={g} by={filter.group} />
        <span>
          ·{' '}
          {g.attention > 0
            ? `${figure(g.attention)} of ${figure(g.rows)} need attention`
            : `all ${figure(g.rows)} travel`}
        </span>
        <Grow />
        {byScene && seenFormats.has(g.format) && (
          <OfGroup excludeFromTabOrder onPress={() => onSee(g.key)}>
            see it
          </OfGroup>
        )}
        <OfGroup excludeFromTabOrder onPress={() => onSelectGroup(g.key)}>
          select {figure(g.rows)}
        </OfGroup>
      </>
    ),
    [filter.group, byScene, onSee, onSelectGroup],
  );
  const lineAt = useCallback(
    (line: number): GridLine<ReferenceView> => {
      const g = groupAt(line);
      return g ? { heading: headingOf(g) } : { row: rowAt(line) };
    },
    [groupAt, headingOf, rowAt],
  );
  const open = (line: number) => {
    const [r, g] = [rowAt(line), groupAt(line)];
    if (r) onOpen(r);
    else if (g && byScene) onSee(g.key);
  };
  const toggle = (line: number) => {
    const [r, g] = [rowAt(line), groupAt(line)];
    if (g) return onSelectGroup(g.key);
    if (!r) return undefined;
    const next = new Map(selected);
    if (!next.delete(keyOfRow(r))) next.set(keyOfRow(r), { scene: r.scene, at: r.at });
    return onSelect(next);
  };
  return (
    <Grid
      label="References"
      columns={columns}
      context={useMemo(() => ({ workspace, isMoving }), [workspace, isMoving])}
      lines={lines}
      lineAt={lineAt}
      nameOf={(r) => r.written}
      question={`${filter.q} ${filter.state} ${filter.group} ${filter.sort} ${filter.down}`}
      selection={{
        has: (line) => {
          const r = rowAt(line);
          return r !== undefined && selected.has(keyOfRow(r));
        },
        toggle,
        range: (from, to) => {
          const { offset, limit } = rowsBetween(from, to);
          if (limit > 0) onSelectRange(offset, limit);
        },
        all: () => onSelectGroup(null),
        clear: () => onSelect(new Map()),
      }}
      onOpen={open}
      onSight={onSight}
      onMoving={setMoving}
    />
  );
}
