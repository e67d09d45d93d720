'use client';
// Workspaces: recent ones, create, open, and the allowed folders.

import { openWorkspace, scanWorkspace } from '@/wire/routes/workspaces';
import { useQueryClient } from '@tanstack/react-query';
import { Files, FileSearch, FolderCheck, FolderOpen, FolderPlus, Layers, Table2 } from '../kit/icons';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import type { StateView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { useGo } from '../kit/leaving';
import { SideBySide } from '../above/SideBySide';
import { WhoUses } from '../above/WhoUses';
import { Button, MainButton } from '../kit/buttons';
import { Row, Sheet, Stack } from '../kit/layout';
import { Empty, ErrorNotice, Notice } from '../kit/notices';
import { FolderChooser } from '../kit/FolderChooser';
import { Page } from '../kit/Page';
import { Views } from '../kit/tabs';
import { useAddress, useServerState } from '../kit/work';
import { space } from '../theme/theme';
import { AdoptFolder } from './AdoptFolder';
import { Attention } from './Attention';
import { ByCategory } from './ByCategory';
import { CreateMany } from './CreateMany';
import { CreateWorkspace } from './CreateWorkspace';
import { FindWorkspaces } from './FindWorkspaces';
import { AllowedFolders } from './AllowedFolders';
import { Shelf } from './Shelf';

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  gap: ${space(4)};
  align-items: start;
  @media (max-width: 1120px) {
    grid-template-columns: minmax(0, 1fr);
  }
`;

/** What all of them together need; those in the archive need nothing. */
function answerOf(all: StateView['workspaces']): ReactNode {
  const going = all.filter((w) => w.archived === null);
  const read = going.filter((w) => w.seen);
  const lost = read.filter((w) => w.seen!.ready < w.seen!.references);
  const unsaved = going.filter((w) => w.there && w.backedUp === null).length;
  if (going.length === 0) return 'All of them lie in the archive.';
  if (read.length === 0) return 'Choose one to see whether it would open, complete, on another machine.';
  return (
    <>
      <strong>
        {lost.length === 0
          ? `${read.length === 1 ? 'It' : `All ${read.length}`} would open, complete, on another machine`
          : read.length === 1
            ? 'It would not open complete on another machine'
            : `${lost.length} of ${count(read.length, 'workspace')} would not open complete on another machine`}
      </strong>
      {unsaved > 0 ? `; ${unsaved} ${unsaved === 1 ? 'was' : 'were'} never backed up.` : '.'}
    </>
  );
}

/** What was never read is read once, one after the other, so that the list can say something of it. */
function useFirstLook(workspaces: StateView['workspaces'] | undefined) {
  const asked = useRef(new Set<string>());
  useEffect(() => {
    for (const w of workspaces ?? []) {
      if (!w.there || w.seen || w.archived !== null || asked.current.has(w.id)) continue;
      asked.current.add(w.id);
      // Why one cannot be read is said where it is opened.
      void call(scanWorkspace, { id: w.id }).catch(() => undefined);
    }
  }, [workspaces]);
}

const views = [
  { id: 'list', name: 'One by one', icon: Layers },
  { id: 'above', name: 'Side by side', icon: Table2 },
  { id: 'uses', name: 'Who uses a file', icon: FileSearch },
] as const;

export function WorkspacesPage() {
  const { data, error } = useServerState();
  const [address, change] = useAddress();
  const [chooser, setChooser] = useState(false);
  const [now] = useState(() => Date.now());
  useFirstLook(data?.workspaces);
  const { attempt, problem } = useAttempt();
  const go = useGo();
  const client = useQueryClient();
  const open = (path: string) =>
    void attempt(async () => {
      const workspace = await call(openWorkspace, {}, { path });
      await client.invalidateQueries();
      go(`/overview?w=${workspace.id}`);
    });
  if (error)
    return (
      <Page title="Workspaces">
        <ErrorNotice error={shapeOf(error)} />
      </Page>
    );
  if (!data) return <Page title="Workspaces" answer="Reading …" />;
  const close = () => change({ new: undefined, do: undefined, at: undefined });
  if (address.get('new')) return <CreateWorkspace onClose={close} />;
  if (address.get('do') === 'many') return <CreateMany onClose={close} />;
  if (address.get('do') === 'adopt') return <AdoptFolder onClose={close} />;
  if (address.get('do') === 'find') return <FindWorkspaces onClose={close} />;
  const hasAllowed = data.allowed.length > 0;
  const mayAllow = data.me === null || data.me.role === 'manage';
  const answer = !hasAllowed
    ? !mayAllow
      ? 'No folder is yours to see yet. Whoever manages this server allows folders, and says whose they are.'
      : 'Loyal Satchel touches no folder you have not allowed. Allow the one your projects live in, then create a workspace there.'
    : data.workspaces.length === 0
      ? 'No workspace yet. Create one in an allowed folder, take over a folder you have, or open one that is there.'
      : answerOf(data.workspaces);
  const view = (data.workspaces.length > 0 && views.find((v) => v.id === address.get('view'))?.id) || 'list';
  const list = (
    <Columns>
      <Stack $gap={4}>
        <Sheet aria-label="Workspaces by category">
          {data.workspaces.length === 0 ? (
            <Empty
              action={
                hasAllowed ? (
                  <Row>
                    <Button onPress={() => change({ do: 'adopt' })}>Adopt a folder…</Button>
                    <MainButton onPress={() => change({ new: '1' })}>Create a workspace…</MainButton>
                  </Row>
                ) : undefined
              }
            >
              A workspace is a project folder that knows where everything belongs.{' '}
              {hasAllowed
                ? 'Create the first, or take over a folder you have.'
                : mayAllow
                  ? 'First allow a folder on the right.'
                  : 'They show here once a folder is yours to see.'}
            </Empty>
          ) : (
            <ByCategory workspaces={data.workspaces} open={open} attempt={attempt} />
          )}
        </Sheet>
        {data.workspaces.length > 0 && <Attention workspaces={data.workspaces} now={now} />}
      </Stack>
      <Stack $gap={4}>
        <AllowedFolders />
        <Shelf />
      </Stack>
    </Columns>
  );
  return (
    <Page
      title={hasAllowed ? 'Workspaces' : 'Welcome'}
      fill={view !== 'list'}
      answer={view === 'list' ? answer : undefined}
      actions={
        hasAllowed &&
        view === 'list' && (
          <>
            <Button onPress={() => setChooser(true)}>
              <FolderOpen size={16} /> Open a folder…
            </Button>
            <Button onPress={() => change({ do: 'adopt' })}>
              <FolderCheck size={16} /> Adopt a folder…
            </Button>
            <Button onPress={() => change({ do: 'many' })}>
              <Files size={16} /> Create several…
            </Button>
            <MainButton onPress={() => change({ new: '1' })}>
              <FolderPlus size={16} /> Create a workspace…
            </MainButton>
          </>
        )
      }
    >
      {data.notices.map((n) => (
        <Notice key={n} tone="amber" title="The last start">
          {n}
        </Notice>
      ))}
      <ErrorNotice error={problem} />
      {data.workspaces.length > 0 && (
        <Views
          label="How they are looked at"
          views={views}
          chosen={view}
          onChoose={(v) =>
            change({ view: v === 'list' ? undefined : v, sort: undefined, down: undefined, q: undefined })
          }
        >
          {view === 'above' && <SideBySide workspaces={data.workspaces} />}
          {view === 'uses' && <WhoUses workspaces={data.workspaces} />}
          {view === 'list' && list}
        </Views>
      )}
      {data.workspaces.length === 0 && list}
      {chooser && (
        <FolderChooser
          title="Open a workspace"
          pick="folder"
          action="Open"
          insideAction="Open its root"
          onClose={() => setChooser(false)}
          onChoose={([path]) => {
            setChooser(false);
            open(path!);
          }}
        />
      )}
    </Page>
  );
}
