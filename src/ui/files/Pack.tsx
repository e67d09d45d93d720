'use client';
// What is in one pack: take what is needed, with its parts; clear the rest.

import { findAlike, listPackFiles } from '@/wire/routes/intake';
import { useQuery } from '@tanstack/react-query';
import { ArrowLeft, PackageOpen, Trash2 } from '../kit/icons';
import { useCallback, useMemo } from 'react';
import { bytes, count } from '@/core/text/figures';
import type { PackFileView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton, PlainButton } from '../kit/buttons';
import { useGridColumns } from '../kit/grid/columns';
import { Grid, type GridLine } from '../kit/grid/Grid';
import { usePicked } from '../kit/grid/picked';
import { Grow, Mono, Row, Soft } from '../kit/layout';
import { Empty, ErrorNotice } from '../kit/notices';
import { useJob, usePlan, useWorkspaceId } from '../kit/work';
import { packColumns, type PackContext } from './packColumns';

const usual = packColumns.map((c) => c.id);
const firstToGo = ['kind', 'said'];
const rowHeight = 44;

/** The files with a heading for each folder. */
function linesOf(files: readonly PackFileView[]): ({ folder: string } | PackFileView)[] {
  const out: ({ folder: string } | PackFileView)[] = [];
  let at = '';
  for (const f of files) {
    const folder = f.path.slice(0, f.path.lastIndexOf('/'));
    if (folder !== at) out.push({ folder });
    at = folder;
    out.push(f);
  }
  return out;
}

export function Pack({ pack, home, onClose }: { pack: string; home: string; onClose: () => void }) {
  const id = useWorkspaceId()!;
  const run = useJob();
  const { data, error } = useQuery({
    queryKey: ['pack', id, pack],
    queryFn: () => call(listPackFiles, { id }, { pack }),
  });
  const { data: alike } = useQuery({
    queryKey: ['alike', id, pack, data?.files.length],
    enabled: data !== undefined && data.files.length > 0,
    staleTime: Infinity,
    queryFn: () => run(findAlike, { id }, { pack }),
  });
  const context = useMemo<PackContext>(
    () => ({
      workspace: id,
      likes: new Map((alike ?? []).map((a) => [a.path, a])),
      used: new Set(data?.used),
    }),
    [id, alike, data],
  );
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data) return <Soft>Reading …</Soft>;
  return <Content pack={pack} home={home} files={data.files} context={context} onClose={onClose} />;
}

function Content({
  pack,
  home,
  files,
  context,
  onClose,
}: {
  pack: string;
  home: string;
  files: readonly PackFileView[];
  context: PackContext;
  onClose: () => void;
}) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const lines = useMemo(() => linesOf(files), [files]);
  const lineAt = useCallback(
    (n: number): GridLine<PackFileView> => {
      const l = lines[n];
      return l && 'folder' in l ? { heading: <Mono>{l.folder.slice(home.length + 1)}/</Mono> } : { row: l };
    },
    [lines, home],
  );
  const {
    selection,
    kept: chosen,
    set,
  } = usePicked('picked', 'picks', lines.length, (n) => {
    const l = lines[n];
    return l && 'path' in l ? l.path : null;
  });
  const grid = useGridColumns({
    keptAs: 'satchel-pack-columns',
    columns: packColumns,
    usual,
    firstToGo,
    marks: true,
    sort: { by: null, down: false },
    onSort: () => undefined,
  });
  const { used, likes } = context;
  const name = pack.slice(pack.lastIndexOf('/') + 1);
  const scenes = files.filter((f) => f.kind === 'scene' || f.kind === 'model');
  const rest = files.filter((f) => !used.has(f.path));
  return (
    <>
      <ErrorNotice error={problem} />
      <Row $wrap>
        <PlainButton onPress={onClose}>
          <ArrowLeft size={15} /> {home}/
        </PlainButton>
        <Grow>
          <strong>{name}</strong>{' '}
          <Soft>
            {count(files.length, 'file')}, {bytes(files.reduce((s, f) => s + f.size, 0))}
            {likes.size > 0 && <> · {count(likes.size, 'file')} you have already</>}
          </Soft>
        </Grow>
        {scenes.length > 0 && (
          <PlainButton onPress={() => set(scenes.map((s) => s.path))}>
            Choose its {count(scenes.length, 'scene')}
          </PlainButton>
        )}
        <Button
          isDisabled={rest.length === 0}
          onPress={() => void attempt(() => plan({ kind: 'bin', paths: rest.map((f) => f.path) }))}
        >
          <Trash2 size={15} /> Clear {used.size > 0 ? 'the rest' : 'all'}…
        </Button>
        <MainButton
          isDisabled={chosen.size === 0}
          onPress={() => void attempt(() => plan({ kind: 'take', paths: [...chosen] }))}
        >
          <PackageOpen size={16} /> Take {chosen.size > 0 ? chosen.size : ''} out…
        </MainButton>
      </Row>
      <Soft>
        Choose what you need: what a scene needs comes along by itself. Each file goes to the home of its
        kind, and the paths in scenes follow.
      </Soft>
      {files.length === 0 ? (
        <Empty>This pack is empty, or it was not read yet.</Empty>
      ) : (
        <Grid
          label={`Files of ${name}`}
          columns={grid}
          context={context}
          lines={lines.length}
          lineAt={lineAt}
          nameOf={(f) => f.path}
          question={pack}
          selection={selection}
          onOpen={selection.toggle}
          rowHeight={rowHeight}
        />
      )}
    </>
  );
}
