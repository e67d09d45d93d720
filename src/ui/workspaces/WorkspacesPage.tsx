'use client';
// Workspaces: recent ones, create, open, and the places the application may touch.

import { useQueryClient } from '@tanstack/react-query';
import { FolderOpen, FolderPlus, Plus, X } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import type { WorkspaceView } from '@/wire/views';
import { post, remove, shapeOf } from '../kit/api';
import { Button, Empty, ErrorNotice, Grow, IconButton, MainButton, Row, Sheet, Soft, Stack, TextField } from '../kit/controls';
import { FolderChooser } from '../kit/FolderChooser';
import { ago, exactTime } from '@/core/text/figures';
import { Page } from '../kit/Page';
import { Path } from '../kit/Path';
import { useAddress, useServerState } from '../kit/work';
import { color, radius, space } from '../theme/theme';
import { CreateWorkspace } from './CreateWorkspace';

const Columns = styled.div`display: grid; grid-template-columns: minmax(0, 1fr) 380px; gap: ${space(4)}; align-items: start; @media (max-width: 1120px) { grid-template-columns: minmax(0, 1fr); }`;
const Item = styled(Link)`
  display: flex; align-items: center; gap: ${space(4)}; padding: ${space(3)}; border-radius: ${radius.small}; color: ${color.ink}; font-weight: 400; border-bottom: 1px solid ${color.line};
  &:hover { background: ${color.raised}; text-decoration: none; }
  strong { font-size: 15.5px; }
`;

export function WorkspacesPage() {
  const { data, error } = useServerState();
  const [address, change] = useAddress();
  const [chooser, setChooser] = useState(false);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [now] = useState(() => Date.now());
  const router = useRouter();
  const client = useQueryClient();
  const open = async (path: string) => {
    setProblem(null);
    try {
      const workspace = await post<WorkspaceView>('/api/workspaces/open', { path });
      await client.invalidateQueries();
      router.push(`/overview?w=${workspace.id}`);
    } catch (cause) {
      setProblem(shapeOf(cause));
    }
  };
  if (error) return <Page title="Workspaces"><ErrorNotice error={shapeOf(error)} /></Page>;
  if (!data) return <Page title="Workspaces" answer="Reading …" />;
  if (address.get('new')) return <CreateWorkspace onClose={() => change({ new: undefined })} />;
  const hasPlaces = data.places.length > 0;
  const answer = !hasPlaces ? 'Loyal Satchel touches no folder you have not allowed. Allow the one your projects live in, then create a workspace there.'
    : data.workspaces.length === 0 ? 'No workspace yet. Create one in an allowed folder, or open one that is there.' : 'Choose one to see whether it would open, complete, on another machine.';
  return (
    <Page title={hasPlaces ? 'Workspaces' : 'Welcome'} answer={answer} actions={hasPlaces && <>
      <Button onPress={() => setChooser(true)}><FolderOpen size={16} /> Open a folder…</Button>
      <MainButton onPress={() => change({ new: '1' })}><FolderPlus size={16} /> Create a workspace…</MainButton>
    </>}>
      {problem && <ErrorNotice error={problem} />}
      <Columns>
        <Sheet aria-label="Recent workspaces">
          <h2>Recent</h2>
          {data.workspaces.length === 0 ? <div style={{ marginTop: 12 }}><Empty action={hasPlaces ? <MainButton onPress={() => change({ new: '1' })}>Create a workspace…</MainButton> : undefined}>
            A workspace is a project folder that knows where everything belongs. {hasPlaces ? 'Create the first.' : 'First allow a folder on the right.'}
          </Empty></div>
            : data.workspaces.map((w) => (
              <Row key={w.id}>
                <Grow><Item href={`/overview?w=${w.id}`} onClick={(e) => { e.preventDefault(); void open(w.root); }}>
                  <Grow><strong>{w.name}</strong><br /><Path path={w.root} /></Grow>
                  <Soft title={exactTime(w.opened)}>{w.there ? `opened ${ago(w.opened, now)}` : 'not there just now'}</Soft>
                </Item></Grow>
                <IconButton aria-label={`Forget ${w.name}; its files stay`} onPress={() => void remove(`/api/workspaces/${w.id}`).then(() => client.invalidateQueries())}><X size={15} /></IconButton>
              </Row>
            ))}
        </Sheet>
        <Places />
      </Columns>
      {chooser && <FolderChooser title="Open a workspace" pick="folder" action="Open" onClose={() => setChooser(false)} onChoose={([path]) => { setChooser(false); void open(path!); }} />}
    </Page>
  );
}

function Places() {
  const { data } = useServerState();
  const [path, setPath] = useState('');
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const client = useQueryClient();
  const add = async (at: string) => {
    setProblem(null);
    try {
      await post('/api/places', { path: at });
      setPath('');
      await client.invalidateQueries();
    } catch (cause) {
      setProblem(shapeOf(cause));
    }
  };
  const known = new Set(data?.places.map((p) => p.path));
  const suggested = (data?.suggestions ?? []).filter((s) => !known.has(s)).slice(0, 4);
  return (
    <Sheet aria-label="Places">
      <Stack>
        <div><h2>Places</h2><Soft>Folders this application may look into and change. Nothing outside them is touched.</Soft></div>
        {data?.places.map((p) => (
          <Row key={p.path}>
            <Grow><Path path={p.path} />{!p.there && <Soft> not connected</Soft>}</Grow>
            <IconButton aria-label={`No longer allow ${p.path}`} onPress={() => void remove('/api/places', { path: p.path }).then(() => client.invalidateQueries())}><X size={15} /></IconButton>
          </Row>
        ))}
        <TextField label="Allow a folder" mono value={path} onChange={setPath} placeholder={data?.home} onKeyDown={(e) => { if (e.key === 'Enter') void add(path); }} description="Its whole path; everything below it is allowed too." />
        <Row><Button isDisabled={path.trim() === ''} onPress={() => void add(path)}><Plus size={15} /> Allow this folder</Button></Row>
        {suggested.length > 0 && <Stack $gap={1}><Soft>Often used:</Soft>{suggested.map((s) => <Row key={s}><Grow><Path path={s} strong={false} /></Grow><Button aria-label={`Allow ${s}`} onPress={() => void add(s)}>Allow</Button></Row>)}</Stack>}
        {problem && <ErrorNotice error={problem} />}
      </Stack>
    </Sheet>
  );
}
