// The lines of the table of references: groups with their headings, rows fetched in pages as they come into sight, so that a hundred thousand scroll like ten.

import { readRows } from '@/wire/routes/references';
import { useQueries } from '@tanstack/react-query';
import { useCallback, useMemo, useState } from 'react';
import type { Grouping, SheetGroup, Sorting } from '@/core/references/sheet';
import type { GroupsView, ReferenceView } from '@/wire/views';
import { call } from '../kit/api';

export interface TableQuery {
  q: string;
  state: string;
  group: Grouping;
  sort: Sorting;
  down: 'yes' | 'no';
}

type Slot = { group: number } | { row: number };
const pageSize = 100;

/** `filter` is the question that `groups` answers. */
export function useLines(workspace: string, groups: GroupsView, filter: TableQuery) {
  const [sight, setSight] = useState<readonly number[]>([]);
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
  const pages = useMemo(() => {
    const wanted = new Set<number>();
    for (const line of sight) {
      if (line < 0 || line >= lines) continue;
      const slot = slotAt(line);
      if ('row' in slot && slot.row >= groups.first.length) wanted.add(Math.floor(slot.row / pageSize));
    }
    return [...wanted].sort((a, b) => a - b);
  }, [sight, slotAt, lines, groups]);
  const fetched = useQueries({
    queries: pages.map((page) => ({
      queryKey: ['rows', workspace, filter, groups.scanned, page],
      staleTime: 60_000,
      queryFn: () =>
        call(readRows, { id: workspace }, { ...filter, offset: page * pageSize, limit: pageSize }),
    })),
  });
  const rowAt = useCallback(
    (line: number): ReferenceView | undefined => {
      const slot = slotAt(line);
      if (!('row' in slot)) return undefined;
      const page = pages.indexOf(Math.floor(slot.row / pageSize));
      return fetched[page]?.data?.[slot.row % pageSize] ?? groups.first[slot.row];
    },
    [slotAt, fetched, pages, groups],
  );
  const groupAt = useCallback(
    (line: number): SheetGroup | null => {
      const slot = slotAt(line);
      return 'group' in slot ? groups.groups[slot.group]! : null;
    },
    [slotAt, groups],
  );
  /** The rows from one line to another: where they begin, and how many they are. */
  const rowsBetween = useCallback(
    (from: number, to: number): { offset: number; limit: number } => {
      const numberOf = (line: number) => {
        const slot = slotAt(line);
        return 'row' in slot ? slot.row : line - slot.group;
      };
      const offset = numberOf(from);
      const last = numberOf(to) - ('group' in slotAt(to) ? 1 : 0);
      return { offset, limit: last - offset + 1 };
    },
    [slotAt],
  );
  return { lines, rowAt, groupAt, rowsBetween, onSight: setSight };
}
