'use client';
// Adopts a folder that exists: what is in it, which of its folders serve as homes, whether what lies about is filed. Then the plan.

import { adoptFolder, recogniseFolder } from '@/wire/routes/shelf';
import { openWorkspace } from '@/wire/routes/workspaces';
import { FolderCheck, FolderSearch } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import styled from 'styled-components';
import { bytes, count } from '@/core/text/figures';
import type { Recognised } from '@/core/plans/planAdopt';
import { fileKinds } from '@/core/layouts/homes';
import type { ErrorShape } from '@/wire/jobs';
import { call, shapeOf } from '../kit/api';
import {
  Button,
  ErrorNotice,
  Grow,
  MainButton,
  Mono,
  Notice,
  Row,
  Sheet,
  Soft,
  Stack,
  TextField,
} from '../kit/controls';
import { FolderField, LayoutField, PlaceAdvice, Tick } from '../kit/fields';
import { Page } from '../kit/Page';
import { useJob, usePlanOf, useServerState } from '../kit/work';
import { color, font, space } from '../theme/theme';

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.25fr);
  gap: ${space(4)};
  align-items: start;
`;
const Homes = styled.table`
  width: 100%;
  border-collapse: collapse;
  td,
  th {
    text-align: left;
    padding: 3px ${space(3)} 3px 0;
    border-bottom: 1px solid ${color.line};
  }
  th {
    color: ${color.soft};
    font-size: 13.5px;
  }
  select {
    font: 400 13.5px ${font.mono};
    max-width: 100%;
    border: 1px solid ${color.line};
    border-radius: 4px;
    background: ${color.sheet};
    color: ${color.ink};
    padding: 2px 4px;
  }
`;
const Folders = styled.div`
  max-height: 300px;
  overflow: auto;
  display: grid;
  grid-template-columns: minmax(0, 1.2fr) auto minmax(0, 1.4fr);
  gap: 2px ${space(4)};
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
    color: ${color.soft};
  }
`;

export function AdoptFolder({ onClose }: { onClose: () => void }) {
  const { data: state } = useServerState();
  const [path, setPath] = useState('');
  const [layout, setLayout] = useState('game-environment');
  const [name, setName] = useState<string | null>(null);
  const [tidy, setTidy] = useState(false);
  const [homes, setHomes] = useState<Record<string, string>>({});
  const [found, setFound] = useState<{ path: string; layout: string; what: Recognised } | null>(null);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const run = useJob();
  const planOf = usePlanOf();
  const router = useRouter();
  const look = async (at = path, by = layout) => {
    setProblem(null);
    setFound(null);
    setHomes({});
    try {
      setFound({
        path: at,
        layout: by,
        what: await run(recogniseFolder, {}, { path: at, layout: { id: by } }),
      });
    } catch (cause) {
      setProblem(shapeOf(cause));
    }
  };
  const root =
    problem && (problem.code === 'inside-workspace' || problem.code === 'exists')
      ? problem.details[0]
      : undefined;
  const openRoot = () =>
    root !== undefined &&
    void call(openWorkspace, {}, { path: root }).then(
      (w) => router.push(`/overview?w=${w.id}`),
      (cause: unknown) => setProblem(shapeOf(cause)),
    );
  const chosen = state?.layouts.find((l) => l.id === layout);
  const what = found?.what;
  const wanted = fileKinds.filter((k) => chosen?.homes[k] !== undefined);
  const options = what ? what.folders.map((f) => f.path).filter((p) => p !== '' && !p.startsWith('.')) : [];
  const plan = () => {
    setProblem(null);
    planOf(
      adoptFolder,
      {},
      { path, name: name ?? path.split('/').pop() ?? '', layout: { id: layout }, homes, tidy },
      '/',
    ).catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  return (
    <Page
      title="Adopt a folder"
      answer="A folder that is there already becomes a workspace: its own folders serve as homes where they fit, and every reference is kept."
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <MainButton isDisabled={!found || found.path !== path} onPress={plan}>
            <FolderCheck size={16} /> Plan it…
          </MainButton>
        </>
      }
    >
      {problem && <ErrorNotice error={problem} />}
      {root && (
        <Row>
          <Button onPress={openRoot}>Open the workspace {root.split('/').pop()}</Button>
        </Row>
      )}
      <Columns>
        <Stack $gap={4}>
          <Sheet>
            <Stack>
              <FolderField
                label="The folder"
                title="Which folder shall be adopted?"
                value={path}
                onChange={(p) => {
                  setPath(p);
                  if (p.startsWith('/') || /^[A-Za-z]:/.test(p)) void look(p);
                }}
              />
              <TextField label="Name" value={name ?? path.split('/').pop() ?? ''} onChange={setName} />
              <LayoutField
                label="Layout for what is wanting"
                layouts={state?.layouts ?? []}
                value={layout}
                onChange={(id) => {
                  setLayout(id);
                  if (path) void look(path, id);
                }}
              />
              {path !== '' && !found && !problem && (
                <Row>
                  <Button onPress={() => void look()}>
                    <FolderSearch size={15} /> Look through it
                  </Button>
                </Row>
              )}
              {found && <PlaceAdvice path={path} />}
            </Stack>
          </Sheet>
          {what && (
            <Sheet>
              <Stack $gap={2}>
                <h2>What lies about</h2>
                {what.loose === 0 ? (
                  <div>Every file lies where its kind belongs.</div>
                ) : (
                  <>
                    <Tick checked={tidy} onChange={setTidy}>
                      <strong>
                        File {count(what.loose, 'file')} that {what.loose === 1 ? 'lies' : 'lie'} outside the
                        home of {what.loose === 1 ? 'its' : 'their'} kind
                      </strong>
                      <br />
                      <Soft>
                        Paths in scenes are changed with them. Without this, all stays where it is, and can be
                        filed later.
                      </Soft>
                    </Tick>
                  </>
                )}
                {what.nested.length > 0 && (
                  <Notice tone="amber" title={`${count(what.nested.length, 'workspace')} inside it`}>
                    {what.nested.map((n) => (
                      <div key={n}>
                        <Mono>{n}</Mono>
                      </div>
                    ))}
                    They stay what they are; “Look for workspaces” repairs them.
                  </Notice>
                )}
              </Stack>
            </Sheet>
          )}
        </Stack>
        <Sheet>
          <Stack>
            <h2>What is in it</h2>
            {!what ? (
              <Soft>
                {problem
                  ? 'Nothing was looked at.'
                  : path === ''
                    ? 'Choose a folder: its files are counted by kind, nothing is changed.'
                    : 'Looking through it …'}
              </Soft>
            ) : (
              <>
                <div>
                  <strong>
                    {count(what.files, 'file')}, {bytes(what.bytes)}
                  </strong>{' '}
                  <Soft>in {count(what.folders.length - 1, 'folder')}</Soft>
                </div>
                <Homes>
                  <thead>
                    <tr>
                      <th>Kind</th>
                      <th>Will live in</th>
                      <th>Folder</th>
                    </tr>
                  </thead>
                  <tbody>
                    {wanted.map((k) => {
                      const at = homes[k] ?? what.homes[k] ?? chosen!.homes[k]!;
                      const isThere = options.includes(at);
                      return (
                        <tr key={k}>
                          <td>{k}</td>
                          <td>
                            <select
                              aria-label={`Home of ${k} files`}
                              value={at}
                              onChange={(e) => setHomes({ ...homes, [k]: e.target.value })}
                            >
                              {[...new Set([at, chosen!.homes[k]!, ...options])].map((p) => (
                                <option key={p} value={p}>
                                  {p}
                                </option>
                              ))}
                            </select>
                          </td>
                          <td>
                            <Soft>{isThere ? 'is there' : 'will be made'}</Soft>
                          </td>
                        </tr>
                      );
                    })}
                  </tbody>
                </Homes>
                <h2>Its folders</h2>
                <Folders>
                  {what.folders
                    .filter((f) => f.path !== '')
                    .slice(0, 200)
                    .map((f) => [
                      <Grow key={`${f.path} n`}>
                        <Mono>{f.path}</Mono>
                      </Grow>,
                      <span key={`${f.path} b`} className="number">
                        {count(f.files, 'file')}
                      </span>,
                      <Soft key={`${f.path} k`}>
                        {Object.entries(f.kinds)
                          .sort((a, b) => b[1] - a[1])
                          .slice(0, 3)
                          .map(([k, n]) => `${n} ${k}`)
                          .join(', ')}
                      </Soft>,
                    ])}
                </Folders>
              </>
            )}
          </Stack>
        </Sheet>
      </Columns>
    </Page>
  );
}
