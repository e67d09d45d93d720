'use client';
// The columns of the table of references: which there are, which are shown and how wide, kept from one visit to the next.

import { useCallback, useEffect, useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { mayHavePicture } from '@/core/formats/kinds';
import { fieldOf, type Sorting } from '@/core/references/sheet';
import { bytes, count, exactBytes } from '@/core/text/figures';
import type { ReferenceView } from '@/wire/views';
import { query } from '../kit/api';
import { Soft, StateMark } from '../kit/controls';
import { Path } from '../kit/Path';
import { color } from '../theme/theme';

const Picture = styled.img`
  width: 26px;
  height: 26px;
  object-fit: cover;
  border-radius: 3px;
  display: block;
  background: ${color.raised};
`;

export interface Column {
  id: string;
  label: string;
  sort?: Sorting;
  /** Pixels when nothing else was chosen; null: takes what room there is. */
  width: number | null;
  cell: (r: ReferenceView, workspace: string, isMoving: boolean) => ReactNode;
}

/** What a sequence or a set of tiles stands for. */
function Many({ r }: { r: ReferenceView }) {
  return (
    <Soft style={{ flex: 'none', fontSize: 13 }}>
      {r.targets.toLocaleString('en')} files
      {r.gaps.length > 0 && <strong>, {count(r.gaps.length, 'gap')}</strong>}
    </Soft>
  );
}

export const columns: readonly Column[] = [
  {
    id: 'picture',
    label: 'Picture',
    width: 38,
    cell: (r, workspace, isMoving) =>
      !isMoving &&
      r.target !== null &&
      r.targets === 1 &&
      mayHavePicture(r.target) && (
        <Picture
          alt=""
          loading="lazy"
          src={`/api/workspaces/${workspace}/preview${query({ scene: r.scene, at: r.at, side: 64 })}`}
        />
      ),
  },
  {
    id: 'state',
    label: 'State',
    sort: 'state',
    width: 108,
    cell: (r) => <StateMark state={r.state} odd={r.oddities.length > 0} />,
  },
  {
    id: 'path',
    label: 'Written path',
    sort: 'name',
    width: null,
    cell: (r) => (
      <>
        <Path path={r.written} />
        {r.targets > 1 && <Many r={r} />}
      </>
    ),
  },
  { id: 'kind', label: 'Kind', sort: 'kind', width: 88, cell: (r) => r.kind },
  {
    id: 'use',
    label: 'Used by',
    sort: 'use',
    width: 210,
    cell: (r) => (
      <span title={r.uses.join('\n')}>
        {r.uses[0]}
        {r.uses.length > 1 && <Soft> and {r.uses.length - 1} more</Soft>}
      </span>
    ),
  },
  { id: 'field', label: 'Field', width: 120, cell: (r) => fieldOf(r) },
  {
    id: 'scene',
    label: 'Scene',
    sort: 'scene',
    width: 180,
    cell: (r) => <Path path={r.scene} strong={false} />,
  },
  {
    id: 'target',
    label: 'Leads to',
    width: 220,
    cell: (r) => (r.target === null ? <Soft>nothing</Soft> : <Path path={r.target} strong={false} />),
  },
  {
    id: 'size',
    label: 'Size',
    sort: 'size',
    width: 84,
    cell: (r) => <span title={exactBytes(r.size)}>{bytes(r.size)}</span>,
  },
];
export const usual = ['picture', 'state', 'path', 'use', 'size'];
// What goes first where there is little room, beside an open drawer: the drawer says it too.
const firstToGo = ['field', 'target', 'scene', 'kind', 'use', 'picture'];
const leastPath = 200;
const markWidth = 40;

interface Kept {
  shown: string[];
  widths: Record<string, number>;
}
const keptAs = 'satchel-columns';

/** Shown columns and their widths, for a table `room` pixels wide; and the ways to change them. */
export function useColumns(room: number) {
  const [kept, setKept] = useState<Kept>({ shown: usual, widths: {} });
  useEffect(() => {
    try {
      const read = JSON.parse(localStorage.getItem(keptAs) ?? 'null') as Kept | null;
      // eslint-disable-next-line react-hooks/set-state-in-effect -- what was kept is known only in the browser
      if (read && Array.isArray(read.shown) && read.shown.includes('path')) setKept(read);
    } catch {
      // What is kept there is not ours: the usual columns.
    }
  }, []);
  const keep = useCallback((next: Kept) => {
    setKept(next);
    localStorage.setItem(keptAs, JSON.stringify(next));
  }, []);
  const widthOf = useCallback((c: Column) => kept.widths[c.id] ?? c.width ?? leastPath, [kept]);
  const { shown, template } = useMemo(() => {
    let list = columns.filter((c) => kept.shown.includes(c.id));
    const need = () =>
      list.reduce((sum, c) => sum + (c.width === null ? leastPath : widthOf(c)), markWidth + 12);
    for (const id of firstToGo) if (room > 0 && need() > room) list = list.filter((c) => c.id !== id);
    return {
      shown: list,
      template: [
        `${markWidth}px`,
        ...list.map((c) => (c.width === null ? `minmax(${leastPath}px, 1fr)` : `${widthOf(c)}px`)),
      ].join(' '),
    };
  }, [kept, room, widthOf]);
  return {
    shown,
    template,
    chosen: kept.shown,
    choose: (ids: string[]) => keep({ ...kept, shown: [...new Set(['path', ...ids])] }),
    resize: (c: Column, to: number) =>
      keep({ ...kept, widths: { ...kept.widths, [c.id]: Math.max(36, Math.min(700, Math.round(to))) } }),
    widthOf,
  };
}
