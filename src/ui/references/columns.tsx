'use client';
// The columns of the table of references: which there are, which are shown and how wide, kept from one visit to the next.

import { mayHavePicture } from '@/core/formats/kinds';
import { fieldOf, sortings, type Sorting } from '@/core/references/sheet';
import { bytes, count, exactBytes, figure } from '@/core/text/figures';
import type { ReferenceView } from '@/wire/views';
import { query } from '../kit/api';
import { useGridColumns, type GridColumn } from '../kit/grid/columns';
import { Soft } from '../kit/layout';
import { StateMark } from '../kit/marks';
import { Path } from '../kit/Path';
import { Thumb } from '../kit/Thumb';

/** What the cells of the table have in common. `isMoving`: pictures would only be in the way. */
export interface Shown {
  workspace: string;
  isMoving: boolean;
}
type Column = GridColumn<ReferenceView, Shown>;

/** What a sequence or a set of tiles stands for. */
function Many({ r }: { r: ReferenceView }) {
  return (
    <Soft style={{ flex: 'none', fontSize: 13 }}>
      {figure(r.targets)} files
      {r.gaps.length > 0 && <strong>, {count(r.gaps.length, 'gap')}</strong>}
    </Soft>
  );
}

export const columns: readonly Column[] = [
  {
    id: 'picture',
    label: 'Picture',
    width: 38,
    cell: (r, { workspace, isMoving }) =>
      !isMoving &&
      r.target !== null &&
      r.targets === 1 &&
      mayHavePicture(r.target) && (
        <Thumb
          side={26}
          src={`/api/workspaces/${workspace}/preview${query({ scene: r.scene, at: r.at, side: 64 })}`}
        />
      ),
  },
  {
    id: 'state',
    label: 'State',
    sorts: true,
    width: 108,
    cell: (r) => <StateMark state={r.state} odd={r.oddities.length > 0} />,
  },
  {
    id: 'path',
    label: 'Written path',
    sorts: true,
    width: null,
    cell: (r) => (
      <>
        <Path path={r.written} />
        {r.targets > 1 && <Many r={r} />}
      </>
    ),
  },
  { id: 'kind', label: 'Kind', sorts: true, width: 88, cell: (r) => r.kind },
  {
    id: 'use',
    label: 'Used by',
    sorts: true,
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
    sorts: true,
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
    sorts: true,
    width: 84,
    align: 'right',
    cell: (r) => <span title={exactBytes(r.size)}>{bytes(r.size)}</span>,
  },
];
const usual = ['picture', 'state', 'path', 'use', 'size'];
// What goes first where there is little room, beside an open drawer: the drawer says it too.
const firstToGo = ['field', 'target', 'scene', 'kind', 'use', 'picture'];

// The path's column sorts by its name, the others by themselves; none: what needs a hand first.
const sortOf = (column: string | null): Sorting =>
  column === 'path' ? 'name' : (sortings.find((s) => s === column) ?? 'need');

/** The columns as they were chosen in this browser; a heading that is pressed sorts. */
export const useReferenceColumns = (
  sort: Sorting,
  isDown: boolean,
  onSort: (sort: Sorting, isDown: boolean) => void,
) =>
  useGridColumns({
    keptAs: 'satchel-columns',
    columns,
    usual,
    firstToGo,
    marks: true,
    sort: { by: sort === 'need' ? null : sort === 'name' ? 'path' : sort, down: isDown },
    onSort: ({ by, down }) => onSort(sortOf(by), down),
  });
