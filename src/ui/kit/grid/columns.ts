// The columns of a grid: which there are, which are shown, how wide, by which it is sorted. Their state is TanStack Table's; rows come from elsewhere, a
// page at a time. What was chosen is kept from one visit to the next.

import {
  columnResizingFeature,
  columnSizingFeature,
  columnVisibilityFeature,
  rowSortingFeature,
  tableFeatures,
  useTable,
  type ColumnSizingState,
  type SortingState,
  type Updater,
} from '@tanstack/react-table';
import { useCallback, useEffect, useMemo, useState, type ReactNode } from 'react';
import { z } from 'zod';

export interface GridColumn<R, C> {
  id: string;
  label: string;
  /** Whether its heading sorts by it. */
  sorts?: boolean;
  /** Pixels when nothing else was chosen; null: takes what room there is. */
  width: number | null;
  align?: 'right';
  /** `context`: what all cells of a grid have in common. */
  cell: (row: R, context: C) => ReactNode;
}

export const leastWidth = 36;
export const mostWidth = 700;
const leastOpen = 200; // of a column that takes what room there is
const markWidth = 40;
const none: readonly string[] = [];

const features = tableFeatures({
  columnResizingFeature,
  columnSizingFeature,
  columnVisibilityFeature,
  rowSortingFeature,
  columnMeta: {} as { spec: GridColumn<never, never> },
});
const noRows: never[] = [];
const valueOf = <T>(updater: Updater<T>, old: T): T =>
  typeof updater === 'function' ? (updater as (old: T) => T)(old) : updater;

const keptColumns = z.object({ shown: z.array(z.string()), widths: z.record(z.string(), z.number()) });
type Kept = z.output<typeof keptColumns>;

function readKept(name: string): Kept | null {
  try {
    return keptColumns.safeParse(JSON.parse(localStorage.getItem(name) ?? 'null')).data ?? null;
  } catch {
    return null; // nothing of ours lies there
  }
}

export interface GridSort {
  by: string | null;
  down: boolean;
}

export interface GridOptions<R, C> {
  /** Under which name the choice is kept in this browser. */
  keptAs: string;
  columns: readonly GridColumn<R, C>[];
  /** Shown when nothing else was chosen. */
  usual: readonly string[];
  /** What goes first where there is little room. */
  firstToGo?: readonly string[];
  sort: GridSort;
  onSort: (sort: GridSort) => void;
  /** Each line begins with a tick. */
  marks?: boolean;
}

/** Columns and the ways to change them. */
export function useGridColumns<R, C>({
  keptAs,
  columns,
  usual,
  firstToGo = none,
  sort,
  onSort,
  marks = false,
}: GridOptions<R, C>) {
  // How wide the grid is, in pixels; it tells when it is drawn.
  const [room, setRoom] = useState(0);
  const [kept, setKept] = useState<Kept>({ shown: [...usual], widths: {} });
  useEffect(() => {
    const read = readKept(keptAs);
    // eslint-disable-next-line react-hooks/set-state-in-effect -- what was kept is known only in the browser
    if (read) setKept(read);
  }, [keptAs]);
  const keep = useCallback(
    (next: Kept) => {
      setKept(next);
      localStorage.setItem(keptAs, JSON.stringify(next));
    },
    [keptAs],
  );
  const open = columns.find((c) => c.width === null)?.id;
  const visibility = useMemo(() => {
    let list = columns.filter((c) => c.id === open || kept.shown.includes(c.id));
    const need = () =>
      list.reduce(
        (sum, c) => sum + (c.width === null ? leastOpen : (kept.widths[c.id] ?? c.width)),
        markWidth + 12,
      );
    for (const id of firstToGo) if (room > 0 && need() > room) list = list.filter((c) => c.id !== id);
    const there = new Set(list.map((c) => c.id));
    return Object.fromEntries(columns.map((c) => [c.id, there.has(c.id)]));
  }, [columns, open, kept, room, firstToGo]);
  const sizes: ColumnSizingState = kept.widths;
  const sorting: SortingState = sort.by === null ? [] : [{ id: sort.by, desc: sort.down }];
  const definitions = useMemo(
    () =>
      columns.map((c) => ({
        id: c.id,
        header: c.label,
        size: c.width ?? leastOpen,
        minSize: leastWidth,
        maxSize: mostWidth,
        enableSorting: c.sorts === true,
        enableResizing: c.width !== null,
        enableHiding: c.width !== null,
        accessorFn: () => null,
        meta: { spec: c as unknown as GridColumn<never, never> },
      })),
    [columns],
  );
  const table = useTable({
    features,
    data: noRows,
    columns: definitions,
    state: { columnVisibility: visibility, columnSizing: sizes, sorting },
    manualSorting: true,
    sortDescFirst: false,
    columnResizeMode: 'onChange',
    onSortingChange: (updater) => {
      const [first] = valueOf(updater, sorting);
      onSort(first ? { by: first.id, down: first.desc } : { by: null, down: false });
    },
    onColumnSizingChange: (updater) => {
      const next = valueOf(updater, sizes);
      const inBounds = Object.entries(next).map(
        ([id, w]) => [id, Math.max(leastWidth, Math.min(mostWidth, Math.round(w)))] as const,
      );
      keep({ ...kept, widths: Object.fromEntries(inBounds) });
    },
  });
  const shown = useMemo(() => columns.filter((c) => visibility[c.id]), [columns, visibility]);
  const template = useMemo(
    () =>
      [
        ...(marks ? [`${markWidth}px`] : []),
        ...shown.map((c) =>
          c.width === null ? `minmax(${leastOpen}px, 1fr)` : `${kept.widths[c.id] ?? c.width}px`,
        ),
      ].join(' '),
    [shown, kept, marks],
  );
  return {
    table,
    /** In their order. */
    shown,
    /** For `grid-template-columns`. */
    template,
    marks,
    setRoom,
    /** Chosen to be shown, also where there is no room for them. */
    chosen: kept.shown,
    choose: (ids: readonly string[]) => keep({ ...kept, shown: [...ids] }),
  };
}

export type GridColumns<R, C> = ReturnType<typeof useGridColumns<R, C>>;
