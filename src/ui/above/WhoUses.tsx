'use client';
// Who uses a file, in all workspaces: by a part of its name, or by its path.

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useCallback, useMemo } from 'react';
import { count } from '@/core/text/figures';
import { mostUses, readUses, type UseAnywhere, type UsesAnywhere } from '@/wire/routes/above';
import type { WorkspaceView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { SearchField } from '../kit/fields';
import { useGridColumns, type GridColumn } from '../kit/grid/columns';
import { Grid } from '../kit/grid/Grid';
import { Grow, Mono, Row, Soft } from '../kit/layout';
import { useGo } from '../kit/leaving';
import { StateMark } from '../kit/marks';
import { Empty, ErrorNotice } from '../kit/notices';
import { ViewHead } from '../kit/Page';
import { Path } from '../kit/Path';
import { useTyped } from '../kit/typed';
import { useAddress } from '../kit/work';

interface Context {
  names: ReadonlyMap<string, string>;
}
const nameOf = (u: UseAnywhere, names: Context['names']) => names.get(u.workspace) ?? '';

const columns: readonly GridColumn<UseAnywhere, Context>[] = [
  { id: 'path', label: 'File', sorts: true, width: null, cell: (u) => <Path path={u.path} /> },
  {
    id: 'workspace',
    label: 'Used in',
    sorts: true,
    width: 160,
    cell: (u, { names }) => <strong>{nameOf(u, names)}</strong>,
  },
  {
    id: 'scene',
    label: 'Scene',
    sorts: true,
    width: 200,
    cell: (u) => <Path path={u.scene} strong={false} />,
  },
  {
    id: 'written',
    label: 'Written',
    width: 190,
    cell: (u) => (
      <Mono style={{ fontSize: 13 }} title={u.written}>
        {u.written}
      </Mono>
    ),
  },
  { id: 'state', label: 'State', sorts: true, width: 110, cell: (u) => <StateMark state={u.state} /> },
];
const usual = columns.map((c) => c.id);
const firstToGo = ['written', 'state'];
const { compare } = new Intl.Collator('en', { numeric: true });

function answerOf(found: UsesAnywhere): string {
  const { uses, more, by } = found;
  const cut =
    by === 'beginning'
      ? ' Only how names begin was looked at: there are too many references here for what stands in them. Type a beginning, or the end of a path.'
      : '';
  if (uses.length === 0) return `Nobody uses it: no scene of any workspace leads to such a file.${cut}`;
  if (more)
    return `More than ${mostUses.toLocaleString('en')} references lead to such files; these are some of them. Type more of the name.${cut}`;
  const files = new Set(uses.map((u) => u.path)).size;
  const workspaces = new Set(uses.map((u) => u.workspace)).size;
  const scenes = new Set(uses.map((u) => `${u.workspace} ${u.scene}`)).size;
  return `${count(uses.length, 'reference')} in ${count(scenes, 'scene')} of ${count(workspaces, 'workspace')} ${uses.length === 1 ? 'leads' : 'lead'} to ${files === 1 ? 'it' : `${count(files, 'such file')}`}.${cut}`;
}

export function WhoUses({ workspaces }: { workspaces: readonly WorkspaceView[] }) {
  const [address, change] = useAddress();
  const { typed, search } = useTyped();
  const go = useGo();
  const text = typed.trim();
  const { data, error } = useQuery({
    queryKey: ['uses', text],
    enabled: text !== '',
    placeholderData: keepPreviousData,
    queryFn: () => call(readUses, {}, { text }),
  });
  const names = useMemo(() => new Map(workspaces.map((w) => [w.id, w.name])), [workspaces]);
  const context = useMemo(() => ({ names }), [names]);
  const by = address.get('sort');
  const down = address.get('down') === 'yes';
  const rows = useMemo(() => {
    const keys: Record<string, (u: UseAnywhere) => string> = {
      path: (u) => u.path,
      workspace: (u) => nameOf(u, names),
      scene: (u) => u.scene,
      state: (u) => u.state,
    };
    const key = keys[by ?? 'path'] ?? keys.path!;
    const inOrder = (a: UseAnywhere, b: UseAnywhere) =>
      compare(key(a), key(b)) ||
      compare(a.path, b.path) ||
      compare(nameOf(a, names), nameOf(b, names)) ||
      compare(a.scene, b.scene);
    return (data?.uses ?? []).toSorted((a, b) => (down ? inOrder(b, a) : inOrder(a, b)));
  }, [data, by, down, names]);
  const grid = useGridColumns({
    keptAs: 'satchel-uses-columns',
    columns,
    usual,
    firstToGo,
    sort: { by, down },
    onSort: (s) => change({ sort: s.by ?? undefined, down: s.down ? 'yes' : undefined }),
  });
  const lineAt = useCallback((line: number) => ({ row: rows[line] }), [rows]);
  const isAsked = text !== '';
  return (
    <>
      <ViewHead
        answer={
          isAsked && data
            ? answerOf(data)
            : 'Before you change, move or clear a file that others may lean on: see which scenes lead to it, in every workspace that was read here.'
        }
      />
      <Row>
        <Grow>
          <SearchField
            label="Who uses a file"
            placeholder="a part of its name, or the end of its path: rust_albedo, library/rust_albedo.png"
            value={typed}
            onChange={search}
          />
        </Grow>
      </Row>
      <ErrorNotice error={error ? shapeOf(error) : null} />
      {!isAsked ? (
        <Empty>Type a part of a name above.</Empty>
      ) : !data ? (
        !error && <Soft>Looking …</Soft>
      ) : rows.length === 0 ? (
        <Empty>No reference of any workspace leads to a file of that name.</Empty>
      ) : (
        <Grid
          label="References that lead there"
          columns={grid}
          context={context}
          lines={rows.length}
          lineAt={lineAt}
          nameOf={(u) => u.path}
          question={`${text} ${by} ${down}`}
          onOpen={(line) => {
            const u = rows[line];
            if (u)
              go(
                `/references?${new URLSearchParams({ w: u.workspace, scene: u.scene, at: u.at }).toString()}`,
              );
          }}
        />
      )}
    </>
  );
}
