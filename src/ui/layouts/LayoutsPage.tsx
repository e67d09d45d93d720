'use client';
// Layouts: choose, change, keep. The tree and its text say the same, and follow each other as either is changed.

import { convertLayout, dropLayout, keepLayout, layoutFromFolder, listLayouts } from '@/wire/routes/layouts';
import { makePlan } from '@/wire/routes/plans';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import {
  Download,
  FolderInput,
  FolderPlus,
  FolderTree,
  Import,
  LayoutList,
  Save,
  Trash2,
} from 'lucide-react';
import { useRef, useState } from 'react';
import styled from 'styled-components';
import { changeFolder, folderAt, insertFolder, removeFolder, type FolderPlace } from '@/core/layouts/editing';
import { fileKinds } from '@/core/layouts/homes';
import {
  checkFolderName,
  newFolder,
  readLayoutText,
  writeLayout,
  type LayoutFolder,
  type LayoutTree as Model,
} from '@/core/layouts/layout';
import { foldName } from '@/core/names/portable';
import { count } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import type { LayoutView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import {
  Area,
  Button,
  Chip,
  ErrorNotice,
  Grow,
  MainButton,
  Notice,
  PlainButton,
  Row,
  Sheet,
  Soft,
  Stack,
} from '../kit/controls';
import { Choose, DraftField, Tick } from '../kit/fields';
import { FolderChooser } from '../kit/FolderChooser';
import { Page } from '../kit/Page';
import { useAddress, useJob, usePlanOf, useServerState } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';
import { LayoutTree, partsOf, placesOf } from './LayoutTree';

const Columns = styled.div`
  display: grid;
  grid-template-columns: 220px minmax(0, 1.15fr) minmax(0, 1fr);
  gap: ${space(4)};
  align-items: start;
  @media (max-width: 1120px) {
    grid-template-columns: 190px minmax(0, 1fr);
    > :last-child {
      grid-column: 2;
    }
  }
`;
const Library = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  button {
    width: 100%;
    text-align: left;
    border: none;
    background: none;
    color: ${color.ink};
    padding: ${space(2)};
    border-radius: ${radius.small};
    cursor: pointer;
  }
  button[aria-current='true'] {
    background: ${color.greenTint};
    font-weight: 700;
  }
  button:hover {
    background: ${color.raised};
  }
`;
const Text = styled(Area)`
  min-height: 340px;
  white-space: pre;
  overflow: auto;
  line-height: 1.55;
`;
const Halves = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: ${space(3)};
  select {
    width: 100%;
  }
`;
const Wrong = styled.ul`
  margin: 4px 0 0;
  padding-left: 18px;
  color: ${color.brick};
`;

/** The place of a folder in a tree, by what it is; null where it is not there. */
function placeOf(tree: Model, folder: LayoutFolder | null): FolderPlace | null {
  return folder === null ? null : (placesOf(tree.folders).find((p) => folderAt(tree, p) === folder) ?? null);
}

function download(name: string, type: string, content: string): void {
  const url = URL.createObjectURL(new Blob([content], { type }));
  const a = document.createElement('a');
  a.href = url;
  a.download = name;
  a.click();
  URL.revokeObjectURL(url);
}

export function LayoutsPage() {
  const { data, error } = useQuery({
    queryKey: ['layouts'],
    queryFn: () => call(listLayouts, {}),
  });
  const [address, change] = useAddress();
  if (error)
    return (
      <Page title="Layouts">
        <ErrorNotice error={shapeOf(error)} />
      </Page>
    );
  if (!data) return <Page title="Layouts" answer="Reading …" />;
  const layout = data.find((l) => l.id === address.get('layout')) ?? data[0]!;
  return <Editor key={layout.id} layouts={data} layout={layout} choose={(id) => change({ layout: id })} />;
}

function Editor({
  layouts,
  layout,
  choose,
}: {
  layouts: LayoutView[];
  layout: LayoutView;
  choose: (id: string) => void;
}) {
  const [text, setText] = useState(layout.text);
  const [chosen, setChosen] = useState<FolderPlace | null>(null);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [saved, setSaved] = useState(layout.text);
  const [chooser, setChooser] = useState(false);
  const [applying, setApplying] = useState(false);
  const [version, setVersion] = useState(0);
  const file = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const run = useJob();
  const read = readLayoutText(text);
  const { tree, name, about, problems } = read;
  const attempt = (work: Promise<unknown>) => {
    setProblem(null);
    work.catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  const put = (next: Partial<Pick<typeof read, 'tree' | 'name' | 'about'>>, choice?: LayoutFolder | null) => {
    const whole = { tree, name, about, ...next };
    setText(writeLayout(whole));
    if (choice !== undefined) {
      // Read anew, folders are others than those that were written.
      const place = placeOf(whole.tree, choice);
      setChosen(place);
    }
    if (next.tree && placesOf(next.tree.folders).length !== placesOf(tree.folders).length)
      setVersion((v) => v + 1);
  };
  const folder = chosen === null ? null : folderAt(tree, chosen);
  const wrongName = (n: string) => {
    const [parent, at] = partsOf(chosen ?? '0');
    const siblings = parent === '' ? tree.folders : (folderAt(tree, parent)?.folders ?? []);
    return (
      checkFolderName(n, parent === '')[0] ??
      (siblings.some((s, i) => i !== at && foldName(s.name) === foldName(n))
        ? `“${n}” is there already.`
        : undefined)
    );
  };
  const wrongPrefix = (p: string) =>
    /[<>:"/\\|?*\s]/.test(p) ? 'This cannot stand before a name.' : undefined;
  const canEdit = problems.length === 0 || tree.folders.length === 0;
  const add = (inside: boolean) => {
    const names = new Set(placesOf(tree.folders).map((p) => folderAt(tree, p)!.name));
    let fresh = 'new folder';
    for (let n = 2; names.has(fresh); n++) fresh = `new folder ${n}`;
    const made = newFolder(fresh);
    const [parent, at] =
      chosen === null
        ? ['', tree.folders.length - 1]
        : inside
          ? [chosen, (folder?.folders.length ?? 0) - 1]
          : partsOf(chosen);
    put({ tree: insertFolder(tree, parent, at + 1, made) }, made);
  };
  const takeOut = () => {
    if (chosen === null) return;
    put({ tree: removeFolder(tree, chosen) }, null);
  };
  const say = (more: Partial<LayoutFolder>) => {
    if (chosen === null) return;
    let next = tree;
    // A kind lives in one folder only: it moves here.
    if (more.kinds)
      for (const p of placesOf(tree.folders))
        if (p !== chosen)
          next = changeFolder(next, p, {
            kinds: folderAt(next, p)!.kinds.filter((k) => !more.kinds!.includes(k)),
          });
    put({ tree: changeFolder(next, chosen, more) });
  };
  const keep = () =>
    attempt(
      call(keepLayout, {}, { text, replaces: layout.own ? layout.id : null }).then(async ({ id }) => {
        setSaved(text);
        await client.invalidateQueries();
        choose(id);
      }),
    );
  const read1 = (f: File) =>
    attempt(
      f.text().then(async (content) => {
        const isJson = f.name.endsWith('.json') || content.trimStart().startsWith('{');
        const given = isJson ? (await call(convertLayout, {}, { json: content })).text : content;
        const own = readLayoutText(given);
        setText(own.name === '' ? `:name ${f.name.replace(/\.[^.]*$/, '')}\n${given}` : given);
        setChosen(null);
        setVersion((v) => v + 1);
      }),
    );
  const fileName = (name || 'layout').replace(/[^\w -]+/g, '_');
  const isChanged = text !== saved;
  return (
    <Page
      title="Layouts"
      answer={
        <>
          {problems.length > 0 ? (
            <>
              The text has {count(problems.length, 'line')} that cannot be read; the tree shows what could be.
            </>
          ) : (
            <>
              <strong>{name || 'This layout'}</strong> makes {count(placesOf(tree.folders).length, 'folder')}.{' '}
              {about}
            </>
          )}
        </>
      }
      actions={
        <>
          <Button onPress={() => setApplying(true)} isDisabled={problems.length > 0}>
            <FolderTree size={16} /> Give it to a workspace…
          </Button>
          <MainButton isDisabled={!isChanged || problems.length > 0 || name.trim() === ''} onPress={keep}>
            <Save size={16} /> {layout.own ? 'Save' : 'Save as my own'}
          </MainButton>
        </>
      }
    >
      {problem && <ErrorNotice error={problem} />}
      <Columns>
        <Sheet>
          <Stack>
            <h2>Library</h2>
            <Library aria-label="Layouts">
              {layouts.map((l) => (
                <li key={l.id}>
                  <button type="button" aria-current={l.id === layout.id} onClick={() => choose(l.id)}>
                    <LayoutList size={14} aria-hidden /> {l.name}
                    <br />
                    <Soft style={{ fontSize: 13 }}>{l.own ? 'my own' : 'ships with Loyal Satchel'}</Soft>
                  </button>
                </li>
              ))}
            </Library>
            <Stack $gap={2}>
              <Button onPress={() => file.current?.click()}>
                <Import size={15} /> Import…
              </Button>
              <Button onPress={() => setChooser(true)}>
                <FolderInput size={15} /> From a folder…
              </Button>
              <Button
                isDisabled={problems.length > 0}
                onPress={() => download(`${fileName}.txt`, 'text/plain', text)}
              >
                <Download size={15} /> Export as text
              </Button>
              <Button
                isDisabled={problems.length > 0}
                onPress={() =>
                  attempt(
                    call(convertLayout, {}, { text }).then(({ json }) =>
                      download(`${fileName}.json`, 'application/json', json),
                    ),
                  )
                }
              >
                <Download size={15} /> Export as JSON
              </Button>
              {layout.own && (
                <PlainButton
                  onPress={() =>
                    attempt(
                      call(dropLayout, {}, { id: layout.id }).then(async () => {
                        await client.invalidateQueries();
                        choose('');
                      }),
                    )
                  }
                >
                  <Trash2 size={15} /> Take it out of the library
                </PlainButton>
              )}
            </Stack>
            <input
              ref={file}
              type="file"
              accept=".txt,.json,text/plain,application/json"
              hidden
              aria-label="Layout file"
              onChange={(e) => {
                const [f] = e.target.files ?? [];
                if (f) read1(f);
                e.target.value = '';
              }}
            />
          </Stack>
        </Sheet>
        <Sheet>
          <Stack>
            <Row style={{ alignItems: 'flex-end' }}>
              <DraftField label="Name" value={name} onChange={(n) => canEdit && put({ name: n })} />
              <DraftField label="About" value={about} onChange={(a) => canEdit && put({ about: a })} />
            </Row>
            <Row $wrap>
              <Button isDisabled={!canEdit} onPress={() => add(false)}>
                <FolderPlus size={15} /> Add a folder
              </Button>
              <Button isDisabled={!canEdit || chosen === null} onPress={() => add(true)}>
                Add inside
              </Button>
              <Button isDisabled={!canEdit || chosen === null} onPress={takeOut}>
                <Trash2 size={15} /> Take out
              </Button>
            </Row>
            <LayoutTree
              key={`${version} ${problems.length > 0}`}
              tree={tree}
              chosen={chosen}
              onChoose={setChosen}
              onChange={(t, f) => canEdit && put({ tree: t }, f)}
              onAdd={() => canEdit && add(false)}
              onRemove={() => canEdit && takeOut()}
            />
            <Soft style={{ fontSize: 13 }}>
              Drag to move. Alt + arrows move the chosen folder, Insert adds one, Delete takes it out.
            </Soft>
          </Stack>
        </Sheet>
        <Stack $gap={4}>
          {folder && (
            <Sheet aria-label="The chosen folder">
              <Stack>
                <DraftField
                  key={chosen}
                  label="Folder name"
                  mono
                  value={folder.name}
                  check={wrongName}
                  onChange={(n) => say({ name: n })}
                />
                <div>
                  <strong style={{ fontSize: 13.5 }}>Home of</strong>
                  <Row $wrap $gap={1} role="group" aria-label="Kinds that live here" style={{ marginTop: 4 }}>
                    {fileKinds.map((k) => (
                      <Chip
                        key={k}
                        type="button"
                        aria-pressed={folder.kinds.includes(k)}
                        onClick={() =>
                          say({
                            kinds: folder.kinds.includes(k)
                              ? folder.kinds.filter((x) => x !== k)
                              : fileKinds.filter((x) => x === k || folder.kinds.includes(x)),
                          })
                        }
                      >
                        {k}
                      </Chip>
                    ))}
                  </Row>
                </div>
                <Halves>
                  <Choose
                    label="Its files"
                    value={folder.flow ?? ''}
                    onChange={(v) => say({ flow: v === '' ? null : v })}
                    options={
                      [
                        ['', 'as their kinds tell'],
                        ['input', 'go into the work'],
                        ['output', 'come out of it'],
                      ] as const
                    }
                  />
                  <Choose
                    label="Sorts"
                    value={folder.pin ?? ''}
                    onChange={(v) => say({ pin: v === '' ? null : v })}
                    options={
                      [
                        ['', 'by its name'],
                        ['top', `first, as ${tree.top}${folder.name}`],
                        ['bottom', `last, as ${tree.bottom}${folder.name}`],
                      ] as const
                    }
                  />
                </Halves>
                <Tick checked={folder.keep} onChange={(k) => say({ keep: k })}>
                  Keep it though it is empty <Soft>(a file .keep lies in it)</Soft>
                </Tick>
                {folder.pin !== null && (
                  <Row>
                    <DraftField
                      label="Prefix for the top"
                      mono
                      value={tree.top}
                      check={wrongPrefix}
                      onChange={(t) => put({ tree: { ...tree, top: t } })}
                    />
                    <DraftField
                      label="Prefix for the bottom"
                      mono
                      value={tree.bottom}
                      check={wrongPrefix}
                      onChange={(b) => put({ tree: { ...tree, bottom: b } })}
                    />
                  </Row>
                )}
              </Stack>
            </Sheet>
          )}
          <Sheet>
            <Stack $gap={2}>
              <h2>The same as text</h2>
              <Text
                aria-label="Layout as text"
                value={text}
                onChange={(e) => {
                  setText(e.target.value);
                  setChosen(null);
                  setVersion((v) => v + 1);
                }}
                spellCheck={false}
                aria-invalid={problems.length > 0}
                style={{ fontFamily: font.mono }}
              />
              {problems.length > 0 && (
                <Wrong role="alert">
                  {problems.slice(0, 8).map((p, i) => (
                    <li key={i}>
                      Line {p.line}: {p.message}
                    </li>
                  ))}
                </Wrong>
              )}
            </Stack>
          </Sheet>
        </Stack>
      </Columns>
      {chooser && (
        <FolderChooser
          title="Make a layout of which folder?"
          pick="folder"
          action="Look through it"
          onClose={() => setChooser(false)}
          onChoose={([path]) => {
            setChooser(false);
            attempt(
              run(layoutFromFolder, {}, { path: path! }).then((r) => {
                setText(r.text);
                setChosen(null);
                setVersion((v) => v + 1);
              }),
            );
          }}
        />
      )}
      {applying && <Give text={text} onClose={() => setApplying(false)} />}
    </Page>
  );
}

/** Gives a layout to workspaces that are there: one plan each. */
function Give({ text, onClose }: { text: string; onClose: () => void }) {
  const { data } = useServerState();
  const planOf = usePlanOf();
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const there = (data?.workspaces ?? []).filter((w) => w.there);
  return (
    <Sheet aria-label="Give it to a workspace">
      <Stack>
        <Row>
          <Grow>
            <h2>Which workspace shall be laid out like this?</h2>
          </Grow>
          <Button onPress={onClose}>Close</Button>
        </Row>
        {there.length === 0 && <Notice tone="slate" title="No workspace is known here yet." />}
        {there.map((w) => (
          <Row key={w.id}>
            <Grow>
              <strong>{w.name}</strong> <Soft>{w.root}</Soft>
            </Grow>
            <Button
              aria-label={`Plan it for ${w.name}`}
              onPress={() => {
                setProblem(null);
                planOf(makePlan, { id: w.id }, { kind: 'layout', layout: { text } }, '/layouts').catch(
                  (cause: unknown) => setProblem(shapeOf(cause)),
                );
              }}
            >
              Plan it…
            </Button>
          </Row>
        ))}
        <Soft>
          Homes move with what lives there, new folders are made, empty ones that the layout does not name go.
          Paths in scenes follow. Nothing changes before you have seen the plan.
        </Soft>
        {problem && <ErrorNotice error={problem} />}
      </Stack>
    </Sheet>
  );
}
