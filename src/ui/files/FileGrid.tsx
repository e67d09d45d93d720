'use client';
// Files and folders as a grid: a folder is gone into, a file is shown in full.

import { File, Folder } from '../kit/icons';
import { useCallback, useMemo, useState } from 'react';
import { ago, bytes, count, exactBytes, exactTime } from '@/core/text/figures';
import type { FileView } from '@/wire/views';
import { useGridColumns, type GridColumn, type GridSort } from '../kit/grid/columns';
import { Grid } from '../kit/grid/Grid';
import { Row, Soft } from '../kit/layout';
import { Path } from '../kit/Path';
import { useAddress } from '../kit/work';

interface Context {
  /** Paths from the root, not names in one folder. */
  whole: boolean;
  now: number;
}

const columns: readonly GridColumn<FileView, Context>[] = [
  {
    id: 'name',
    label: 'Name',
    sorts: true,
    width: null,
    cell: (f, { whole }) => (
      <Row style={{ minWidth: 0 }}>
        {f.kind === 'folder' ? (
          <Folder size={15} aria-label="folder" style={{ flex: 'none' }} />
        ) : (
          <File size={15} aria-label="file" style={{ flex: 'none' }} />
        )}
        <Path path={whole ? f.path : f.name} strong={false} />
        {f.files !== null && <Soft style={{ flex: 'none', fontSize: 13 }}>{count(f.files, 'file')}</Soft>}
      </Row>
    ),
  },
  {
    id: 'kind',
    label: 'Kind',
    sorts: true,
    width: 176,
    cell: (f) => (f.kind === 'folder' ? <Soft>{f.home ? `home of ${f.home}` : ''}</Soft> : f.fileKind),
  },
  {
    id: 'uses',
    label: 'Used by',
    sorts: true,
    width: 116,
    align: 'right',
    cell: (f) =>
      f.kind === 'file' &&
      f.uses !== null &&
      (f.uses > 0 ? count(f.uses, 'reference') : <Soft>{f.unused ? 'nothing' : '–'}</Soft>),
  },
  {
    id: 'size',
    label: 'Size',
    sorts: true,
    width: 92,
    align: 'right',
    cell: (f) =>
      (f.kind === 'file' || f.files !== null) && <span title={exactBytes(f.size)}>{bytes(f.size)}</span>,
  },
  {
    id: 'changed',
    label: 'Changed',
    sorts: true,
    width: 128,
    align: 'right',
    cell: (f, { now }) =>
      f.modified !== null && <span title={exactTime(f.modified)}>{ago(f.modified, now)}</span>,
  },
];
const usual = columns.map((c) => c.id);
const firstToGo = ['changed', 'uses', 'kind'];

const compare = new Intl.Collator('en', { numeric: true }).compare;
const order: Record<string, (a: FileView, b: FileView) => number> = {
  name: (a, b) => compare(a.path, b.path),
  kind: (a, b) => compare(a.fileKind ?? a.home ?? '', b.fileKind ?? b.home ?? ''),
  uses: (a, b) => (a.uses ?? -1) - (b.uses ?? -1),
  size: (a, b) => (a.size ?? -1) - (b.size ?? -1),
  changed: (a, b) => (a.modified ?? 0) - (b.modified ?? 0),
};

/** As they came (folders first, or the largest first), or by a column. */
function sorted(files: readonly FileView[], { by, down }: GridSort): readonly FileView[] {
  const by1 = by === null ? undefined : order[by];
  if (!by1) return files;
  return files.toSorted((a, b) => (down ? by1(b, a) : by1(a, b)));
}

export function FileGrid({
  label,
  files,
  whole = false,
  question,
  chosen,
  onOpen,
}: {
  label: string;
  files: readonly FileView[];
  whole?: boolean;
  /** What these are the files of. */
  question: string;
  chosen: string | null;
  onOpen: (f: FileView) => void;
}) {
  const [address, change] = useAddress();
  const sort = { by: address.get('sort'), down: address.get('down') === 'yes' };
  const shown = useMemo(() => sorted(files, { by: sort.by, down: sort.down }), [files, sort.by, sort.down]);
  const [now] = useState(() => Date.now());
  const grid = useGridColumns({
    keptAs: 'satchel-file-columns',
    columns,
    usual,
    firstToGo,
    sort,
    onSort: ({ by, down }) => change({ sort: by ?? undefined, down: down ? 'yes' : undefined }),
  });
  const lineAt = useCallback((line: number) => ({ row: shown[line] }), [shown]);
  return (
    <Grid
      label={label}
      columns={grid}
      context={useMemo(() => ({ whole, now }), [whole, now])}
      lines={shown.length}
      lineAt={lineAt}
      nameOf={(f) => (whole ? f.path : f.name)}
      question={`${question} ${sort.by} ${sort.down}`}
      isOpen={(f) => f.path === chosen}
      onOpen={(line) => {
        const f = shown[line];
        if (f) onOpen(f);
      }}
    />
  );
}
