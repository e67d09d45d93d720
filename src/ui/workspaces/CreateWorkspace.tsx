'use client';
// Creates a workspace: where, its name, a layout; the full path and every folder are shown before anything is made.

import { createWorkspaceRoute, previewCreate } from '@/wire/routes/workspaces';
import { useQuery, useQueryClient, keepPreviousData } from '@tanstack/react-query';
import { FolderTree, Upload } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import styled from 'styled-components';
import { checkPattern, nameOfPattern, usualPatterns } from '@/core/names/patterns';
import type { ErrorShape } from '@/wire/jobs';
import { call, shapeOf } from '../kit/api';
import {
  Area,
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
import { FolderChooser } from '../kit/FolderChooser';
import { PlaceAdvice } from '../kit/fields';
import { Page } from '../kit/Page';
import { useServerState } from '../kit/work';
import { color, radius, space } from '../theme/theme';
import { Legality, PatternField, today } from './PatternField';

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: ${space(4)};
  align-items: start;
`;
const Choice = styled.label`
  display: flex;
  gap: ${space(3)};
  padding: ${space(2)} ${space(3)};
  border: 1px solid ${color.line};
  border-radius: ${radius.small};
  cursor: pointer;
  align-items: flex-start;
  &:has(input:checked) {
    border-color: ${color.greenText};
    background: ${color.greenTint};
  }
  &:has(input:focus-visible) {
    outline: 2px solid ${color.saddle};
    outline-offset: 2px;
  }
`;
const Folder = styled.label<{ $depth: number }>`
  display: flex;
  gap: ${space(2)};
  align-items: center;
  padding-left: ${(p) => p.$depth * 20}px;
  min-height: 26px;
  cursor: pointer;
`;

export function CreateWorkspace({ onClose }: { onClose: () => void }) {
  const { data: state } = useServerState();
  const demoPlace = state?.demo ? `${state.demo}/bench/work` : undefined;
  const [parentTyped, setParent] = useState<string | null>(null);
  const parent = parentTyped ?? demoPlace ?? state?.allowed[0]?.path ?? '';
  const [name, setName] = useState('');
  const [title, setTitle] = useState('');
  const [person, setPerson] = useState('');
  const [pattern, setPattern] = useState(usualPatterns.workspace);
  const [date] = useState(today);
  const compose = (change: { title?: string; person?: string; pattern?: string }) => {
    const next = { title, person, pattern, ...change };
    setTitle(next.title);
    setPerson(next.person);
    setPattern(next.pattern);
    if (next.title !== '' && checkPattern(next.pattern).length === 0)
      setName(nameOfPattern(next.pattern, { date, title: next.title, person: next.person }));
  };
  const [layout, setLayout] = useState('game-environment');
  const [own, setOwn] = useState('');
  const [without, setWithout] = useState<string[]>([]);
  const [chooser, setChooser] = useState(false);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const router = useRouter();
  const client = useQueryClient();
  const request = { parent, name, layout: layout === 'own' ? { text: own } : { id: layout }, without };
  const { data: preview } = useQuery({
    queryKey: ['create', request],
    enabled: parent !== '' && name !== '',
    placeholderData: keepPreviousData,
    queryFn: () => call(previewCreate, {}, request),
  });
  const shipped = state?.layouts.find((l) => l.id === layout);
  const folders =
    layout === 'own'
      ? (preview?.folders ?? [])
      : (shipped?.folders ?? []).map((f) => ({
          path: f,
          kinds: Object.entries(shipped!.homes)
            .filter(([, h]) => h === f)
            .map(([k]) => k),
        }));
  const isOut = (f: string) => without.some((w) => f === w || f.startsWith(`${w}/`));
  const create = async () => {
    setProblem(null);
    try {
      const made = await call(createWorkspaceRoute, {}, request);
      await client.invalidateQueries();
      router.push(`/overview?w=${made.id}`);
    } catch (cause) {
      setProblem(shapeOf(cause));
    }
  };
  const ready = name !== '' && preview !== undefined && preview.problem === null;
  return (
    <Page
      title="Create a workspace"
      answer="Before the first scene is saved, so that every file has a home and every path can be relative."
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <MainButton isDisabled={!ready} onPress={() => void create()}>
            <FolderTree size={16} /> Create it
          </MainButton>
        </>
      }
    >
      {problem && <ErrorNotice error={problem} />}
      <Columns>
        <Stack $gap={4}>
          <Sheet>
            <Stack>
              <Row style={{ alignItems: 'flex-end' }}>
                <TextField
                  label="Where: the folder that will hold it"
                  mono
                  value={parent}
                  onChange={setParent}
                />
                <Button onPress={() => setChooser(true)}>Choose…</Button>
              </Row>
              <PlaceAdvice path={parent} quiet />
              <TextField
                label="Name"
                value={name}
                onChange={setName}
                autoFocus
                placeholder="2026-11 Harbour Lantern"
                description="A date in front (year-month) sorts by itself."
              />
              {name !== '' && <Legality name={name} />}
              <details>
                <summary>Compose the name by a pattern</summary>
                <Stack style={{ marginTop: 10 }}>
                  <Row style={{ alignItems: 'flex-end' }}>
                    <TextField label="Title" value={title} onChange={(t) => compose({ title: t })} />
                    <TextField label="Person" value={person} onChange={(p) => compose({ person: p })} />
                  </Row>
                  <PatternField
                    label="Pattern"
                    value={pattern}
                    onChange={(p) => compose({ pattern: p })}
                    values={{ date, title: title || 'Harbour Lantern', person }}
                  />
                </Stack>
              </details>
            </Stack>
          </Sheet>
          <Sheet>
            <Stack $gap={2} role="radiogroup" aria-label="Layout">
              <h2>Layout</h2>
              {state?.layouts.map((l) => (
                <Choice key={l.id}>
                  <input
                    type="radio"
                    name="layout"
                    checked={layout === l.id}
                    onChange={() => {
                      setLayout(l.id);
                      setWithout([]);
                    }}
                  />
                  <span>
                    <strong>{l.name}</strong>
                    <br />
                    <Soft>{l.about}</Soft>
                  </span>
                </Choice>
              ))}
              <Choice>
                <input
                  type="radio"
                  name="layout"
                  checked={layout === 'own'}
                  onChange={() => {
                    setLayout('own');
                    setWithout([]);
                  }}
                />
                <span>
                  <strong>From a text</strong>
                  <br />
                  <Soft>
                    One folder per line; indent or / nests. “textures = texture” makes it the home of
                    textures.
                  </Soft>
                </span>
              </Choice>
              {layout === 'own' && (
                <>
                  <Area
                    aria-label="Layout text"
                    value={own}
                    onChange={(e) => setOwn(e.target.value)}
                    placeholder={'scenes = scene\ntextures = texture\n  work\nrenders/stills = render'}
                  />
                  <Row>
                    <Button onPress={() => file.current?.click()}>
                      <Upload size={15} /> From a file…
                    </Button>
                  </Row>
                  <input
                    ref={file}
                    type="file"
                    accept=".txt,text/plain"
                    hidden
                    aria-label="Layout file"
                    onChange={(e) => {
                      void e.target.files?.[0]?.text().then(setOwn);
                    }}
                  />
                </>
              )}
            </Stack>
          </Sheet>
        </Stack>
        <Sheet>
          <Stack>
            <h2>What will be made</h2>
            {preview?.problem && name !== '' ? (
              <Notice tone="brick" title={preview.problem}>
                {preview.details.length > 1 && (
                  <ul>
                    {preview.details.map((d) => (
                      <li key={d}>{d}</li>
                    ))}
                  </ul>
                )}
              </Notice>
            ) : (
              <div>
                <Soft>The root:</Soft>
                <br />
                <Mono data-testid="full-path">
                  <strong>{preview?.root || `${parent}/${name || '…'}`}</strong>
                </Mono>
              </div>
            )}
            <div role="group" aria-label="Folders">
              {folders.map((f) => {
                const depth = f.path.split('/').length - 1;
                const above = without.some((w) => f.path.startsWith(`${w}/`));
                return (
                  <Folder key={f.path} $depth={depth}>
                    <input
                      type="checkbox"
                      aria-label={f.path}
                      checked={!isOut(f.path)}
                      disabled={above}
                      onChange={(e) =>
                        setWithout(
                          e.target.checked ? without.filter((w) => w !== f.path) : [...without, f.path],
                        )
                      }
                    />
                    <Mono>{f.path.split('/').pop()}/</Mono>
                    {f.kinds.length > 0 && (
                      <Grow>
                        <Soft>{f.kinds.join(', ')}</Soft>
                      </Grow>
                    )}
                  </Folder>
                );
              })}
            </div>
            <Soft>
              Also a hidden folder <code>.satchel</code>, which makes the root recognisable and holds the
              ledger. Copy the folder, and all of it travels.
            </Soft>
          </Stack>
        </Sheet>
      </Columns>
      {chooser && (
        <FolderChooser
          title="Where shall the workspace lie?"
          pick="folder"
          start={parent || undefined}
          action="Take this folder"
          onClose={() => setChooser(false)}
          onChoose={([path]) => {
            setChooser(false);
            setParent(path!);
          }}
        />
      )}
    </Page>
  );
}
