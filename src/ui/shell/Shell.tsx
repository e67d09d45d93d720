'use client';
// The window: the strap with the steps of the work, the top with the workspace's tag, readiness and running work, the sheet.

import { cancelJob } from '@/wire/routes/state';
import {
  Briefcase,
  ChevronsUpDown,
  Compass,
  FolderOpen,
  History,
  Layers,
  LifeBuoy,
  Settings2,
  Spline,
  Undo2,
  NotebookText,
  Waypoints,
  X,
} from 'lucide-react';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { useEffect, useState, type ReactNode } from 'react';
import { Button as AriaButton, Menu, MenuItem, MenuTrigger, ProgressBar } from 'react-aria-components';
import styled from 'styled-components';
import type { JobView } from '@/wire/jobs';
import { call } from '../kit/api';
import { ErrorNotice, IconButton, MenuFrame, PlainButton, Row, Seam, Soft } from '../kit/controls';
import { bytes, timeLeft } from '@/core/text/figures';
import { useOverview, usePlan, useServerState, useStepHref, useWork, useWorkspaceId } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';
import { Commands } from './Commands';
import { DropToBring } from './DropToBring';
import { Unfinished } from './Unfinished';

const steps = [
  { href: '/', name: 'Workspaces', icon: Layers },
  { href: '/overview', name: 'Overview', icon: Compass },
  { href: '/files', name: 'Files', icon: FolderOpen },
  { href: '/references', name: 'References', icon: Spline },
  { href: '/map', name: 'Map', icon: Waypoints },
  { href: '/versions', name: 'Versions', icon: History },
  { href: '/travel', name: 'Travel', icon: Briefcase },
];
const foot = [
  { href: '/ledger', name: 'Ledger', icon: NotebookText },
  { href: '/settings', name: 'Settings', icon: Settings2 },
  { href: '/help', name: 'Help', icon: LifeBuoy },
];

const Frame = styled.div`
  display: grid;
  grid-template-columns: 188px minmax(0, 1fr);
  grid-template-rows: 64px minmax(0, 1fr);
  height: 100dvh;
`;

const Strap = styled.nav`
  grid-row: 1 / 3;
  background: ${color.strap};
  color: ${color.strapText};
  display: flex;
  flex-direction: column;
  padding: ${space(4)} ${space(3)} ${space(3)};
  position: relative;
  gap: 3px;
  overflow-y: auto;
  &::before,
  &::after {
    content: '';
    position: absolute;
    top: 0;
    bottom: 0;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.strapLine} 0 7px, transparent 7px 12px);
  }
  &::before {
    left: 6px;
  }
  &::after {
    right: 6px;
  }
  .brand {
    font: 600 20px/1.2 ${font.title};
    padding: 0 ${space(3)};
  }
  .motto {
    color: ${color.strapSoft};
    font-size: 12px;
    line-height: 1.35;
    padding: ${space(1)} ${space(3)} ${space(4)};
  }
  .grow {
    flex: 1;
  }
`;
const Step = styled(Link)`
  display: flex;
  align-items: center;
  gap: ${space(2)};
  min-height: 34px;
  padding: 0 ${space(2)} 0 ${space(3)};
  border-radius: ${radius.small};
  color: ${color.strapText};
  font-weight: 500;
  z-index: 1;
  margin: 0 2px;
  &:hover {
    background: ${color.strapCount};
    text-decoration: none;
  }
  &[aria-current='page'] {
    background: ${color.strapActive};
    color: ${color.strapActiveText};
    font-weight: 700;
  }
  svg {
    flex: none;
  }
  .count {
    margin-left: auto;
    min-width: 24px;
    padding: 1px 6px;
    border-radius: 12px;
    background: ${color.strapCount};
    color: ${color.strapText};
    font-size: 12.5px;
    text-align: center;
    font-variant-numeric: tabular-nums;
  }
  &[aria-current='page'] .count {
    background: ${color.saddle};
    color: ${color.onSaddle};
  }
`;

const Top = styled.header`
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
  width: 236px;
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
const Main = styled.main`
  overflow: auto;
  min-width: 0;
  outline-offset: -2px;
`; // focusable, so that long pages scroll by keyboard

const JobFrame = styled.div`
  display: flex;
  align-items: center;
  gap: ${space(2)};
  min-width: 200px;
  max-width: 320px;
  flex: 0 1 300px;
  font-size: 13px;
  .bar {
    height: 4px;
    border-radius: 2px;
    background: ${color.line};
    overflow: hidden;
  }
  .fill {
    height: 100%;
    background: ${color.greenText};
  }
  .text {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;

function RunningJob({ job, more }: { job: JobView; more: number }) {
  const [now, setNow] = useState(() => job.started);
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  const p = job.progress;
  const [done, total] = p?.bytesTotal ? [p.bytes, p.bytesTotal] : [p?.files ?? 0, p?.filesTotal ?? null];
  const seconds = Math.max(1, (now - job.started) / 1000);
  const detail = job.ending
    ? job.work === 'apply'
      ? 'cancelled: what was done is being put back'
      : 'being cancelled'
    : p === null
      ? 'starting'
      : job.state === 'waiting'
        ? p.path
        : [
            `${p.files.toLocaleString('en')}${p.filesTotal ? ` of ${p.filesTotal.toLocaleString('en')}` : ''} files`,
            p.bytes > 0 ? `${bytes(p.bytes)} · ${bytes(p.bytes / seconds)}/s` : '',
            timeLeft(done, total, now - job.started),
          ]
            .filter(Boolean)
            .join(' · ');
  return (
    <JobFrame>
      <ProgressBar
        aria-label={job.title}
        value={total ? (done / total) * 100 : 0}
        isIndeterminate={!total}
        style={{ flex: 1, minWidth: 0 }}
      >
        {({ percentage }) => (
          <>
            <div className="text">
              <strong>{job.title}</strong>
              {more > 0 && <Soft> +{more}</Soft>}
            </div>
            <div className="bar">
              <div className="fill" style={{ width: `${percentage ?? 30}%` }} />
            </div>
            <div className="text">
              <Soft>{detail}</Soft>
            </div>
          </>
        )}
      </ProgressBar>
      <IconButton
        aria-label={`Cancel: ${job.title}`}
        isDisabled={job.ending}
        onPress={() => void call(cancelJob, { job: job.id })}
      >
        <X size={16} />
      </IconButton>
    </JobFrame>
  );
}

function WorkspaceTag() {
  const { data } = useServerState();
  const id = useWorkspaceId();
  const router = useRouter();
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
        <Menu
          aria-label="Workspaces"
          onAction={(key) => router.push(key === 'all' ? '/' : `/overview?w=${key}`)}
        >
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

function UndoLast() {
  const { data } = useOverview();
  const plan = usePlan();
  const last = data?.ledger.find((e) => e.state === 'applied' && e.kind !== 'undo');
  if (!last) return null;
  return (
    <PlainButton aria-label={`Undo: ${last.title}`} onPress={() => void plan({ kind: 'undo', id: last.id })}>
      <Undo2 size={15} /> Undo
      <Soft style={{ maxWidth: 170, overflow: 'hidden', textOverflow: 'ellipsis' }}> “{last.title}”</Soft>
    </PlainButton>
  );
}

const Trouble = styled.div`
  padding: ${space(5)} ${space(6)} 0;
`;

/** The key has done its work once the page is here: it stays in no address that could be copied or looked at. */
function hideKey(): void {
  const url = new URL(window.location.href);
  if (!url.searchParams.has('key')) return;
  url.searchParams.delete('key');
  window.history.replaceState(null, '', url);
}

export function Shell({ children }: { children: ReactNode }) {
  const pathname = usePathname();
  const id = useWorkspaceId();
  const href = useStepHref();
  const { data } = useOverview();
  const { jobs, trouble } = useWork();
  const running = jobs.filter((j) => j.ended === null);
  const attention = data ? data.references - data.ready : 0;
  const at = pathname.startsWith('/plan') ? '' : pathname;
  useEffect(hideKey, []);
  return (
    <Frame>
      <Strap aria-label="Steps of the work">
        <div className="brand">Loyal Satchel</div>
        <div className="motto">
          everything packed,
          <br />
          nothing left behind
        </div>
        {steps.map(({ href: to, name, icon: Icon }) => (
          <Step key={to} href={href(to)} aria-current={at === to ? 'page' : undefined}>
            <Icon size={17} aria-hidden />
            {name}
            {name === 'References' && attention > 0 && (
              <span className="count" aria-label={`${attention} need attention`}>
                {attention < 1000 ? attention : `${Math.floor(attention / 1000)}k`}
              </span>
            )}
          </Step>
        ))}
        <span className="grow" />
        {foot.map(({ href: to, name, icon: Icon }) => (
          <Step key={to} href={href(to)} aria-current={at === to ? 'page' : undefined}>
            <Icon size={17} aria-hidden />
            {name}
          </Step>
        ))}
      </Strap>
      <Top>
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
                    {data.ready.toLocaleString('en')} of {data.references.toLocaleString('en')}
                  </strong>{' '}
                  would open elsewhere
                </>
              )}
            </span>
            <Seam ready={data.ready} of={data.references} />
          </Readiness>
        )}
        {id !== null && (
          <Row>
            <UndoLast />
          </Row>
        )}
      </Top>
      <Main tabIndex={0}>
        {trouble && (
          <Trouble>
            <ErrorNotice error={trouble} />
          </Trouble>
        )}
        <Unfinished />
        {children}
      </Main>
      <Commands />
      <DropToBring />
    </Frame>
  );
}
