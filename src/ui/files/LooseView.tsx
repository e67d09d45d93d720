'use client';
// What lies about: files outside the home of their kind, to be filed all at once or some of them.

import { findLoose } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { FolderInput } from '../kit/icons';
import { useCallback, useMemo } from 'react';
import type { z } from 'zod';
import { homeOf, type FileKind, type Homes } from '@/core/layouts/homes';
import { bytes, count, exactBytes } from '@/core/text/figures';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { useGridColumns, type GridColumn } from '../kit/grid/columns';
import { Grid } from '../kit/grid/Grid';
import { usePicked } from '../kit/grid/picked';
import { Grow, Mono, Row, Soft } from '../kit/layout';
import { Empty, ErrorNotice } from '../kit/notices';
import { Path } from '../kit/Path';
import { useJob, useOverview, usePlan, useSettings, useWorkspaceId } from '../kit/work';

type Loose = z.output<NonNullable<typeof findLoose.result>>[number];

const columns: readonly GridColumn<Loose, Homes>[] = [
  { id: 'file', label: 'File', width: null, cell: (f) => <Path path={f.path} /> },
  { id: 'kind', label: 'Kind', width: 100, cell: (f) => f.kind },
  {
    id: 'home',
    label: 'Belongs in',
    width: 200,
    cell: (f, homes) => <Mono>{homeOf(f.kind as FileKind, homes)}/</Mono>,
  },
  {
    id: 'size',
    label: 'Size',
    width: 92,
    align: 'right',
    cell: (f) => <span title={exactBytes(f.size)}>{bytes(f.size)}</span>,
  },
];
const usual = columns.map((c) => c.id);

export function LooseView() {
  const id = useWorkspaceId();
  const run = useJob();
  const { data: overview } = useOverview();
  const { data: settings } = useSettings();
  const { data, error } = useQuery({
    queryKey: ['loose', id, overview?.scanned, overview?.ledger.length],
    enabled: overview !== undefined,
    queryFn: () => run(findLoose, { id }),
  });
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data || !settings) return <Soft>Looking …</Soft>;
  if (data.length === 0)
    return (
      <Empty>
        Every file lies where its kind belongs. What lies outside the home of its kind would be listed here.
      </Empty>
    );
  return <Files files={data} homes={settings.homes as Homes} />;
}

function Files({ files, homes }: { files: readonly Loose[]; homes: Homes }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const grid = useGridColumns({
    keptAs: 'satchel-loose-columns',
    columns,
    usual,
    marks: true,
    sort: { by: null, down: false },
    onSort: () => undefined,
  });
  const {
    selection,
    kept: left,
    set,
  } = usePicked('left', 'leaves', files.length, (line) => files[line]?.path ?? null);
  const chosen = useMemo(() => files.filter((f) => !left.has(f.path)), [files, left]);
  const isAll = chosen.length === files.length;
  return (
    <>
      <ErrorNotice error={problem} />
      <Row $wrap>
        <Grow>
          <strong>
            {count(files.length, 'file')}, {bytes(files.reduce((s, f) => s + f.size, 0))}
          </strong>{' '}
          <Soft>outside the home of {files.length === 1 ? 'its' : 'their'} kind</Soft>
        </Grow>
        {!isAll && <Button onPress={() => set([])}>Choose all</Button>}
        <MainButton
          isDisabled={chosen.length === 0}
          onPress={() =>
            void attempt(() => plan({ kind: 'tidy', only: isAll ? null : chosen.map((f) => f.path) }))
          }
        >
          <FolderInput size={16} /> File {isAll ? 'all of them' : count(chosen.length, 'file')}…
        </MainButton>
      </Row>
      <Grid
        label="What lies about"
        columns={grid}
        context={homes}
        lines={files.length}
        lineAt={useCallback((line: number) => ({ row: files[line] }), [files])}
        nameOf={(f) => f.path}
        question="loose"
        selection={selection}
        onOpen={selection.toggle}
      />
    </>
  );
}
