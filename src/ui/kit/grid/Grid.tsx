'use client';
// A table for any number of rows: only those in sight are drawn (TanStack Virtual), their columns are TanStack Table's. The whole grid has one focus; a line
// is a row, or a heading above a group of rows.

import { useVirtualizer } from '@tanstack/react-virtual';
import { Check } from '../icons';
import {
  memo,
  useCallback,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
  type MouseEvent,
  type ReactNode,
} from 'react';
import styled from 'styled-components';
import { color, radius, space } from '../../theme/theme';
import { Soft } from '../layout';
import type { GridColumn, GridColumns } from './columns';
import { GridHead } from './GridHead';
import { useGridKeys } from './keys';

const headHeight = 32;

const Frame = styled.div`
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  overflow: auto;
  flex: 1;
  min-height: 220px;
  position: relative;
  outline-offset: -2px;
  &:focus-within [data-active] {
    box-shadow: inset 0 0 0 2px ${color.greenText};
  }
`;
const Line = styled.div`
  position: absolute;
  left: 0;
  right: 0;
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
  &:not([data-marks]) > :first-child {
    padding-left: ${space(3)};
  }
  > :last-child {
    padding-right: 0;
  }
  .open {
    display: flex;
    gap: ${space(2)};
    align-items: baseline;
  }
  .right {
    text-align: right;
    font-variant-numeric: tabular-nums;
    color: ${color.soft};
  }
  .mark {
    display: flex;
    justify-content: center;
    padding-right: 0;
  }
  .mark span {
    width: 17px;
    height: 17px;
    border: 1.5px solid ${color.lineStrong};
    border-radius: 4px;
    display: inline-flex;
    align-items: center;
    justify-content: center;
    color: ${color.onGreen};
  }
  &[aria-selected='true'] .mark span {
    background: ${color.green};
    border-color: ${color.green};
  }
  &[aria-selected='true'] {
    background: ${color.greenTint};
  }
  &[data-open] {
    background: ${color.raised};
  }
`;
const Heading = styled.div`
  position: absolute;
  left: 0;
  right: 0;
  display: flex;
  align-items: center;
  padding: 0 ${space(3)};
  background: ${color.raised};
  border-bottom: 1px solid ${color.line};
  color: ${color.soft};
  &[data-marks] {
    padding-left: ${space(10)};
  }
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
`;

/** A row that is not here yet is undefined. */
export type GridLine<R> = { row: R | undefined } | { heading: ReactNode };

export interface Selection {
  has: (line: number) => boolean;
  toggle: (line: number) => void;
  /** All lines from one to another, both with it. */
  range: (from: number, to: number) => void;
  all: () => void;
  clear: () => void;
}

interface GridProps<R, C> {
  label: string;
  columns: GridColumns<R, C>;
  context: C;
  lines: number;
  /** Must stay the same function as long as the lines do. */
  lineAt: (line: number) => GridLine<R>;
  /** What a row is called: for ears, for letters that are typed, for copying. */
  nameOf: (row: R) => string;
  /** What another of begins at the top again. */
  question: string;
  selection?: Selection;
  onOpen: (line: number) => void;
  isOpen?: (row: R) => boolean;
  /** The lines in sight, and the one with the focus. */
  onSight?: (lines: readonly number[]) => void;
  onMoving?: (isMoving: boolean) => void;
  rowHeight?: number;
}

interface RowProps<R, C> {
  row: R | undefined;
  name: string;
  line: number;
  top: number;
  height: number;
  isSelected: boolean | null;
  isActive: boolean;
  isOpen: boolean;
  shown: readonly GridColumn<R, C>[];
  template: string;
  context: C;
  onPress: (line: number, event: MouseEvent) => void;
}

function Row<R, C>({
  row,
  name,
  line,
  top,
  height,
  isSelected,
  isActive,
  isOpen,
  shown,
  template,
  context,
  onPress,
}: RowProps<R, C>) {
  return (
    <Line
      id={`line-${line}`}
      role="row"
      aria-rowindex={line + 2}
      aria-selected={isSelected ?? undefined}
      data-marks={isSelected !== null || undefined}
      data-open={isOpen || undefined}
      data-active={isActive || undefined}
      style={{ top, height, gridTemplateColumns: template }}
      onClick={(event) => onPress(line, event)}
    >
      {isSelected !== null && (
        <span role="gridcell" className="mark">
          <span role="checkbox" aria-checked={isSelected} aria-label={name ? `Select ${name}` : 'Select'}>
            {isSelected && <Check size={13} strokeWidth={3} aria-hidden />}
          </span>
        </span>
      )}
      {row === undefined ? (
        <span role="gridcell" aria-colspan={shown.length}>
          <Soft>…</Soft>
        </span>
      ) : (
        shown.map((c) => (
          <span key={c.id} role="gridcell" className={c.align ?? (c.width === null ? 'open' : undefined)}>
            {c.cell(row, context)}
          </span>
        ))
      )}
    </Line>
  );
}
const RowLine = memo(Row) as typeof Row;

/** Whether it is being scrolled, or was asked another question, just now. */
function useMoving(motion: string, isScrolling: boolean): boolean {
  const now = `${motion} ${isScrolling}`;
  const [calm, setCalm] = useState('');
  useEffect(() => {
    const rest = setTimeout(() => setCalm(now), 350);
    return () => clearTimeout(rest);
  }, [now]);
  return isScrolling || calm !== now;
}

export function Grid<R, C>({
  label,
  columns,
  context,
  lines,
  lineAt,
  nameOf,
  question,
  selection,
  onOpen,
  isOpen,
  onSight,
  onMoving,
  rowHeight = 33,
}: GridProps<R, C>) {
  const { setRoom, shown, template, marks } = columns;
  const frame = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    if (!frame.current) return undefined;
    const watch = new ResizeObserver(([entry]) => setRoom(entry!.contentRect.width));
    watch.observe(frame.current);
    return () => watch.disconnect();
  }, [setRoom]);

  // The first row, below its heading where there is one.
  const top = lines > 1 && 'heading' in lineAt(0) ? 1 : 0;
  const [at, setActive] = useState({ question, line: top });
  const active = Math.max(0, Math.min(lines - 1, at.question === question ? at.line : top));
  const anchor = useRef(top);
  useEffect(() => {
    anchor.current = top;
    frame.current?.scrollTo({ top: 0 });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- another question alone begins at the top
  }, [question]);

  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions change with every scroll, as they must
  const virtual = useVirtualizer({
    count: lines,
    getScrollElement: () => frame.current,
    estimateSize: () => rowHeight,
    overscan: 4,
    paddingStart: headHeight,
  });
  const items = virtual.getVirtualItems();
  const sight = [...items.map((i) => i.index), active].join(' ');
  useEffect(() => onSight?.(sight.split(' ').map(Number)), [sight, onSight]);
  const isMoving = useMoving(question, virtual.isScrolling);
  useEffect(() => onMoving?.(isMoving), [isMoving, onMoving]);
  useEffect(() => {
    if (lines > 0) virtual.scrollToIndex(active, { align: 'auto' });
  }, [active, lines, virtual]);

  const rowAt = (line: number): R | undefined => {
    const l = lineAt(line);
    return 'row' in l ? l.row : undefined;
  };
  const extendTo = (line: number) =>
    selection?.range(Math.min(anchor.current, line), Math.max(anchor.current, line));
  const toggle = (line: number) => {
    anchor.current = line;
    selection?.toggle(line);
  };
  const onKeyDown = useGridKeys({
    lines,
    active,
    perPage: () => Math.max(1, Math.floor((frame.current?.clientHeight ?? 300) / rowHeight) - 2),
    nameOf: (line) => {
      const row = rowAt(line);
      return row === undefined ? '' : (nameOf(row).split(/[\\/]/).pop()?.toLowerCase() ?? '');
    },
    onMove: (line, extend) => {
      setActive({ question, line });
      if (extend) extendTo(line);
      else anchor.current = line;
    },
    onOpen,
    onToggle: selection && toggle,
    onAll: selection?.all,
    onClear: selection?.clear,
    textOf: (line) => {
      const row = rowAt(line);
      return row === undefined ? null : nameOf(row);
    },
  });
  const press = useRef((_line: number, _event: MouseEvent) => {});
  useEffect(() => {
    press.current = (line, event) => {
      setActive({ question, line });
      const isMark = (event.target as HTMLElement).closest('.mark') !== null;
      if (selection && (isMark || event.ctrlKey || event.metaKey)) toggle(line);
      else if (selection && event.shiftKey) extendTo(line);
      else {
        anchor.current = line;
        onOpen(line);
      }
    };
  });
  // One function for good, so that rows which stay are not drawn again.
  const onPress = useCallback((line: number, event: MouseEvent) => press.current(line, event), []);
  return (
    <Frame
      ref={frame}
      role="grid"
      aria-label={label}
      aria-rowcount={lines + 1}
      aria-colcount={shown.length + (marks ? 1 : 0)}
      {...(selection ? { 'aria-multiselectable': true } : {})}
      tabIndex={0}
      onKeyDown={onKeyDown}
      aria-activedescendant={
        lines > 0 && items.some((i) => i.index === active) ? `line-${active}` : undefined
      }
    >
      <GridHead columns={columns} />
      <div role="rowgroup" style={{ height: virtual.getTotalSize() - headHeight }}>
        {items.map((item) => {
          const line = lineAt(item.index);
          const isActive = item.index === active;
          if ('heading' in line)
            return (
              <Heading
                key={item.key}
                id={`line-${item.index}`}
                role="row"
                aria-rowindex={item.index + 2}
                data-marks={marks || undefined}
                data-active={isActive || undefined}
                style={{ top: item.start, height: rowHeight }}
                onClick={() => setActive({ question, line: item.index })}
              >
                <span role="gridcell" aria-colspan={shown.length + (marks ? 1 : 0)}>
                  {line.heading}
                </span>
              </Heading>
            );
          return (
            <RowLine
              key={item.key}
              row={line.row}
              name={line.row === undefined ? '' : nameOf(line.row)}
              line={item.index}
              top={item.start}
              height={rowHeight}
              isSelected={selection ? selection.has(item.index) : null}
              isActive={isActive}
              isOpen={line.row !== undefined && isOpen?.(line.row) === true}
              shown={shown}
              template={template}
              context={context}
              onPress={onPress}
            />
          );
        })}
      </div>
    </Frame>
  );
}
