'use client';
// One folder: the way to it, what lies in it, and renaming it or what is in it.

import { FolderPen, PenLine } from '../kit/icons';
import { useState } from 'react';
import type { FileView } from '@/wire/views';
import { MainButton, PlainButton } from '../kit/buttons';
import { Grow, Row, Sheet, Soft } from '../kit/layout';
import { Empty } from '../kit/notices';
import { FileGrid } from './FileGrid';
import { RenameFolder } from './RenameFolder';
import { RenameMany } from './RenameMany';

/** The folders from the root to this one. */
function Way({ folder, go }: { folder: string; go: (to: string) => void }) {
  const parts = folder === '' ? [] : folder.split('/');
  return (
    <>
      <PlainButton onPress={() => go('')}>root</PlainButton>
      {parts.map((p, i) => (
        <Row key={i}>
          <Soft>/</Soft>
          <PlainButton onPress={() => go(parts.slice(0, i + 1).join('/'))}>{p}</PlainButton>
        </Row>
      ))}
    </>
  );
}

export function FolderView({
  folder,
  files,
  chosen,
  onGo,
  onFile,
  onBring,
}: {
  folder: string;
  files: FileView[];
  chosen: string | null;
  onGo: (folder: string) => void;
  onFile: (path: string) => void;
  onBring: () => void;
}) {
  const [asked, setAsked] = useState<{ at: string; what: 'move' | 'rename' } | null>(null);
  const doing = asked?.at === folder ? asked.what : null;
  const stop = () => setAsked(null);
  if (doing === 'rename') return <RenameMany folder={folder} files={files} onClose={stop} />;
  return (
    <>
      <Row aria-label="Where you are" role="group">
        <Way folder={folder} go={onGo} />
        <Grow />
        {folder !== '' && (
          <PlainButton onPress={() => setAsked(doing === 'move' ? null : { at: folder, what: 'move' })}>
            <FolderPen size={15} /> Rename this folder…
          </PlainButton>
        )}
        {files.some((f) => f.kind === 'file') && (
          <PlainButton onPress={() => setAsked({ at: folder, what: 'rename' })}>
            <PenLine size={15} /> Rename these…
          </PlainButton>
        )}
      </Row>
      {doing === 'move' && folder !== '' && (
        <Sheet>
          <RenameFolder folder={folder} onClose={stop} />
        </Sheet>
      )}
      {files.length === 0 ? (
        <Empty action={<MainButton onPress={onBring}>Bring files in…</MainButton>}>
          This folder is empty.
        </Empty>
      ) : (
        <FileGrid
          label={`Files in ${folder || 'the root'}`}
          files={files}
          question={folder}
          chosen={chosen}
          onOpen={(f) => (f.kind === 'folder' ? onGo(f.path) : onFile(f.path))}
        />
      )}
    </>
  );
}
