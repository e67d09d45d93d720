'use client';
// Workspaces: recent ones, create, open, and the allowed folders.

import { openWorkspace } from '@/wire/routes/workspaces';
import { useQueryClient } from '@tanstack/react-query';
import { Files, FolderCheck, FolderOpen, FolderPlus } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { useGo } from '../kit/leaving';
import { Button, MainButton } from '../kit/buttons';
import { Row, Sheet, Stack } from '../kit/layout';
import { Empty, ErrorNotice, Notice } from '../kit/notices';
import { FolderChooser } from '../kit/FolderChooser';
import { Page } from '../kit/Page';
import { useAddress, useServerState } from '../kit/work';
import { space } from '../theme/theme';
import { AdoptFolder } from './AdoptFolder';
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

export function WorkspacesPage() {
  const { data, error } = useServerState();
  const [address, change] = useAddress();
  const [chooser, setChooser] = useState(false);
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
  const answer = !hasAllowed
    ? 'Loyal Satchel touches no folder you have not allowed. Allow the one your projects live in, then create a workspace there.'
    : data.workspaces.length === 0
      ? 'No workspace yet. Create one in an allowed folder, take over a folder you have, or open one that is there.'
      : 'Choose one to see whether it would open, complete, on another machine.';
  return (
    <Page
      title={hasAllowed ? 'Workspaces' : 'Welcome'}
      answer={answer}
      actions={
        hasAllowed && (
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
      <Columns>
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
                : 'First allow a folder on the right.'}
            </Empty>
          ) : (
            <ByCategory workspaces={data.workspaces} open={open} attempt={attempt} />
          )}
        </Sheet>
        <Stack $gap={4}>
          <AllowedFolders />
          <Shelf />
        </Stack>
      </Columns>
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
