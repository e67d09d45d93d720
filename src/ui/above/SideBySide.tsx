'use client';
// All workspaces side by side, the most pressing first: whether each would open elsewhere, its last version, who works there, its backup and the proof of it.

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Hand } from '../kit/icons';
import { useCallback, useMemo, type ReactNode } from 'react';
import { ago, count, exactTime, figure, span } from '@/core/text/figures';
import { readAbove, type AboveView } from '@/wire/routes/above';
import type { WorkspaceView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useGridColumns, type GridColumn, type GridSort } from '../kit/grid/columns';
import { Grid } from '../kit/grid/Grid';
import { Row, Soft } from '../kit/layout';
import { useGo } from '../kit/leaving';
import { ErrorNotice } from '../kit/notices';
import { ViewHead } from '../kit/Page';
import { Path } from '../kit/Path';
import { useAddress } from '../kit/work';
import { color } from '../theme/theme';

/** One workspace, with what is known of it from above. */
interface Line {
  workspace: WorkspaceView;
  above: AboveView | null;
  lost: number | null;
}

const day = 86_400_000; // ms
const often = 10_000; // ms

const Toned = ({ tone, title, children }: { tone: string; title?: string; children: ReactNode }) => (
  <span style={{ color: tone, fontWeight: 600 }} title={title}>
    {children}
  </span>
);

function Ready({ workspace: { there, seen }, lost }: Line) {
  if (!there) return <Soft>offline</Soft>;
  if (!seen || lost === null) return <Soft>being read …</Soft>;
  if (seen.references === 0) return <Soft>nothing referenced</Soft>;
  return lost === 0 ? (
    <Toned tone={color.greenText}>all {figure(seen.references)}</Toned>
  ) : (
    <Toned tone={color.brick}>
      {figure(lost)} of {figure(seen.references)} would not
    </Toned>
  );
}

function Proof({ above, now }: { above: AboveView | null; now: number }) {
  const proof = above?.proof ?? null;
  if (!proof) return <Soft>–</Soft>;
  if (proof.spoilt > 0)
    return (
      <Toned tone={color.brick} title={proof.folder}>
        {count(proof.spoilt, 'content')} spoilt
      </Toned>
    );
  if (proof.due === null) return <Soft title={proof.folder}>nothing there yet</Soft>;
  const title = `${proof.folder}, due ${exactTime(proof.due)}`;
  return proof.due <= now ? (
    <Toned tone={color.amber} title={title}>
      due since {span(now - proof.due)}
    </Toned>
  ) : (
    <span title={title}>in {span(proof.due - now)}</span>
  );
}

/** Who is at work in a workspace just now: names, each once. */
export function namesOf(above: AboveView | null): string[] {
  const names = [...(above?.holds ?? []), ...(above?.jobs ?? [])].flatMap(({ by }) => by ?? []);
  return [...new Set(names)];
}

function AtWork({ above }: { above: AboveView | null }) {
  if (!above) return null;
  const { holds, jobs } = above;
  const going = jobs.map((j) => (j.by === null ? j.title : `${j.by}: ${j.title}`));
  const said = [...holds.map((h) => `${h.by} holds ${h.scene.split('/').pop()}`), ...going];
  if (said.length === 0) return null;
  return (
    <span title={[...holds.map((h) => `${h.by} holds ${h.scene}`), ...going].join('\n')}>
      <Row $gap={2}>
        {holds.length > 0 && <Hand size={14} aria-hidden style={{ flex: 'none' }} />}
        <span style={{ overflow: 'hidden', textOverflow: 'ellipsis' }}>
          {said[0]}
          {said.length > 1 && <Soft> and {said.length - 1} more</Soft>}
        </span>
      </Row>
    </span>
  );
}

function LastDone({ above, now }: { above: AboveView | null; now: number }) {
  const last = above?.last ?? null;
  if (!last) return <Soft>–</Soft>;
  return (
    <span title={`${last.title}, ${exactTime(last.time)}`}>
      {ago(last.time, Math.max(now, last.time))}
      {last.by !== null && <Soft> by {last.by}</Soft>}
    </span>
  );
}

function LastVersion({ workspace: { seen }, now }: Line & { now: number }) {
  const last = seen?.lastVersion ?? null;
  if (!last) return <Soft>–</Soft>;
  return (
    <span title={`${last.path}, ${exactTime(last.modified)}`}>
      {ago(last.modified, Math.max(now, last.modified))} <Soft>{last.path.split('/').pop()}</Soft>
    </span>
  );
}

function Backup({ at, now }: { at: number | null; now: number }) {
  if (at === null) return <Toned tone={color.amber}>never</Toned>;
  const since = ago(at, Math.max(now, at));
  return now - at > day ? <Toned tone={color.amber}>{since}</Toned> : <>{since}</>;
}

interface Context {
  now: number;
}

const columns: readonly GridColumn<Line, Context>[] = [
  {
    id: 'name',
    label: 'Workspace',
    sorts: true,
    width: null,
    cell: ({ workspace: w }) => (
      <>
        <strong style={{ flex: 'none', maxWidth: '60%' }}>{w.name}</strong>
        <Path path={w.root} strong={false} />
      </>
    ),
  },
  {
    id: 'ready',
    label: 'Opens elsewhere',
    sorts: true,
    width: 146,
    cell: (line) => <Ready {...line} />,
  },
  { id: 'work', label: 'At work', sorts: true, width: 220, cell: ({ above }) => <AtWork above={above} /> },
  {
    id: 'version',
    label: 'Last version',
    sorts: true,
    width: 196,
    cell: (line, { now }) => <LastVersion {...line} now={now} />,
  },
  {
    id: 'done',
    label: 'Last done',
    sorts: true,
    width: 150,
    cell: ({ above }, { now }) => <LastDone above={above} now={now} />,
  },
  {
    id: 'backup',
    label: 'Backed up',
    sorts: true,
    width: 96,
    cell: ({ workspace: w }, { now }) => <Backup at={w.backedUp} now={now} />,
  },
  {
    id: 'proof',
    label: 'Proof due',
    sorts: true,
    width: 110,
    cell: ({ above }, { now }) => <Proof above={above} now={now} />,
  },
];
const usual = columns.map((c) => c.id);
const firstToGo = ['done', 'version', 'proof'];

const { compare } = new Intl.Collator('en', { numeric: true });
const dueOf = ({ above }: Line) => above?.proof?.due ?? Infinity;
const isSpoilt = ({ above }: Line) => (above?.proof?.spoilt ?? 0) > 0;

/** How pressing a workspace is; the larger the more. */
const needOf = (line: Line, now: number): number =>
  (isSpoilt(line) ? 8e9 : 0) +
  (line.workspace.there ? 0 : 4e9) +
  (line.lost ?? 0) +
  (dueOf(line) <= now ? 0.5 : 0) +
  (line.workspace.backedUp === null ? 0.25 : 0);

const order: Record<string, (a: Line, b: Line) => number> = {
  name: (a, b) => compare(a.workspace.name, b.workspace.name),
  ready: (a, b) => (b.lost ?? -1) - (a.lost ?? -1),
  work: (a, b) => namesOf(b.above).length - namesOf(a.above).length,
  version: (a, b) =>
    (b.workspace.seen?.lastVersion?.modified ?? 0) - (a.workspace.seen?.lastVersion?.modified ?? 0),
  done: (a, b) => (b.above?.last?.time ?? 0) - (a.above?.last?.time ?? 0),
  backup: (a, b) => (a.workspace.backedUp ?? 0) - (b.workspace.backedUp ?? 0),
  proof: (a, b) => Number(isSpoilt(b)) - Number(isSpoilt(a)) || dueOf(a) - dueOf(b),
};

function sorted(lines: readonly Line[], { by, down }: GridSort, now: number): Line[] {
  const by1 = by === null ? undefined : order[by];
  if (!by1)
    return lines.toSorted(
      (a, b) => needOf(b, now) - needOf(a, now) || compare(a.workspace.name, b.workspace.name),
    );
  return lines.toSorted((a, b) => (down ? by1(b, a) : by1(a, b)));
}

/** What a lead has to know, in one sentence. */
function answerOf(lines: readonly Line[], now: number): string {
  const lost = lines.filter((l) => (l.lost ?? 0) > 0).length;
  const due = lines.filter((l) => isSpoilt(l) || dueOf(l) <= now).length;
  const away = lines.filter((l) => !l.workspace.there).length;
  const names = [...new Set(lines.flatMap((l) => namesOf(l.above)))];
  const said = [
    lost === 0
      ? `All that were read of ${count(lines.length, 'workspace')} would open, complete, elsewhere`
      : `${lost} of ${count(lines.length, 'workspace')} would not open complete elsewhere`,
    ...(away > 0 ? [`${away} ${away === 1 ? 'is' : 'are'} not there just now`] : []),
    ...(due > 0 ? [`a proof is due of the backups of ${due}`] : []),
    ...(names.length > 0
      ? [
          `${names.slice(0, 3).join(', ')}${names.length > 3 ? ` and ${names.length - 3} more` : ''} ${names.length === 1 ? 'is' : 'are'} at work`,
        ]
      : []),
  ];
  return `${said.join('; ')}.`;
}

export function SideBySide({ workspaces }: { workspaces: readonly WorkspaceView[] }) {
  const [address, change] = useAddress();
  const go = useGo();
  const { data, error, dataUpdatedAt } = useQuery({
    queryKey: ['above'],
    placeholderData: keepPreviousData,
    refetchInterval: often,
    queryFn: () => call(readAbove, {}),
  });
  const now = dataUpdatedAt;
  const sort = { by: address.get('sort'), down: address.get('down') === 'yes' };
  const lines = useMemo(() => {
    const known = new Map(data?.map((a) => [a.id, a]));
    const all = workspaces
      .filter((w) => w.archived === null)
      .map((w): Line => {
        const lost = w.seen && w.seen.references - w.seen.ready;
        return { workspace: w, above: known.get(w.id) ?? null, lost };
      });
    return sorted(all, { by: sort.by, down: sort.down }, now);
  }, [data, workspaces, sort.by, sort.down, now]);
  const grid = useGridColumns({
    keptAs: 'satchel-above-columns',
    columns,
    usual,
    firstToGo,
    sort,
    onSort: ({ by, down }) => change({ sort: by ?? undefined, down: down ? 'yes' : undefined }),
  });
  const lineAt = useCallback((line: number) => ({ row: lines[line] }), [lines]);
  const context = useMemo(() => ({ now }), [now]);
  if (!data) return error ? <ErrorNotice error={shapeOf(error)} /> : <Soft>Reading …</Soft>;
  return (
    <>
      <ViewHead answer={answerOf(lines, now)} />
      <ErrorNotice error={error ? shapeOf(error) : null} />
      <Grid
        label="All workspaces"
        columns={grid}
        context={context}
        lines={lines.length}
        lineAt={lineAt}
        nameOf={({ workspace }) => workspace.name}
        question={`${sort.by} ${sort.down}`}
        onOpen={(line) => {
          const w = lines[line]?.workspace;
          if (w) go(`/overview?w=${w.id}`);
        }}
      />
    </>
  );
}
