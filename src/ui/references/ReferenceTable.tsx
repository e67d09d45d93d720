'use client';
// The table of references: in groups, rows fetched in pages as they come into sight, so that a hundred thousand scroll like ten. One focus for
// the whole grid; arrows move, space selects, shift extends, letters jump, Enter opens the drawer; on a group's heading they mean the whole group.

import { readRows } from '@/wire/routes/references';
import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp } from 'lucide-react';
import {
  memo,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type MouseEvent,
} from 'react';
import styled from 'styled-components';
import { type Grouping, type SheetGroup, type Sorting } from '@/core/references/sheet';
import { keyOfRow } from '@/core/references/key';
import type { GroupsView, ReferenceView } from '@/wire/views';
import { call } from '../kit/api';
import { Grow, Soft, StateMark } from '../kit/controls';
import { color, font, radius, space } from '../theme/theme';
import { seenFormats } from '../preview/formats';
import { useColumns, type Column } from './columns';

const pageSize = 100;
const rowHeight = 33;

const Frame = styled.div`
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  overflow: auto;
  flex: 1;
  min-height: 220px;
  position: relative;
  outline-offset: -2px;
`;
const Head = styled.div`
  display: grid;
  align-items: center;
  position: sticky;
  top: 0;
  z-index: 2;
  background: ${color.sheet};
  border-bottom: 1px solid ${color.line};
  height: 32px;
  font-weight: 600;
  font-size: 13.5px;
  color: ${color.soft};
  padding-right: ${space(3)};
  > span {
    position: relative;
    min-width: 0;
    display: flex;
    align-items: center;
    height: 100%;
  }
  button {
    border: none;
    background: none;
    padding: 0;
    color: inherit;
    font: inherit;
    cursor: pointer;
    display: inline-flex;
    align-items: center;
    gap: 3px;
    min-height: 24px;
    min-width: 0;
  }
  button:hover {
    color: ${color.ink};
  }
  .size {
    justify-content: flex-end;
  }
  .width {
    position: absolute;
    right: 1px;
    top: 4px;
    bottom: 4px;
    width: 9px;
    cursor: ew-resize;
    touch-action: none;
    border-right: 1px solid transparent;
  }
  &:hover .width {
    border-color: ${color.line};
  }
  .width:hover,
  .width:focus-visible {
    border-color: ${color.saddle};
  }
`;
const Line = styled.div`
  position: absolute;
  left: 0;
  right: 0;
  height: ${rowHeight}px;
  display: grid;
  align-items: center;
  border-bottom: 1px solid ${color.line};
  padding-right: ${space(3)};
  cursor: default;
  > * {
    min-width: 0;
    overflow: hidden;
    padding-right: ${space(3)};
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  > :last-child {
    padding-right: 0;
  }
  .path {
    display: flex;
    gap: ${space(2)};
    align-items: baseline;
  }
  .size {
    text-align: right;
    font-variant-numeric: tabular-nums;
    color: ${color.soft};
  }
  .mark {
    text-align: center;
  }
  &[aria-selected='true'] {
    background: ${color.greenTint};
  }
  &[data-active] {
    box-shadow: inset 0 0 0 2px ${color.greenText};
  }
`;
// For ears, not for eyes.
const Unseen = styled.span`
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
  white-space: nowrap;
`;
const Group = styled.div`
  position: absolute;
  left: 0;
  right: 0;
  height: ${rowHeight}px;
  display: flex;
  align-items: center;
  padding: 0 ${space(3)} 0 ${space(10)};
  background: ${color.raised};
  border-bottom: 1px solid ${color.line};
  color: ${color.soft};
  > span {
    display: flex;
    align-items: center;
    gap: 6px;
    min-width: 0;
    width: 100%;
    white-space: nowrap;
    overflow: hidden;
  }
  strong {
    color: ${color.ink};
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .all {
    border: 1px solid ${color.line};
    background: ${color.sheet};
    color: ${color.greenText};
    border-radius: 12px;
    padding: 1px 10px;
    font: 600 13px ${font.text};
    cursor: pointer;
    min-height: 24px;
    flex: none;
  }
  &[data-active] {
    box-shadow: inset 0 0 0 2px ${color.greenText};
  }
`;

export interface TableQuery {
  q: string;
  state: string;
  group: Grouping;
  sort: Sorting;
  down: 'yes' | 'no';
}

interface Props {
  workspace: string;
  groups: GroupsView;
  /** The question that `groups` answers. */
  filter: TableQuery;
  selected: ReadonlyMap<string, { scene: string; at: string }>;
  columns: ReturnType<typeof useColumns>;
  onRoom: (width: number) => void;
  onSort: (sort: Sorting, down: boolean) => void;
  onSelect: (selected: Map<string, { scene: string; at: string }>) => void;
  /** Of the group of this name; null: all that is shown. */
  onSelectGroup: (key: string | null) => void;
  onSelectRange: (offset: number, limit: number) => void;
  onOpen: (r: ReferenceView) => void;
  /** Shows a scene in space. */
  onSee: (scene: string) => void;
}

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

/** The heading of a column: sorts, and is drawn wider or narrower at its right end. */
function Heading({
  column,
  filter,
  columns,
  onSort,
}: { column: Column } & Pick<Props, 'filter' | 'columns' | 'onSort'>) {
  const isSorted = column.sort !== undefined && column.sort === filter.sort;
  const isDown = filter.down === 'yes';
  const width = columns.widthOf(column);
  return (
    <span
      role="columnheader"
      className={column.id}
      {...(column.sort ? { 'aria-sort': isSorted ? (isDown ? 'descending' : 'ascending') : 'none' } : {})}
    >
      {column.sort ? (
        <button
          type="button"
          onClick={() => (isSorted && isDown ? onSort('need', false) : onSort(column.sort!, isSorted))}
        >
          {column.label}
          {isSorted && (isDown ? <ArrowDown size={13} aria-hidden /> : <ArrowUp size={13} aria-hidden />)}
        </button>
      ) : column.id === 'picture' ? (
        <Unseen>Picture</Unseen>
      ) : (
        column.label
      )}
      {column.width !== null && column.id !== 'picture' && (
        <span
          className="width"
          role="separator"
          aria-orientation="vertical"
          aria-label={`Width of ${column.label}`}
          aria-valuenow={width}
          aria-valuemin={36}
          aria-valuemax={700}
          tabIndex={0}
          onKeyDown={(e) => {
            if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return;
            e.stopPropagation();
            e.preventDefault();
            columns.resize(column, width + (e.key === 'ArrowRight' ? 16 : -16));
          }}
          onPointerDown={(e) => {
            e.preventDefault();
            const from = e.clientX;
            const drag = (m: PointerEvent) => columns.resize(column, width + m.clientX - from);
            window.addEventListener('pointermove', drag);
            window.addEventListener('pointerup', () => window.removeEventListener('pointermove', drag), {
              once: true,
            });
          }}
        />
      )}
    </span>
  );
}

interface RowProps {
  r: ReferenceView | undefined;
  index: number;
  top: number;
  isSelected: boolean;
  isActive: boolean;
  shown: readonly Column[];
  template: string;
  workspace: string;
  isMoving: boolean;
  onPress: (index: number, r: ReferenceView | undefined, event: MouseEvent) => void;
}

const RowLine = memo(function RowLine({
  r,
  index,
  top,
  isSelected,
  isActive,
  shown,
  template,
  workspace,
  isMoving,
  onPress,
}: RowProps) {
  return (
    <Line
      id={`line-${index}`}
      role="row"
      aria-rowindex={index + 2}
      aria-selected={isSelected}
      data-active={isActive || undefined}
      style={{ top, gridTemplateColumns: template }}
      onClick={(event) => onPress(index, r, event)}
    >
      <span role="gridcell" className="mark">
        <input
          type="checkbox"
          tabIndex={-1}
          checked={isSelected}
          readOnly
          aria-label={r ? `Select ${r.written}` : 'Select'}
        />
      </span>
      {r ? (
        shown.map((c) => (
          <span key={c.id} role="gridcell" className={c.id}>
            {c.cell(r, workspace, isMoving)}
          </span>
        ))
      ) : (
        <span role="gridcell" aria-colspan={shown.length}>
          <Soft>…</Soft>
        </span>
      )}
    </Line>
  );
});

type Slot = { group: number } | { row: number };

export function ReferenceTable({
  workspace,
  groups,
  filter,
  selected,
  columns,
  onRoom,
  onSort,
  onSelect,
  onSelectGroup,
  onSelectRange,
  onOpen,
  onSee,
}: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const [active, setActive] = useState(1); // line 0 is a group's heading
  useLayoutEffect(() => {
    if (!frame.current) return;
    const watch = new ResizeObserver(([entry]) => onRoom(entry!.contentRect.width));
    watch.observe(frame.current);
    return () => watch.disconnect();
  }, [onRoom]);
  const anchor = useRef(1);
  // Another question begins at the top again.
  const asked = `${filter.q} ${filter.state} ${filter.group} ${filter.sort} ${filter.down}`;
  const [shownFor, setShownFor] = useState(asked);
  if (shownFor !== asked) {
    setShownFor(asked);
    setActive(1);
  }
  useEffect(() => {
    anchor.current = 1;
    frame.current?.scrollTo({ top: 0 });
  }, [asked]);
  const typed = useRef({ text: '', at: 0 });

  // Where each group begins, so that a line of the table is found without a list of all lines.
  const starts = useMemo(() => {
    const out: number[] = [];
    let at = 0;
    for (const g of groups.groups) {
      out.push(at);
      at += g.rows + 1;
    }
    return out;
  }, [groups]);
  const lines = groups.total + groups.groups.length;
  const slotAt = useCallback(
    (line: number): Slot => {
      let low = 0;
      let high = starts.length - 1;
      while (low < high) {
        const middle = (low + high + 1) >> 1;
        if (starts[middle]! <= line) low = middle;
        else high = middle - 1;
      }
      return line === starts[low] ? { group: low } : { row: line - low - 1 };
    },
    [starts],
  );

  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions change with every scroll, as they must
  const virtual = useVirtualizer({
    count: lines,
    getScrollElement: () => frame.current,
    estimateSize: () => rowHeight,
    overscan: 4,
    paddingStart: 32,
  });
  const items = virtual.getVirtualItems();
  const pages = useMemo(() => {
    const wanted = new Set<number>();
    for (const item of items) {
      const slot = slotAt(item.index);
      if ('row' in slot && slot.row >= groups.first.length) wanted.add(Math.floor(slot.row / pageSize));
    }
    const here = slotAt(Math.min(active, Math.max(0, lines - 1)));
    if (lines > 0 && 'row' in here && here.row >= groups.first.length)
      wanted.add(Math.floor(here.row / pageSize));
    return [...wanted].sort((a, b) => a - b);
  }, [items, slotAt, active, lines, groups]);
  const fetched = useQueries({
    queries: pages.map((page) => ({
      queryKey: ['rows', workspace, filter, groups.scanned, page],
      staleTime: 60_000,
      queryFn: () =>
        call(readRows, { id: workspace }, { ...filter, offset: page * pageSize, limit: pageSize }),
    })),
  });
  const rowAt = useCallback(
    (row: number): ReferenceView | undefined =>
      fetched[pages.indexOf(Math.floor(row / pageSize))]?.data?.[row % pageSize] ?? groups.first[row],
    [fetched, pages, groups],
  );
  const lineRow = (line: number) => {
    const slot = slotAt(line);
    return 'row' in slot ? rowAt(slot.row) : undefined;
  };

  useEffect(() => {
    if (lines > 0) virtual.scrollToIndex(Math.min(active, lines - 1), { align: 'auto' });
  }, [active, lines, virtual]);

  /** Row number at a line; of a heading, that of the row below it. */
  const rowOf = (line: number) => {
    const slot = slotAt(line);
    return 'row' in slot ? slot.row : line - slot.group;
  };
  const rangeTo = (line: number) => {
    const [from, to] = [Math.min(anchor.current, line), Math.max(anchor.current, line)];
    const [first, last] = [rowOf(from), 'group' in slotAt(to) ? rowOf(to) - 1 : rowOf(to)];
    if (last >= first) onSelectRange(first, last - first + 1);
  };
  const toggle = (line: number) => {
    const slot = slotAt(line);
    if ('group' in slot) return onSelectGroup(groups.groups[slot.group]!.key);
    const r = lineRow(line);
    if (!r) return;
    const next = new Map(selected);
    if (!next.delete(keyOfRow(r))) next.set(keyOfRow(r), { scene: r.scene, at: r.at });
    anchor.current = line;
    onSelect(next);
  };
  const move = (to: number, extend: boolean) => {
    const line = Math.max(0, Math.min(lines - 1, to));
    setActive(line);
    if (extend) rangeTo(line);
    else anchor.current = line;
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (lines === 0) return;
    const page = Math.max(1, Math.floor((frame.current?.clientHeight ?? 300) / rowHeight) - 2);
    const moves: Record<string, number> = {
      ArrowDown: active + 1,
      ArrowUp: active - 1,
      PageDown: active + page,
      PageUp: active - page,
      Home: 0,
      End: lines - 1,
    };
    const r = lineRow(active);
    if (event.key in moves) move(moves[event.key]!, event.shiftKey);
    else if (event.key === ' ') toggle(active);
    else if (event.key === 'Enter' && r) onOpen(r);
    else if (event.key === 'Enter' && 'group' in slotAt(active) && filter.group === 'scene')
      onSee(groups.groups[(slotAt(active) as { group: number }).group]!.key);
    else if (event.key === 'Escape') onSelect(new Map());
    else if (event.key.toLowerCase() === 'a' && (event.ctrlKey || event.metaKey)) {
      onSelectGroup(null);
    } else if (event.key.toLowerCase() === 'c' && (event.ctrlKey || event.metaKey) && r)
      void navigator.clipboard.writeText(r.written);
    else if (
      event.key.length === 1 &&
      /[\w.-]/.test(event.key) &&
      !event.ctrlKey &&
      !event.metaKey &&
      !event.altKey
    ) {
      const now = Date.now();
      typed.current = {
        text:
          now - typed.current.at < 800
            ? typed.current.text + event.key.toLowerCase()
            : event.key.toLowerCase(),
        at: now,
      };
      const name = (line: number) => lineRow(line)?.written.split(/[\\/]/).pop()?.toLowerCase() ?? '';
      for (let i = 1; i <= Math.min(lines, 2000); i++) {
        const line = (active + i - (typed.current.text.length > 1 ? 1 : 0)) % lines;
        if (name(line).startsWith(typed.current.text)) {
          move(line, false);
          break;
        }
      }
    } else return;
    event.preventDefault();
  };

  // Pictures come when the table has come to rest: while one types or scrolls they would only be in the way.
  const motion = `${asked} ${virtual.isScrolling}`;
  const [calm, setCalm] = useState('');
  useEffect(() => {
    const rest = setTimeout(() => setCalm(motion), 350);
    return () => clearTimeout(rest);
  }, [motion]);
  const isMoving = virtual.isScrolling || calm !== motion;
  const press = useRef((_index: number, _r: ReferenceView | undefined, _event: MouseEvent) => {});
  useEffect(() => {
    press.current = (index, r, event) => {
      setActive(index);
      if ((event.target as HTMLElement).closest('.mark') || event.ctrlKey || event.metaKey) toggle(index);
      else if (event.shiftKey) rangeTo(index);
      else if (r) {
        anchor.current = index;
        onOpen(r);
      }
    };
  });
  // One function for good, so that rows which stay are not drawn again.
  const onPress = useCallback(
    (index: number, r: ReferenceView | undefined, event: MouseEvent) => press.current(index, r, event),
    [],
  );
  return (
    <Frame
      ref={frame}
      role="grid"
      aria-label="References"
      aria-rowcount={lines + 1}
      aria-colcount={columns.shown.length + 1}
      aria-multiselectable
      tabIndex={0}
      onKeyDown={onKeyDown}
      aria-activedescendant={
        lines > 0 && items.some((i) => i.index === active) ? `line-${active}` : undefined
      }
    >
      <Head role="row" aria-rowindex={1} style={{ gridTemplateColumns: columns.template }}>
        <span role="columnheader">
          <Unseen>Selected</Unseen>
        </span>
        {columns.shown.map((c) => (
          <Heading key={c.id} column={c} filter={filter} columns={columns} onSort={onSort} />
        ))}
      </Head>
      <div role="rowgroup" style={{ height: virtual.getTotalSize() - 32 }}>
        {items.map((item) => {
          const slot = slotAt(item.index);
          const isActive = item.index === active || undefined;
          if ('group' in slot) {
            const g = groups.groups[slot.group]!;
            return (
              <Group
                key={item.key}
                id={`line-${item.index}`}
                role="row"
                aria-rowindex={item.index + 2}
                data-active={isActive}
                style={{ top: item.start }}
                onClick={() => setActive(item.index)}
              >
                <span role="gridcell" aria-colspan={columns.shown.length + 1}>
                  <GroupTitle g={g} by={filter.group} />
                  <span>
                    ·{' '}
                    {g.attention > 0
                      ? `${g.attention.toLocaleString('en')} of ${g.rows.toLocaleString('en')} need attention`
                      : `all ${g.rows.toLocaleString('en')} travel`}
                  </span>
                  <Grow />
                  {filter.group === 'scene' && seenFormats.has(g.format) && (
                    <button type="button" tabIndex={-1} className="all" onClick={() => onSee(g.key)}>
                      see it
                    </button>
                  )}
                  <button type="button" tabIndex={-1} className="all" onClick={() => onSelectGroup(g.key)}>
                    select {g.rows.toLocaleString('en')}
                  </button>
                </span>
              </Group>
            );
          }
          const r = rowAt(slot.row);
          return (
            <RowLine
              key={item.key}
              r={r}
              index={item.index}
              top={item.start}
              isSelected={r !== undefined && selected.has(keyOfRow(r))}
              isActive={isActive === true}
              shown={columns.shown}
              template={columns.template}
              workspace={workspace}
              isMoving={isMoving}
              onPress={onPress}
            />
          );
        })}
      </div>
    </Frame>
  );
}
