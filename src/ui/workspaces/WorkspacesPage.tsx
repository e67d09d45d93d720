'use client';
// Workspaces: recent ones, create, open, and the places the application may touch.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { CircleSlash, Files, FolderCheck, FolderOpen, FolderPlus, FolderSearch, Gauge, LayoutList, MoreHorizontal, Plus, Tag, X } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { Dialog, Heading, Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import type { WorkspaceView } from '@/wire/views';
import { get, post, remove, shapeOf } from '../kit/api';
import { Button, Empty, ErrorNotice, Grow, IconButton, LinkButton, MainButton, MenuFrame, PlainButton, Row, Sheet, Soft, Stack, TextField } from '../kit/controls';
import { PlaceAdvice } from '../kit/fields';
import { FolderChooser } from '../kit/FolderChooser';
import { ago, count, exactTime } from '@/core/text/figures';
import { Page } from '../kit/Page';
import { Path } from '../kit/Path';
import { useAddress, usePlanOf, useReview, useServerState } from '../kit/work';
import { Card, Veil } from '../shell/Commands';
import { color, font, radius, space } from '../theme/theme';
import { AdoptFolder } from './AdoptFolder';
import { CreateMany } from './CreateMany';
import { CreateWorkspace } from './CreateWorkspace';
import { FindWorkspaces } from './FindWorkspaces';
import { MoveWorkspace } from './MoveWorkspace';

const Columns = styled.div`display: grid; grid-template-columns: minmax(0, 1fr) 380px; gap: ${space(4)}; align-items: start; @media (max-width: 1120px) { grid-template-columns: minmax(0, 1fr); }`;
const Item = styled(Link)`
  display: flex; align-items: center; gap: ${space(4)}; padding: ${space(3)}; border-radius: ${radius.small}; color: ${color.ink}; font-weight: 400;
  &:hover { background: ${color.raised}; text-decoration: none; }
  strong { font-size: 15.5px; }
`;
const Line = styled(Row)`border-bottom: 1px solid ${color.line};`;
const Category = styled.h2`margin: ${space(4)} 0 2px; display: flex; gap: ${space(2)}; align-items: center;`;

export function WorkspacesPage() {
  const { data, error } = useServerState();
  const [address, change] = useAddress();
  const [chooser, setChooser] = useState(false);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
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
  const close = () => change({ new: undefined, do: undefined });
  if (address.get('new')) return <CreateWorkspace onClose={close} />;
  if (address.get('do') === 'many') return <CreateMany onClose={close} />;
  if (address.get('do') === 'adopt') return <AdoptFolder onClose={close} />;
  if (address.get('do') === 'find') return <FindWorkspaces onClose={close} />;
  const hasPlaces = data.places.length > 0;
  const answer = !hasPlaces ? 'Loyal Satchel touches no folder you have not allowed. Allow the one your projects live in, then create a workspace there.'
    : data.workspaces.length === 0 ? 'No workspace yet. Create one in an allowed folder, take over a folder you have, or open one that is there.' : 'Choose one to see whether it would open, complete, on another machine.';
  return (
    <Page title={hasPlaces ? 'Workspaces' : 'Welcome'} answer={answer} actions={hasPlaces && <>
      <Button onPress={() => setChooser(true)}><FolderOpen size={16} /> Open a folder…</Button>
      <Button onPress={() => change({ do: 'adopt' })}><FolderCheck size={16} /> Adopt a folder…</Button>
      <Button onPress={() => change({ do: 'many' })}><Files size={16} /> Create several…</Button>
      <MainButton onPress={() => change({ new: '1' })}><FolderPlus size={16} /> Create a workspace…</MainButton>
    </>}>
      {problem && <ErrorNotice error={problem} />}
      <Columns>
        <Sheet aria-label="Workspaces by category">
          {data.workspaces.length === 0 ? <Empty action={hasPlaces ? <Row><Button onPress={() => change({ do: 'adopt' })}>Adopt a folder…</Button><MainButton onPress={() => change({ new: '1' })}>Create a workspace…</MainButton></Row> : undefined}>
            A workspace is a project folder that knows where everything belongs. {hasPlaces ? 'Create the first, or take over a folder you have.' : 'First allow a folder on the right.'}
          </Empty> : <ByCategory workspaces={data.workspaces} open={(root) => void open(root)} onProblem={setProblem} />}
        </Sheet>
        <Stack $gap={4}><Places /><Shelf /></Stack>
      </Columns>
      {chooser && <FolderChooser title="Open a workspace" pick="folder" action="Open" insideAction="Open its root" onClose={() => setChooser(false)} onChoose={([path]) => { setChooser(false); void open(path!); }} />}
    </Page>
  );
}

/** Recent ones first within each category; the archive folded below. */
function ByCategory({ workspaces, open, onProblem }: { workspaces: WorkspaceView[]; open: (root: string) => void; onProblem: (e: ErrorShape) => void }) {
  const [moving, setMoving] = useState<WorkspaceView | null>(null);
  const [filing, setFiling] = useState<WorkspaceView | null>(null);
  const going = workspaces.filter((w) => w.archived === null);
  const archived = workspaces.filter((w) => w.archived !== null);
  const categories = [...new Set(going.map((w) => w.category ?? ''))].sort((a, b) => (a === '' ? 1 : b === '' ? -1 : a.localeCompare(b)));
  const list = (of: WorkspaceView[]) => of.map((w) => <One key={w.id} w={w} open={open} onMove={() => setMoving(w)} onFile={() => setFiling(w)} onProblem={onProblem} />);
  return (
    <>
      {categories.map((c) => (
        <div key={c} role="group" aria-label={c || 'Recent'}>
          {categories.length > 1 || c !== '' ? <Category><Tag size={15} aria-hidden />{c || 'no category'}</Category> : <h2>Recent</h2>}
          {list(going.filter((w) => (w.category ?? '') === c))}
        </div>
      ))}
      {archived.length > 0 && <details style={{ marginTop: 14 }}><summary><strong>Archive</strong> <Soft>{count(archived.length, 'workspace')}, out of the way; their files stay where they are</Soft></summary>{list(archived)}</details>}
      {moving && <MoveWorkspace workspace={moving} onClose={() => setMoving(null)} />}
      {filing && <FileUnder workspace={filing} known={categories.filter(Boolean)} onClose={() => setFiling(null)} />}
    </>
  );
}

function One({ w, open, onMove, onFile, onProblem }: { w: WorkspaceView; open: (root: string) => void; onMove: () => void; onFile: () => void; onProblem: (e: ErrorShape) => void }) {
  const [now] = useState(() => Date.now());
  const client = useQueryClient();
  const planOf = usePlanOf();
  const act = (key: string) => {
    if (key === 'move') onMove();
    else if (key === 'file') onFile();
    else if (key === 'archive') planOf(`/api/workspaces/${w.id}/plans`, { kind: 'settings', change: { archived: w.archived === null } }, '/').catch((cause: unknown) => onProblem(shapeOf(cause)));
    else void remove(`/api/workspaces/${w.id}`).then(() => client.invalidateQueries());
  };
  return (
    <Line>
      <Grow><Item href={`/overview?w=${w.id}`} onClick={(e) => { e.preventDefault(); open(w.root); }}>
        <Grow><strong>{w.name}</strong><br /><Path path={w.root} /></Grow>
        <Soft title={exactTime(w.opened)}>{w.there ? `opened ${ago(w.opened, now)}` : <Row><CircleSlash size={14} aria-hidden /> offline</Row>}</Soft>
      </Item></Grow>
      <MenuTrigger>
        <IconButton aria-label={`More for ${w.name}`}><MoreHorizontal size={16} /></IconButton>
        <MenuFrame placement="bottom end">
          <Menu aria-label={`More for ${w.name}`} onAction={(key) => act(String(key))} disabledKeys={w.there ? [] : ['move', 'file', 'archive']}>
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

function FileUnder({ workspace, known, onClose }: { workspace: WorkspaceView; known: string[]; onClose: () => void }) {
  const [category, setCategory] = useState(workspace.category ?? '');
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const planOf = usePlanOf();
  return (
    <Veil isOpen onOpenChange={(o) => !o && onClose()} isDismissable>
      <Card style={{ maxWidth: 460 }}><Dialog><Stack style={{ padding: 20 }}>
        <Heading slot="title" style={{ font: `600 19px ${font.title}`, margin: 0 }}>File {workspace.name} under</Heading>
        <TextField label="Category" value={category} onChange={setCategory} autoFocus placeholder="client" description="A word that groups the list. It is noted in the workspace; no folder moves. Left empty, it has none." />
        {known.length > 0 && <Row $wrap>{known.map((k) => <Button key={k} onPress={() => setCategory(k)}>{k}</Button>)}</Row>}
        {problem && <ErrorNotice error={problem} />}
        <Row><Grow /><Button onPress={onClose}>Cancel</Button><MainButton onPress={() => { planOf(`/api/workspaces/${workspace.id}/plans`, { kind: 'settings', change: { category: category.trim() || null } }, '/').catch((cause: unknown) => setProblem(shapeOf(cause))); }}>Plan it…</MainButton></Row>
      </Stack></Dialog></Card>
    </Veil>
  );
}

/** What was done above the workspaces, with undo; and the ways to put things right there. */
function Shelf() {
  const { data } = useQuery({ queryKey: ['shelf'], queryFn: () => get<{ id: string; container: string; title: string; time: string; state: string; kind: string }[]>('/api/shelf') });
  const [now] = useState(() => Date.now());
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [, change] = useAddress();
  const review = useReview();
  const undo = (e: { id: string; container: string }) => {
    setProblem(null);
    post<{ plan: string }>('/api/shelf/undo', { container: e.container, id: e.id }).then((r) => review(r.plan, '/'), (cause: unknown) => setProblem(shapeOf(cause)));
  };
  return (
    <Sheet aria-label="Above the workspaces">
      <Stack $gap={2}>
        <h2>Above the workspaces</h2>
        <Row $wrap><Button onPress={() => change({ do: 'find' })}><FolderSearch size={15} /> Look for workspaces…</Button><LinkButton href="/layouts"><LayoutList size={15} /> Layouts</LinkButton></Row>
        {(data ?? []).slice(0, 6).map((e) => (
          <div key={e.id}><Soft title={exactTime(Date.parse(e.time))}>{ago(Date.parse(e.time), now)}</Soft> {e.state === 'undone' ? <s>{e.title}</s> : e.title}
            {e.state === 'applied' && e.kind !== 'undo' && <> · <PlainButton aria-label={`Undo: ${e.title}`} onPress={() => undo(e)}>undo</PlainButton></>}</div>
        ))}
        {(data ?? []).length === 0 && <Soft>Workspaces made together, moved or renamed show here, with their undo.</Soft>}
        {problem && <ErrorNotice error={problem} />}
      </Stack>
    </Sheet>
  );
}

function Places() {
  const { data } = useServerState();
  const [shown, setShown] = useState<string | null>(null);
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
          <div key={p.path}>
            <Row>
              <Grow><Path path={p.path} />{!p.there && <Soft> not connected</Soft>}</Grow>
              {p.there && <IconButton aria-label={`What kind of place is ${p.path}`} aria-expanded={shown === p.path} onPress={() => setShown(shown === p.path ? null : p.path)}><Gauge size={15} /></IconButton>}
              <IconButton aria-label={`No longer allow ${p.path}`} onPress={() => void remove('/api/places', { path: p.path }).then(() => client.invalidateQueries())}><X size={15} /></IconButton>
            </Row>
            {p.there && <PlaceAdvice path={p.path} quiet={shown !== p.path} />}
          </div>
        ))}
        <TextField label="Allow a folder" mono value={path} onChange={setPath} placeholder={data?.home} onKeyDown={(e) => { if (e.key === 'Enter') void add(path); }} description="Its whole path; everything below it is allowed too." />
        <Row><Button isDisabled={path.trim() === ''} onPress={() => void add(path)}><Plus size={15} /> Allow this folder</Button></Row>
        {suggested.length > 0 && <Stack $gap={1}><Soft>Often used:</Soft>{suggested.map((s) => <Row key={s}><Grow><Path path={s} strong={false} /></Grow><Button aria-label={`Allow ${s}`} onPress={() => void add(s)}>Allow</Button></Row>)}</Stack>}
        {problem && <ErrorNotice error={problem} />}
      </Stack>
    </Sheet>
  );
}
