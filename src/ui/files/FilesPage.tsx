'use client';
// Files: what lies where, the home of each kind, who uses it, what nothing uses; and bringing outside files in.

import { listFiles, listUnusedFiles } from '@/wire/routes/files';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Plus } from '../kit/icons';
import { useState } from 'react';
import type { UnusedView as Unused } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { MainButton } from '../kit/buttons';
import { FolderChooser } from '../kit/FolderChooser';
import { Scroll, Soft, Split } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Needs, Page } from '../kit/Page';
import { Views } from '../kit/tabs';
import { useAddress, useOverview, usePlan, useServerState, useWorkspaceId } from '../kit/work';
import { answerOf } from './answers';
import { FileDrawer } from './FileDrawer';
import { FolderView } from './FolderView';
import { IntakeView } from './IntakeView';
import { LooseView } from './LooseView';
import { RoomView } from './RoomView';
import { TwiceView } from './TwiceView';
import { UnusedView } from './UnusedView';
import { filling, views } from './views';

const unusedAtMost = 1000;

export function FilesPage() {
  const overview = useOverview();
  return (
    <Needs title="Files" result={overview}>
      {(o) => <Files unused={o.found?.unused} />}
    </Needs>
  );
}

function Files({ unused: total }: { unused: Unused['total'] | undefined }) {
  const id = useWorkspaceId()!;
  const [address, change] = useAddress();
  const folder = address.get('folder') ?? '';
  const view = views.find((v) => v.id === address.get('view'))?.id ?? 'folder';
  const chosen = address.get('file');
  const [isChoosing, setChoosing] = useState(false);
  const { attempt, problem } = useAttempt();
  const { data: state } = useServerState();
  const plan = usePlan();
  const files = useQuery({
    queryKey: ['files', id, folder],
    enabled: view === 'folder',
    // The folder before it stays in sight until this one is here.
    placeholderData: keepPreviousData,
    queryFn: async () => ({ folder, list: await call(listFiles, { id }, { folder }) }),
  });
  const unused = useQuery({
    queryKey: ['unused', id],
    enabled: view === 'unused',
    queryFn: () => call(listUnusedFiles, { id }, { limit: unusedAtMost }),
  });
  const go = (to: string) => change({ view: undefined, folder: to, file: undefined });
  const show = (path: string) => change({ file: path });
  const asked = view === 'folder' ? files : view === 'unused' ? unused : null;
  const answer = answerOf(view, { total, folder, files: files.data?.list });
  return (
    <Split>
      <Scroll>
        <Page
          title="Files"
          fill={filling.has(view)}
          answer={answer}
          actions={
            <MainButton onPress={() => setChoosing(true)}>
              <Plus size={16} /> Bring files in…
            </MainButton>
          }
        >
          <ErrorNotice error={problem} />
          <Views
            label="What is shown"
            views={views.map((v) => (v.id === 'unused' && total ? { ...v, figure: total.files } : v))}
            chosen={view}
            onChoose={(v) =>
              change({
                view: v === 'folder' ? undefined : v,
                file: undefined,
                pack: undefined,
                sort: undefined,
                down: undefined,
              })
            }
          >
            {asked?.error ? (
              <ErrorNotice error={shapeOf(asked.error)} />
            ) : asked && !asked.data ? (
              <Soft>Reading …</Soft>
            ) : null}
            {view === 'folder' && files.data && (
              <FolderView
                folder={files.data.folder}
                files={files.data.list}
                chosen={chosen}
                onGo={go}
                onFile={show}
                onBring={() => setChoosing(true)}
              />
            )}
            {view === 'unused' && unused.data && (
              <UnusedView unused={unused.data} chosen={chosen} onFile={show} />
            )}
            {view === 'intake' && <IntakeView />}
            {view === 'loose' && <LooseView />}
            {view === 'twice' && <TwiceView />}
            {view === 'room' && <RoomView onFolder={go} onFile={show} />}
          </Views>
        </Page>
      </Scroll>
      {chosen !== null && (
        <FileDrawer workspace={id} path={chosen} onClose={() => change({ file: undefined })} />
      )}
      {isChoosing && (
        <FolderChooser
          title="Bring in: scenes, textures, anything"
          pick="files"
          start={state?.demo ? `${state.demo}/bench/Downloads` : undefined}
          action="Plan it"
          onClose={() => setChoosing(false)}
          onChoose={(paths) => {
            setChoosing(false);
            void attempt(() => plan({ kind: 'bring', files: paths }));
          }}
        />
      )}
    </Split>
  );
}
