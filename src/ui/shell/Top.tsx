'use client';
// The top of the window: the workspace's tag, running work, readiness, and the undo of what was done last.

import { figure } from '@/core/text/figures';
import { ChevronsUpDown, Undo2 } from '../kit/icons';
import { Button as AriaButton, Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import type { JobView } from '@/wire/jobs';
import { useAttempt } from '../kit/attempt';
import { Button, MenuFrame, PlainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Grow, Row, Soft } from '../kit/layout';
import { useGo } from '../kit/leaving';
import { Seam } from '../kit/marks';
import { ErrorNotice } from '../kit/notices';
import { useOverview, usePlan, useServerState, useWork, useWorkspaceId } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';
import { RunningJob } from './RunningJob';

const Frame = styled.header`
  background: ${color.sheet};
  border-bottom: 1px solid ${color.line};
  display: flex;
  align-items: center;
  gap: ${space(5)};
  padding: 0 ${space(6)} 0 ${space(5)};
  min-width: 0;
`;
const Tag = styled(AriaButton)`
  display: flex;
  align-items: center;
  gap: ${space(3)};
  min-width: 0;
  flex: 0 1 420px;
  height: 52px;
  padding: 0 ${space(4)} 0 ${space(3)};
  background: ${color.raised};
  color: ${color.ink};
  border: 1px solid ${color.line};
  border-radius: ${radius.small} ${radius.tag} ${radius.tag} ${radius.small};
  text-align: left;
  cursor: pointer;
  font: inherit;
  .hole {
    width: 9px;
    height: 9px;
    border: 1.5px solid ${color.saddle};
    border-radius: 50%;
    flex: none;
    background: ${color.sheet};
  }
  .name {
    font-weight: 700;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .root {
    font: 400 12.5px/1.3 ${font.mono};
    color: ${color.soft};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    direction: rtl;
    text-align: left;
  }
  &[data-hovered] {
    border-color: ${color.lineStrong};
  }
`;
const Readiness = styled.div`
  margin-left: auto;
  min-width: 236px;
  white-space: nowrap;
  flex: none;
  display: flex;
  flex-direction: column;
  gap: 6px;
  font-size: 13.5px;
  color: ${color.soft};
  strong {
    color: ${color.ink};
    font-variant-numeric: tabular-nums;
  }
`;
function WorkspaceTag() {
  const { data } = useServerState();
  const id = useWorkspaceId();
  const go = useGo();
  const open = data?.workspaces.find((w) => w.id === id);
  const root = (r: string) => (data?.system === 'win32' ? r.replaceAll('/', '\\') : r);
  return (
    <MenuTrigger>
      <Tag aria-label={open ? `Workspace ${open.name}; switch` : 'Choose a workspace'}>
        <span className="hole" />
        <span style={{ minWidth: 0, flex: 1 }}>
          <div className="name">{open?.name ?? 'No workspace open'}</div>
          <div className="root">{open ? `\u200e${root(open.root)}\u200e` : 'choose or create one'}</div>
        </span>
        <ChevronsUpDown size={15} />
      </Tag>
      <MenuFrame placement="bottom start" style={{ minWidth: 340 }}>
        <Menu aria-label="Workspaces" onAction={(key) => go(key === 'all' ? '/' : `/overview?w=${key}`)}>
          {(data?.workspaces ?? []).slice(0, 12).map((w) => (
            <MenuItem key={w.id} id={w.id} textValue={w.name}>
              <strong>{w.name}</strong>
              <br />
              <Soft style={{ fontSize: 12.5 }}>
                {root(w.root)}
                {w.there ? '' : ' · not there just now'}
              </Soft>
            </MenuItem>
          ))}
          <MenuItem id="all" textValue="All workspaces">
            All workspaces …
          </MenuItem>
        </Menu>
      </MenuFrame>
    </MenuTrigger>
  );
}

const What = styled(Soft)`
  display: inline-block;
  vertical-align: bottom;
  max-width: 170px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  @media (max-width: 1180px) {
    display: none;
  }
`;

function UndoLast() {
  const { data } = useOverview();
  const plan = usePlan();
  const { attempt, problem, setProblem } = useAttempt();
  const last = data?.ledger.find((e) => e.state === 'applied' && e.kind !== 'undo');
  if (!last) return null;
  return (
    <>
      <PlainButton
        aria-label={`Undo: ${last.title}`}
        onPress={() => void attempt(() => plan({ kind: 'undo', id: last.id }))}
      >
        <Undo2 size={15} /> Undo
        <What> “{last.title}”</What>
      </PlainButton>
      {problem && (
        <Dialog title="It cannot be undone" onClose={() => setProblem(null)}>
          <ErrorNotice error={problem} />
          <Row>
            <Grow />
            <Button autoFocus onPress={() => setProblem(null)}>
              Close
            </Button>
          </Row>
        </Dialog>
      )}
    </>
  );
}

export function Top() {
  const id = useWorkspaceId();
  const { data } = useOverview();
  const { jobs } = useWork();
  // What waits for the drive of another workspace is that one's to tell; what is under way is told everywhere, of this one first.
  const isOwn = (j: JobView) => j.workspace === null || j.workspace === id;
  const running = jobs
    .filter((j) => j.ended === null && (isOwn(j) || j.state !== 'waiting'))
    .sort((a, b) => Number(isOwn(b)) - Number(isOwn(a)));
  return (
    <Frame>
      <WorkspaceTag />
      {running[0] && <RunningJob key={running[0].id} job={running[0]} more={running.length - 1} />}
      {id !== null && data && (
        <Readiness>
          <span>
            {data.references === 0 ? (
              'no references yet'
            ) : (
              <>
                <strong>
                  {figure(data.ready)} of {figure(data.references)}
                </strong>{' '}
                would open elsewhere
              </>
            )}
          </span>
          <Seam ready={data.ready} of={data.references} />
        </Readiness>
      )}
      {id !== null && (
        <Row style={{ flex: 'none' }}>
          <UndoLast />
        </Row>
      )}
    </Frame>
  );
}
