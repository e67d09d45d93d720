'use client';
// The headings of a grid: each sorts where it can, and is drawn wider or narrower at its right end, by pointer or by arrow keys.

import { ArrowDown, ArrowUp } from '../icons';
import { Button } from 'react-aria-components';
import styled from 'styled-components';
import { color, space } from '../../theme/theme';
import { leastWidth, mostWidth, type GridColumns } from './columns';

const Frame = styled.div`
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
  &:not([data-marks]) > span:first-child {
    padding-left: ${space(3)};
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
  button[data-hovered] {
    color: ${color.ink};
  }
  .right {
    justify-content: flex-end;
    padding-right: ${space(3)};
  }
  .right:last-child {
    padding-right: 0;
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
// For ears, not for eyes.
const Unseen = styled.span`
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
  white-space: nowrap;
`;
const step = 16; // pixels an arrow key draws
const bare = 60; // narrower columns have no room for their name

export function GridHead<R, C>({ columns }: { columns: GridColumns<R, C> }) {
  const { table, shown, template, marks } = columns;
  const headers = table.getHeaderGroups()[0]?.headers ?? [];
  return (
    <Frame
      role="row"
      aria-rowindex={1}
      data-marks={marks || undefined}
      style={{ gridTemplateColumns: template }}
    >
      {marks && (
        <span role="columnheader">
          <Unseen>Selected</Unseen>
        </span>
      )}
      {shown.map((c) => {
        const header = headers.find((h) => h.column.id === c.id);
        if (!header) return null;
        const { column } = header;
        const sorted = column.getIsSorted();
        const width = column.getSize();
        const isBare = c.width !== null && c.width < bare;
        return (
          <span
            key={c.id}
            role="columnheader"
            aria-label={c.label}
            className={c.align}
            {...(column.getCanSort()
              ? { 'aria-sort': sorted ? (sorted === 'desc' ? 'descending' : 'ascending') : 'none' }
              : {})}
          >
            {column.getCanSort() ? (
              <Button onPress={() => column.toggleSorting()}>
                {c.label}
                {sorted &&
                  (sorted === 'desc' ? (
                    <ArrowDown size={13} aria-hidden />
                  ) : (
                    <ArrowUp size={13} aria-hidden />
                  ))}
              </Button>
            ) : isBare ? (
              <Unseen>{c.label}</Unseen>
            ) : (
              c.label
            )}
            {column.getCanResize() && !isBare && (
              <span
                className="width"
                role="separator"
                aria-orientation="vertical"
                aria-label={`Width of ${c.label}`}
                aria-valuenow={width}
                aria-valuemin={leastWidth}
                aria-valuemax={mostWidth}
                tabIndex={0}
                onKeyDown={(e) => {
                  if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return;
                  e.stopPropagation();
                  e.preventDefault();
                  const to = width + (e.key === 'ArrowRight' ? step : -step);
                  table.setColumnSizing((old) => ({ ...old, [c.id]: to }));
                }}
                onMouseDown={(e) => {
                  e.preventDefault();
                  header.getResizeHandler()(e.nativeEvent);
                }}
                onTouchStart={(e) => header.getResizeHandler()(e.nativeEvent)}
              />
            )}
          </span>
        );
      })}
    </Frame>
  );
}
