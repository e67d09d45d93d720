'use client';
// Files: what lies where, the home of each kind, and bringing outside files in.

import { useQuery } from '@tanstack/react-query';
import { File, Folder, Plus } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import type { FileView } from '@/wire/views';
import { get, query, shapeOf } from '../kit/api';
import { Empty, ErrorNotice, MainButton, PlainButton, Row, Sheet, Soft } from '../kit/controls';
import { FolderChooser } from '../kit/FolderChooser';
import { ago, bytes, count, exactBytes, exactTime } from '@/core/text/figures';
import { Needs, Page } from '../kit/Page';
import { useAddress, usePlan, useServerState, useWorkspaceId } from '../kit/work';
import { color, font, space } from '../theme/theme';

const Table = styled.table`
  width: 100%; border-collapse: collapse;
  th { text-align: left; color: ${color.soft}; font-size: 13.5px; font-weight: 600; padding: 0 ${space(3)} 6px 0; border-bottom: 1px solid ${color.line}; }
  td { padding: 5px ${space(3)} 5px 0; border-bottom: 1px solid ${color.line}; }
  td.name { font-family: ${font.mono}; font-size: 13.5px; overflow-wrap: anywhere; }
  .number { text-align: right; font-variant-numeric: tabular-nums; white-space: nowrap; padding-right: 0; }
`;

export function FilesPage() {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const folder = address.get('folder') ?? '';
  const result = useQuery({ queryKey: ['files', id, folder], enabled: id !== null, queryFn: () => get<FileView[]>(`/api/workspaces/${id}/files${query({ folder })}`) });
  return <Needs title="Files" result={result}>{(files) => <Files files={files} folder={folder} go={(f) => change({ folder: f })} />}</Needs>;
}

function Files({ files, folder, go }: { files: FileView[]; folder: string; go: (folder: string) => void }) {
  const [chooser, setChooser] = useState(false);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [now] = useState(() => Date.now());
  const { data: state } = useServerState();
  const plan = usePlan();
  const bring = (paths: string[]) => {
    setChooser(false);
    void plan({ kind: 'bring', files: paths }).catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  const parts = folder === '' ? [] : folder.split('/');
  const total = files.reduce((s, f) => s + (f.size ?? 0), 0);
  return (
    <Page title="Files" answer={folder === '' ? 'Each kind of file has its home. Bring a file in before it is used: what it needs comes along.' : <>{count(files.filter((f) => f.kind === 'file').length, 'file')}, {bytes(total)} in this folder.</>}
      actions={<MainButton onPress={() => setChooser(true)}><Plus size={16} /> Bring files in…</MainButton>}>
      {problem && <ErrorNotice error={problem} />}
      <Sheet>
        <Row aria-label="Where you are" style={{ marginBottom: 10 }}>
          <PlainButton onPress={() => go('')}>root</PlainButton>
          {parts.map((p, i) => <Row key={i}><Soft>/</Soft><PlainButton onPress={() => go(parts.slice(0, i + 1).join('/'))}>{p}</PlainButton></Row>)}
        </Row>
        {files.length === 0 ? <Empty action={<MainButton onPress={() => setChooser(true)}>Bring files in…</MainButton>}>This folder is empty.</Empty> : (
          <Table>
            <thead><tr><th>Name</th><th>{folder === '' ? 'Home of' : 'Kind'}</th><th className="number">Size</th><th className="number">Changed</th></tr></thead>
            <tbody>{files.slice(0, 2000).map((f) => (
              <tr key={f.path}>
                <td className="name"><Row>{f.kind === 'folder' ? <Folder size={15} aria-label="folder" /> : <File size={15} aria-label="file" />}{f.kind === 'folder' ? <PlainButton onPress={() => go(f.path)}>{f.name}</PlainButton> : f.name}</Row></td>
                <td>{f.kind === 'folder' ? <Soft>{f.home ?? ''}</Soft> : f.fileKind}</td>
                <td className="number" title={exactBytes(f.size)}>{f.kind === 'file' ? bytes(f.size) : ''}</td>
                <td className="number">{f.modified !== null && <Soft title={exactTime(f.modified)}>{ago(f.modified, now)}</Soft>}</td>
              </tr>
            ))}</tbody>
          </Table>
        )}
        {files.length > 2000 && <Soft>… and {count(files.length - 2000, 'more file')}; open a subfolder, or search in References.</Soft>}
      </Sheet>
      {chooser && <FolderChooser title="Bring in: scenes, textures, anything" pick="files" start={state?.demo ? `${state.demo}/bench/Downloads` : undefined} action="Plan it" onClose={() => setChooser(false)} onChoose={bring} />}
    </Page>
  );
}
