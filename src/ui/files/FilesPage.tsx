'use client';
// Files: what lies where, the home of each kind, who uses it, what nothing uses; and bringing outside files in.

import { listFiles, listUnusedFiles } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import {
  CopyMinus,
  File,
  Folder,
  FolderInput,
  FolderPen,
  FolderTree,
  Inbox,
  LayoutGrid,
  PenLine,
  Plus,
  Trash2,
  Unplug,
} from 'lucide-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useLayoutEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import type { FileView, UnusedView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import {
  Button,
  Chip,
  Empty,
  ErrorNotice,
  Grow,
  MainButton,
  PlainButton,
  Row,
  Sheet,
  Soft,
  Split,
} from '../kit/controls';
import { FolderChooser } from '../kit/FolderChooser';
import { ago, bytes, count, exactBytes, exactTime } from '@/core/text/figures';
import { Needs, Page } from '../kit/Page';
import { Path } from '../kit/Path';
import { useAddress, useOverview, usePlan, useServerState, useWorkspaceId } from '../kit/work';
import { color, font, space } from '../theme/theme';
import { FileDrawer } from './FileDrawer';
import { IntakeView } from './IntakeView';
import { LooseView } from './LooseView';
import { RenameFolder, RenameMany } from './RenameMany';
import { RoomView } from './RoomView';
import { TwiceView } from './TwiceView';

const rowHeight = 38;

const Scroll = styled.div`
  flex: 1;
  min-width: 0;
  overflow: auto;
`;
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  th {
    text-align: left;
    color: ${color.soft};
    font-size: 13.5px;
    font-weight: 600;
    padding: 0 ${space(3)} 6px 0;
    border-bottom: 1px solid ${color.line};
  }
  td {
    padding: 4px ${space(3)} 4px 0;
    border-bottom: 1px solid ${color.line};
  }
  td.name {
    font-family: ${font.mono};
    font-size: 13.5px;
    max-width: 0;
    width: 52%;
  }
  td.name button {
    text-align: left;
    font: inherit;
    min-height: 24px;
    overflow: hidden;
    text-overflow: ellipsis;
    display: block;
  }
  tbody tr {
    height: ${rowHeight}px;
  }
  tr.room,
  tr.room td {
    padding: 0;
    border: none;
  }
  tr[data-chosen='true'] td {
    background: ${color.raised};
  }
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
    padding-right: ${space(3)};
  }
  .number:last-child {
    padding-right: 0;
  }
`;
const FileButton = styled(PlainButton)`
  color: ${color.ink};
  max-width: 100%;
  min-width: 0;
`;

export function FilesPage() {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const folder = address.get('folder') ?? '';
  const view = address.get('view');
  const isUnused = view === 'unused';
  const unused = useQuery({
    queryKey: ['unused', id],
    enabled: id !== null && isUnused,
    queryFn: () => call(listUnusedFiles, { id }, { limit: mostRows }),
  });
  const { data: overview } = useOverview();
  const files = useQuery({
    queryKey: ['files', id, folder],
    enabled: id !== null && (view === null || view === ''),
    queryFn: () => call(listFiles, { id }, { folder }),
  });
  const other = others.find((o) => o === view) ?? null;
  const result = other
    ? { data: [], error: null }
    : isUnused
      ? { data: unused.data?.files, error: unused.error }
      : files;
  return (
    <Needs title="Files" result={result}>
      {(list) => (
        <Files
          files={list}
          unused={overview?.found?.unused}
          isUnused={isUnused}
          other={other}
          folder={folder}
          chosen={address.get('file')}
          change={change}
        />
      )}
    </Needs>
  );
}

const mostRows = 1000;
const others = ['intake', 'loose', 'twice', 'room'] as const;
type Other = (typeof others)[number];

function Files({
  files,
  unused,
  isUnused,
  other,
  folder,
  chosen,
  change,
}: {
  files: FileView[];
  unused: UnusedView['total'] | undefined;
  isUnused: boolean;
  other: Other | null;
  folder: string;
  chosen: string | null;
  change: (changes: Record<string, string | undefined>) => void;
}) {
  const [renaming, setRenaming] = useState(false);
  const [moving, setMoving] = useState(false);
  const [chooser, setChooser] = useState(false);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [frame, setFrame] = useState<HTMLDivElement | null>(null);
  const { data: state } = useServerState();
  const workspace = useWorkspaceId()!;
  const plan = usePlan();
  const bring = (paths: string[]) => {
    setChooser(false);
    void plan({ kind: 'bring', files: paths }).catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  const go = (to: string) => change({ folder: to, file: undefined });
  const parts = folder === '' ? [] : folder.split('/');
  const answer =
    other === 'intake' ? (
      'Packs wait here until they are filed: take what you need, with its parts, and clear the rest.'
    ) : other === 'twice' ? (
      'The same content under several names. Merged, each takes its room once, and a change to it is seen everywhere.'
    ) : other === 'room' ? (
      'What takes how much room on the drive.'
    ) : other === 'loose' ? (
      'Files that lie outside the home of their kind. Filing them changes the paths of every scene that uses them.'
    ) : isUnused ? (
      unused?.files ? (
        <>
          <strong>
            {count(unused.files, 'file')}, {bytes(unused.bytes)}, used by no scene.
          </strong>{' '}
          Textures, caches, materials, sounds and fonts that nothing leads to; outputs and hidden files are
          not counted.
        </>
      ) : (
        'Every texture, cache and material here is used by a scene.'
      )
    ) : folder === '' ? (
      'Each kind of file has its home. Bring a file in before it is used: what it needs comes along.'
    ) : (
      <>
        {count(files.filter((f) => f.kind === 'file').length, 'file')},{' '}
        {bytes(files.reduce((s, f) => s + (f.size ?? 0), 0))} in this folder.
      </>
    );
  return (
    <Split>
      <Scroll ref={setFrame}>
        <Page
          title="Files"
          answer={answer}
          actions={
            <MainButton onPress={() => setChooser(true)}>
              <Plus size={16} /> Bring files in…
            </MainButton>
          }
        >
          {problem && <ErrorNotice error={problem} />}
          <Row role="group" aria-label="What is shown" $wrap>
            <Chip
              type="button"
              aria-pressed={!isUnused && other === null}
              onClick={() => change({ view: undefined, file: undefined, pack: undefined })}
            >
              <FolderTree size={15} aria-hidden /> By folder
            </Chip>
            <Chip
              type="button"
              aria-pressed={other === 'intake'}
              onClick={() => change({ view: 'intake', file: undefined })}
            >
              <Inbox size={15} aria-hidden /> Intake
            </Chip>
            <Chip
              type="button"
              aria-pressed={other === 'loose'}
              onClick={() => change({ view: 'loose', file: undefined })}
            >
              <FolderInput size={15} aria-hidden /> Lying about
            </Chip>
            <Chip
              type="button"
              aria-pressed={isUnused}
              onClick={() => change({ view: 'unused', file: undefined })}
            >
              <Unplug size={15} aria-hidden /> Used by nothing {unused && <strong>{unused.files}</strong>}
            </Chip>
            <Chip
              type="button"
              aria-pressed={other === 'twice'}
              onClick={() => change({ view: 'twice', file: undefined })}
            >
              <CopyMinus size={15} aria-hidden /> There twice
            </Chip>
            <Chip
              type="button"
              aria-pressed={other === 'room'}
              onClick={() => change({ view: 'room', file: undefined })}
            >
              <LayoutGrid size={15} aria-hidden /> Room
            </Chip>
          </Row>
          {other === 'intake' && <IntakeView />}
          {other === 'loose' && <LooseView />}
          {other === 'twice' && <TwiceView />}
          {other === 'room' && (
            <RoomView
              onFolder={(to) => change({ view: undefined, folder: to, file: undefined })}
              onFile={(file) => change({ file })}
            />
          )}
          {other === null && renaming && !isUnused && (
            <RenameMany key={folder} folder={folder} files={files} onClose={() => setRenaming(false)} />
          )}
          {other === null && !(renaming && !isUnused) && (
            <Sheet>
              {isUnused && files.length > 0 && (
                <Row style={{ marginBottom: 10 }}>
                  <Grow />
                  <Button
                    onPress={() =>
                      void plan({ kind: 'bin', paths: files.map((f) => f.path) }).catch((cause: unknown) =>
                        setProblem(shapeOf(cause)),
                      )
                    }
                  >
                    <Trash2 size={15} /> Clear {count(files.length, 'file')} to the bin…
                  </Button>
                </Row>
              )}
              {!isUnused && (
                <Row aria-label="Where you are" style={{ marginBottom: 10 }}>
                  <PlainButton onPress={() => go('')}>root</PlainButton>
                  {parts.map((p, i) => (
                    <Row key={i}>
                      <Soft>/</Soft>
                      <PlainButton onPress={() => go(parts.slice(0, i + 1).join('/'))}>{p}</PlainButton>
                    </Row>
                  ))}
                  <Grow />
                  {folder !== '' && (
                    <PlainButton onPress={() => setMoving(!moving)}>
                      <FolderPen size={15} /> Rename this folder…
                    </PlainButton>
                  )}
                  {files.some((f) => f.kind === 'file') && (
                    <PlainButton onPress={() => setRenaming(true)}>
                      <PenLine size={15} /> Rename these…
                    </PlainButton>
                  )}
                </Row>
              )}
              {!isUnused && moving && folder !== '' && (
                <div style={{ marginBottom: 12 }}>
                  <RenameFolder key={folder} folder={folder} onClose={() => setMoving(false)} />
                </div>
              )}
              {isUnused && unused && unused.files > files.length && (
                <Soft>The {count(files.length, 'largest file')} of them:</Soft>
              )}
              {files.length > 0 ? (
                <FileTable
                  frame={frame}
                  files={files}
                  whole={isUnused}
                  chosen={chosen}
                  open={(f) => (f.kind === 'folder' ? go(f.path) : change({ file: f.path }))}
                />
              ) : isUnused ? (
                <Empty>Nothing lies idle. Files that no scene leads to would be listed here.</Empty>
              ) : (
                <Empty action={<MainButton onPress={() => setChooser(true)}>Bring files in…</MainButton>}>
                  This folder is empty.
                </Empty>
              )}
            </Sheet>
          )}
        </Page>
      </Scroll>
      {chosen !== null && (
        <FileDrawer workspace={workspace} path={chosen} onClose={() => change({ file: undefined })} />
      )}
      {chooser && (
        <FolderChooser
          title="Bring in: scenes, textures, anything"
          pick="files"
          start={state?.demo ? `${state.demo}/bench/Downloads` : undefined}
          action="Plan it"
          onClose={() => setChooser(false)}
          onChoose={bring}
        />
      )}
    </Split>
  );
}

/** `whole`: paths from the root, not names in one folder. Of a long list only the rows in view of `frame` are made. */
function FileTable({
  frame,
  files,
  whole,
  chosen,
  open,
}: {
  frame: HTMLElement | null;
  files: FileView[];
  whole: boolean;
  chosen: string | null;
  open: (f: FileView) => void;
}) {
  const [now] = useState(() => Date.now());
  const body = useRef<HTMLTableSectionElement>(null);
  const [above, setAbove] = useState(0);
  useLayoutEffect(() => {
    if (body.current && frame)
      setAbove(
        body.current.getBoundingClientRect().top - frame.getBoundingClientRect().top + frame.scrollTop,
      );
  }, [frame, files]);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions change with every scroll, as they must
  const virtual = useVirtualizer({
    count: files.length,
    getScrollElement: () => frame,
    estimateSize: () => rowHeight,
    overscan: 20,
    scrollMargin: above,
  });
  const items = virtual.getVirtualItems();
  const before = items.length > 0 ? items[0]!.start - above : 0;
  const after = items.length > 0 ? Math.max(0, virtual.getTotalSize() - (items.at(-1)!.end - above)) : 0;
  const onlyFolders = files.every((f) => f.kind === 'folder');
  const room = (height: number) =>
    height > 0 && (
      <tr className="room" aria-hidden>
        <td colSpan={5} style={{ height }} />
      </tr>
    );
  return (
    <Table aria-rowcount={files.length + 1}>
      <thead>
        <tr>
          <th>Name</th>
          <th>{onlyFolders ? 'Home of' : 'Kind'}</th>
          {!onlyFolders && (
            <>
              <th className="number">Used by</th>
              <th className="number">Size</th>
              <th className="number">Changed</th>
            </>
          )}
        </tr>
      </thead>
      <tbody ref={body}>
        {room(before)}
        {items.map(({ index }) => {
          const f = files[index]!;
          return (
            <tr key={f.path} aria-rowindex={index + 2} data-chosen={f.path === chosen}>
              <td className="name">
                <Row>
                  {f.kind === 'folder' ? (
                    <>
                      <Folder size={15} aria-label="folder" style={{ flex: 'none' }} />
                      <PlainButton onPress={() => open(f)}>{f.name}</PlainButton>
                    </>
                  ) : (
                    <>
                      <File size={15} aria-label="file" style={{ flex: 'none' }} />
                      <FileButton aria-label={whole ? f.path : f.name} onPress={() => open(f)}>
                        <Path path={whole ? f.path : f.name} strong={false} />
                      </FileButton>
                    </>
                  )}
                </Row>
              </td>
              <td>{f.kind === 'folder' ? <Soft>{f.home ?? ''}</Soft> : f.fileKind}</td>
              {!onlyFolders && (
                <>
                  <td className="number">
                    {f.kind === 'file' &&
                      f.uses !== null &&
                      (f.uses > 0 ? count(f.uses, 'reference') : <Soft>{f.unused ? 'nothing' : '–'}</Soft>)}
                  </td>
                  <td className="number" title={exactBytes(f.size)}>
                    {f.kind === 'file' ? bytes(f.size) : ''}
                  </td>
                  <td className="number">
                    {f.modified !== null && <Soft title={exactTime(f.modified)}>{ago(f.modified, now)}</Soft>}
                  </td>
                </>
              )}
            </tr>
          );
        })}
        {room(after)}
      </tbody>
    </Table>
  );
}
