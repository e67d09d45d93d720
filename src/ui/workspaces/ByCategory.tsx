'use client';
// The known workspaces by category, the archive folded below; each is opened, moved, filed under a category, archived or forgotten from here.

import { makePlan } from '@/wire/routes/plans';
import { forgetWorkspaceRoute } from '@/wire/routes/workspaces';
import { useQueryClient } from '@tanstack/react-query';
import { CircleSlash, MoreHorizontal, Tag } from '../kit/icons';
import Link from '../kit/Link';
import { useState } from 'react';
import { Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { ago, bytes, count, exactTime, figure } from '@/core/text/figures';
import type { WorkspaceView } from '@/wire/views';
import { call } from '../kit/api';
import type { Attempt } from '../kit/attempt';
import { IconButton, MenuFrame } from '../kit/buttons';
import { Grow, Row, Soft } from '../kit/layout';
import { Seam } from '../kit/marks';
import { Path } from '../kit/Path';
import { usePlanOf } from '../kit/work';
import { color, radius, space } from '../theme/theme';
import { FileUnder } from './FileUnder';
import { MoveWorkspace } from './MoveWorkspace';
import { Portrait } from './Portrait';

const Item = styled(Link)`
  display: flex;
  align-items: center;
  gap: ${space(4)};
  padding: ${space(3)};
  border-radius: ${radius.small};
  color: ${color.ink};
  font-weight: 400;
  &:hover {
    background: ${color.raised};
    text-decoration: none;
  }
  strong {
    font-size: 15.5px;
  }
`;
const Last = styled.div`
  flex: 0 0 205px;
  min-width: 0;
  color: ${color.soft};
  font-size: 13.5px;
  .scene {
    color: ${color.ink};
    font-weight: 600;
    overflow-wrap: anywhere;
  }
  .note {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Line = styled(Row)`
  border-bottom: 1px solid ${color.line};
`;
const Category = styled.h2`
  margin: ${space(4)} 0 2px;
  display: flex;
  gap: ${space(2)};
  align-items: center;
`;

/** Recent ones first within each category; the archive folded below. */
export function ByCategory({
  workspaces,
  open,
  attempt,
}: {
  workspaces: WorkspaceView[];
  open: (root: string) => void;
  attempt: Attempt['attempt'];
}) {
  const [moving, setMoving] = useState<WorkspaceView | null>(null);
  const [filing, setFiling] = useState<WorkspaceView | null>(null);
  const going = workspaces.filter((w) => w.archived === null);
  const archived = workspaces.filter((w) => w.archived !== null);
  const categories = [...new Set(going.map((w) => w.category ?? ''))].sort((a, b) =>
    a === '' ? 1 : b === '' ? -1 : a.localeCompare(b),
  );
  const list = (of: WorkspaceView[]) =>
    of.map((w) => (
      <One
        key={w.id}
        w={w}
        open={open}
        onMove={() => setMoving(w)}
        onFile={() => setFiling(w)}
        attempt={attempt}
      />
    ));
  return (
    <>
      {categories.map((c) => (
        <div key={c} role="group" aria-label={c || 'Recent'}>
          {categories.length > 1 || c !== '' ? (
            <Category>
              <Tag size={15} aria-hidden />
              {c || 'no category'}
            </Category>
          ) : (
            <h2>Recent</h2>
          )}
          {list(going.filter((w) => (w.category ?? '') === c))}
        </div>
      ))}
      {archived.length > 0 && (
        <details style={{ marginTop: 14 }}>
          <summary>
            <strong>Archive</strong>{' '}
            <Soft>
              {count(archived.length, 'workspace')}, out of the way; their files stay where they are
            </Soft>
          </summary>
          {list(archived)}
        </details>
      )}
      {moving && <MoveWorkspace workspace={moving} onClose={() => setMoving(null)} />}
      {filing && (
        <FileUnder workspace={filing} known={categories.filter(Boolean)} onClose={() => setFiling(null)} />
      )}
    </>
  );
}

const day = 86_400_000; // ms

/** How long ago it was backed up. */
function Backed({ at, now }: { at: number | null; now: number }) {
  if (at === null) return <>not backed up</>;
  const since = ago(at, Math.max(now, at));
  return now - at > day ? (
    <span style={{ color: color.amber }}>not backed up since {since}</span>
  ) : (
    <>backed up {since}</>
  );
}

type Seen = WorkspaceView['seen'];

/** Whether it would open elsewhere, before anything else. */
function Readiness({ seen }: { seen: Seen }) {
  if (!seen) return <Soft as="div">being read …</Soft>;
  if (seen.references === 0) return <Soft as="div">nothing referenced yet</Soft>;
  const lost = seen.references - seen.ready;
  return (
    <div style={{ maxWidth: 300, margin: '2px 0 4px' }}>
      <div style={{ color: lost === 0 ? color.greenText : color.brick, fontWeight: 600, marginBottom: 4 }}>
        {lost === 0
          ? `All ${count(seen.references, 'reference')} would open elsewhere`
          : `${figure(lost)} of ${figure(seen.references)} would not open elsewhere`}
      </div>
      <Seam ready={seen.ready} of={seen.references} />
    </div>
  );
}

function LastVersion({ seen, now }: { seen: NonNullable<Seen>; now: number }) {
  const last = seen.lastVersion;
  if (!last) return <div>no scene yet</div>;
  return (
    <div title={`${last.path}, ${exactTime(last.modified)}`}>
      <span className="scene">{last.path.split('/').pop()}</span>{' '}
      {ago(last.modified, Math.max(now, last.modified))}
      {last.note && <div className="note">“{last.note}”</div>}
    </div>
  );
}

function One({
  w,
  open,
  onMove,
  onFile,
  attempt,
}: {
  w: WorkspaceView;
  open: (root: string) => void;
  onMove: () => void;
  onFile: () => void;
  attempt: Attempt['attempt'];
}) {
  const [now] = useState(() => Date.now());
  const client = useQueryClient();
  const planOf = usePlanOf();
  const act = (key: string) => {
    if (key === 'move') onMove();
    else if (key === 'file') onFile();
    else if (key === 'archive')
      void attempt(() =>
        planOf(
          makePlan,
          { id: w.id },
          { kind: 'settings', change: { archived: w.archived === null } },
          { back: '/' },
        ),
      );
    else
      void attempt(async () => {
        await call(forgetWorkspaceRoute, { id: w.id });
        await client.invalidateQueries();
      });
  };
  return (
    <Line>
      <Grow>
        <Item
          href={`/overview?w=${w.id}`}
          onClick={(e) => {
            e.preventDefault();
            open(w.root);
          }}
        >
          <Portrait workspace={w.id} of={w.there ? (w.seen?.lastVersion ?? null) : null} />
          <Grow>
            <strong>{w.name}</strong>
            <Readiness seen={w.seen} />
            <Path path={w.root} />
          </Grow>
          <Last>
            {w.there ? (
              <>
                {w.seen && <LastVersion seen={w.seen} now={now} />}
                <div>
                  {w.seen && `${bytes(w.seen.bytes)} in ${count(w.seen.files, 'file')} · `}
                  <Backed at={w.backedUp} now={now} />
                </div>
                <div title={exactTime(w.opened)}>opened {ago(w.opened, now)}</div>
              </>
            ) : (
              <>
                <Row>
                  <CircleSlash size={14} aria-hidden /> offline
                </Row>
                {w.seen?.scanned && (
                  <div title={exactTime(w.seen.scanned)}>as seen {ago(w.seen.scanned, now)}</div>
                )}
              </>
            )}
          </Last>
        </Item>
      </Grow>
      <MenuTrigger>
        <IconButton aria-label={`More for ${w.name}`}>
          <MoreHorizontal size={16} />
        </IconButton>
        <MenuFrame placement="bottom end">
          <Menu
            aria-label={`More for ${w.name}`}
            onAction={(key) => act(String(key))}
            disabledKeys={w.there ? [] : ['move', 'file', 'archive']}
          >
            <MenuItem id="move">Move or rename…</MenuItem>
            <MenuItem id="file">File under a category…</MenuItem>
            <MenuItem id="archive">{w.archived === null ? 'Archive…' : 'Take out of the archive…'}</MenuItem>
            <MenuItem id="forget">Forget it here; its files stay</MenuItem>
          </Menu>
        </MenuFrame>
      </MenuTrigger>
    </Line>
  );
}
