'use client';
// Homes: which kind of file lives where. A home that changes takes its files along, and every path to them.

import { FolderTree } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { fileKinds, homeOf, type FileKind, type Homes } from '@/core/layouts/homes';
import { count } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import type { SettingsView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import {
  Button,
  ErrorNotice,
  LinkButton,
  MainButton,
  Mono,
  Row,
  Sheet,
  Soft,
  Stack,
  TextField,
} from '../kit/controls';
import { Page } from '../kit/Page';
import { usePlan, useStepHref } from '../kit/work';
import { color, space } from '../theme/theme';

const about: Record<FileKind, string> = {
  scene: 'scenes, levels, shots',
  model: 'geometry that scenes are made of',
  texture: 'pictures on surfaces',
  material: 'material libraries',
  cache: 'baked simulation, point and volume caches',
  audio: 'sound and music',
  video: 'films',
  font: 'fonts',
  reference: 'pictures to look at while working',
  render: 'what comes out of the renderer',
  export: 'what is handed over',
  backup: 'copies',
  other: 'the holding area: packs and downloads not filed yet',
};
const outputs: ReadonlySet<FileKind> = new Set(['render', 'export', 'backup']);
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  td,
  th {
    text-align: left;
    padding: 4px ${space(3)} 4px 0;
    border-bottom: 1px solid ${color.line};
    vertical-align: middle;
  }
  th {
    color: ${color.soft};
    font-size: 13.5px;
  }
  td:nth-child(2) {
    width: 42%;
  }
  label {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
`;

export function HomesTab({ s, bar }: { s: SettingsView; bar: React.ReactNode }) {
  const [wanted, setWanted] = useState<Record<string, string>>({});
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const plan = usePlan();
  const href = useStepHref();
  const homes = s.homes as Homes;
  const changes = Object.entries(wanted).filter(([k, to]) => to.trim() !== (s.homes[k] ?? ''));
  const row = (k: FileKind) => {
    const fallback = homeOf(k, homes);
    return (
      <tr key={k}>
        <td>
          <strong>{k}</strong>
          <br />
          <Soft style={{ fontSize: 13 }}>{about[k]}</Soft>
        </td>
        <td>
          <TextField
            label={`Home of ${k} files`}
            mono
            value={wanted[k] ?? s.homes[k] ?? ''}
            onChange={(to) => setWanted({ ...wanted, [k]: to })}
            placeholder={fallback}
          />
        </td>
        <td>
          {s.homes[k] === undefined && !wanted[k] && <Soft>none of its own: {fallback || 'the root'}</Soft>}
        </td>
      </tr>
    );
  };
  const table = (of: readonly FileKind[], title: string) => (
    <Sheet aria-label={title}>
      <h2>{title}</h2>
      <Table>
        <thead>
          <tr>
            <th>Kind</th>
            <th>Lives in</th>
            <th>Else</th>
          </tr>
        </thead>
        <tbody>{of.map(row)}</tbody>
      </Table>
    </Sheet>
  );
  return (
    <Page
      title="Settings"
      answer="Where each kind of file lives. Change a home, and its files move there with every path to them."
      actions={
        <>
          {changes.length > 0 && <Button onPress={() => setWanted({})}>As it was</Button>}
          <MainButton
            isDisabled={changes.length === 0}
            onPress={() => {
              setProblem(null);
              plan({
                kind: 'homes',
                changes: Object.fromEntries(changes.map(([k, to]) => [k, to.trim() || null])),
              }).catch((cause: unknown) => setProblem(shapeOf(cause)));
            }}
          >
            Plan {changes.length > 0 ? count(changes.length, 'new home') : 'the change'}…
          </MainButton>
        </>
      }
    >
      {bar}
      {problem && <ErrorNotice error={problem} />}
      {table(
        fileKinds.filter((k) => !outputs.has(k)),
        'Goes into the work',
      )}
      {table(
        fileKinds.filter((k) => outputs.has(k)),
        'Comes out of it',
      )}
      <Sheet>
        <Stack $gap={2}>
          <h2>The layout</h2>
          <Row $wrap>
            <FolderTree size={16} aria-hidden />
            <span>
              {s.layout.id || 'none'}: {count(s.folders.length, 'folder')}
            </span>
            <LinkButton href={href('/layouts')}>Layouts…</LinkButton>
          </Row>
          <Soft>
            <Mono>{s.folders.join('   ')}</Mono>
          </Soft>
        </Stack>
      </Sheet>
    </Page>
  );
}
