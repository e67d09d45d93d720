'use client';
// Changes many written paths together: another head, a text or a pattern replaced, relative or absolute; before and after side by side with what
// will then be found. Every state on the way can be returned to; nothing is written until the plan is applied.

import { readReferencesOf, readRows, tryPathsRoute, writtenElsewhere } from '@/wire/routes/references';
import { readSettings } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { CheckCircle2, CircleSlash } from 'lucide-react';
import { useMemo, useState } from 'react';
import styled from 'styled-components';
import { commonHead, patternOf, replaceText } from '@/core/references/heads';
import { count } from '@/core/text/figures';
import { fromKey } from '@/core/references/key';
import type { ErrorShape, RepathChange } from '@/wire/jobs';
import type { ReferenceView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import {
  Button,
  Chip,
  Empty,
  ErrorNotice,
  Grow,
  MainButton,
  Mono,
  Row,
  Sheet,
  Soft,
  Stack,
  TextField,
} from '../kit/controls';
import { Choose, Tick } from '../kit/fields';
import { Page } from '../kit/Page';
import { PathDiff } from '../kit/Path';
import { usePlan } from '../kit/work';
import { color, font, space } from '../theme/theme';

const Columns = styled.div`
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  gap: ${space(4)};
  align-items: start;
`;
const Rows = styled.div`
  max-height: calc(100dvh - 250px);
  overflow: auto;
  outline-offset: -2px;
  .row {
    display: grid;
    grid-template-columns: 110px minmax(0, 1fr);
    gap: ${space(3)};
    padding: ${space(2)} 0;
    border-bottom: 1px solid ${color.line};
  }
  .found {
    color: ${color.greenText};
  }
  .lost {
    color: ${color.brick};
  }
  .mark {
    display: inline-flex;
    gap: 6px;
    align-items: center;
    font-weight: 600;
  }
`;
const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  font: 400 13.5px ${font.mono};
  button {
    border: 1px solid ${color.line};
    background: ${color.sheet};
    color: ${color.ink};
    border-radius: 4px;
    padding: 2px 6px;
    cursor: pointer;
    font: inherit;
  }
  button[aria-pressed='true'] {
    background: ${color.brickTint};
    border-color: ${color.brick};
    text-decoration: line-through;
  }
`;
const History = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  button {
    width: 100%;
    text-align: left;
    border: none;
    background: none;
    color: ${color.ink};
    padding: 4px 6px;
    border-radius: 4px;
    cursor: pointer;
    overflow-wrap: anywhere;
  }
  button[aria-current='true'] {
    background: ${color.greenTint};
    font-weight: 700;
  }
`;

interface State {
  title: string;
  /** Written paths, in the order of the rows. */
  written: readonly string[];
}

const shownAtMost = 200;
const pageSize = 1000;
const mostRows = 20_000;

/** The chosen rows; none chosen, all of a filter. */
async function rowsOf(
  id: string,
  filter: Record<string, string>,
  chosen: ReadonlySet<string>,
): Promise<ReferenceView[]> {
  if (chosen.size > 0)
    return call(
      readReferencesOf,
      { id },
      {
        keys: [...chosen].map((k) => {
          const { scene, at } = fromKey(k);
          return { scene, at };
        }),
      },
    );
  const rows: ReferenceView[] = [];
  for (let offset = 0; offset < mostRows; offset += pageSize) {
    const page = await call(readRows, { id }, { ...filter, offset, limit: pageSize });
    rows.push(...page);
    if (page.length < pageSize) break;
  }
  return rows;
}

export function ChangePaths({
  id,
  filter,
  chosen,
  onClose,
}: {
  id: string;
  filter: Record<string, string>;
  chosen: ReadonlySet<string>;
  onClose: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: ['rows to change', id, filter, [...chosen]],
    staleTime: Infinity,
    queryFn: () => rowsOf(id, filter, chosen),
  });
  if (error)
    return (
      <Page title="Change paths" actions={<Button onPress={onClose}>Back</Button>}>
        <ErrorNotice error={shapeOf(error)} />
      </Page>
    );
  if (!data) return <Page title="Change paths" answer="Reading …" />;
  if (data.length === 0)
    return (
      <Page title="Change paths" actions={<Button onPress={onClose}>Back</Button>}>
        <Empty>No reference is chosen.</Empty>
      </Page>
    );
  return <Change id={id} rows={data} onClose={onClose} />;
}

function Change({ id, rows, onClose }: { id: string; rows: readonly ReferenceView[]; onClose: () => void }) {
  const plan = usePlan();
  const [states, setStates] = useState<State[]>([{ title: 'As it is', written: rows.map((r) => r.written) }]);
  const [at, setAt] = useState(0);
  const [way, setWay] = useState<'head' | 'text'>('head');
  const [headParts, setHeadParts] = useState<number | null>(null);
  const [newHead, setNewHead] = useState('');
  const [find, setFind] = useState('');
  const [replace, setReplace] = useState('');
  const [isPattern, setPattern] = useState(false);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [base, setBase] = useState<'scene' | 'root'>('scene');
  const [nested, setNested] = useState(false);
  const before = states[at]!.written;
  const head = useMemo(() => commonHead(before), [before]);
  const cut = Math.min(headParts ?? head.length, head.length);
  const oldHead = head.slice(0, cut).join('');
  const wrong =
    way === 'text' && isPattern && find !== '' && patternOf(find) === null
      ? 'This pattern cannot be read.'
      : undefined;
  const after = useMemo(
    () =>
      before.map((w) => {
        if (way === 'text')
          return find === '' ? w : (replaceText(w, { find, replace, pattern: isPattern }) ?? w);
        return newHead === '' && cut === 0
          ? w
          : newHead === '' && headParts === null
            ? w
            : newHead + w.slice(oldHead.length);
      }),
    [before, way, find, replace, isPattern, newHead, cut, headParts, oldHead],
  );
  const isChanged = after.some((w, i) => w !== before[i]);
  const changed = rows.map((r, i) => ({ r, i })).filter(({ i }) => after[i] !== rows[i]!.written);
  const shown = (changed.length > 0 ? changed : rows.map((r, i) => ({ r, i }))).slice(0, shownAtMost);
  const asked = shown.map(({ r, i }) => ({ scene: r.scene, written: after[i]! }));
  const { data: found } = useQuery({
    queryKey: ['try', id, asked],
    staleTime: 10_000,
    queryFn: () => call(tryPathsRoute, { id }, { paths: asked }),
  });
  const lost = found?.filter((f) => f.state === 'missing').length ?? 0;
  const keep = (title: string, written: readonly string[]) => {
    setStates([...states.slice(0, at + 1), { title, written }]);
    setAt(at + 1);
    setHeadParts(null);
    setNewHead('');
    setFind('');
    setReplace('');
  };
  const attempt = (work: Promise<unknown>) => {
    setProblem(null);
    work.catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  const apply = () =>
    attempt(
      plan({
        kind: 'repath',
        only: null,
        change: {
          how: 'exact',
          paths: changed.map(({ r, i }) => ({ scene: r.scene, at: r.at, written: after[i]! })),
        },
      }),
    );
  const all = rows.map((r) => ({ scene: r.scene, at: r.at }));
  const { data: settings } = useQuery({
    queryKey: ['settings', id],
    staleTime: 60_000,
    queryFn: () => call(readSettings, { id }),
  });
  const write = (change: RepathChange) => attempt(plan({ kind: 'repath', only: all, nested, change }));
  /** The paths as another machine has them: every other head of the place by this one. */
  const asElsewhere = (place: string, head: string) =>
    attempt(
      call(
        writtenElsewhere,
        { id },
        {
          place,
          head,
          paths: rows.map((r, i) => ({ scene: r.scene, written: before[i]! })),
        },
      ).then((written) => keep(`as under ${head}`, written)),
    );
  const answer =
    changed.length === 0 ? (
      <>{count(rows.length, 'path')} chosen. Nothing is written before you have seen the plan.</>
    ) : (
      <>
        <strong>
          {count(changed.length, 'path')} of {rows.length} would change
        </strong>
        {found && (
          <>
            ; {lost === 0 ? 'all that are shown would be found' : `${lost} of those shown would not be found`}
          </>
        )}
        .
      </>
    );
  return (
    <Page
      title="Change paths"
      answer={answer}
      actions={
        <>
          <Button onPress={onClose}>Leave, change nothing</Button>
          <MainButton isDisabled={changed.length === 0 || wrong !== undefined} onPress={apply}>
            Plan {changed.length > 0 ? count(changed.length, 'change') : 'it'}…
          </MainButton>
        </>
      }
    >
      {problem && <ErrorNotice error={problem} />}
      <Columns>
        <Stack $gap={4}>
          <Sheet>
            <Stack>
              <Row role="group" aria-label="How">
                <Chip type="button" aria-pressed={way === 'head'} onClick={() => setWay('head')}>
                  Another head
                </Chip>
                <Chip type="button" aria-pressed={way === 'text'} onClick={() => setWay('text')}>
                  Replace text
                </Chip>
              </Row>
              {way === 'head' ? (
                <>
                  <div>
                    <strong style={{ fontSize: 13.5 }}>What they share</strong>
                    <br />
                    <Soft style={{ fontSize: 13 }}>Struck parts go; choose where the rest begins.</Soft>
                  </div>
                  {head.length === 0 ? (
                    <Soft>These paths begin differently: what is typed below is put before them.</Soft>
                  ) : (
                    <Head role="group" aria-label="Parts of the common head">
                      {head.map((p, i) => (
                        <button
                          key={i}
                          type="button"
                          aria-pressed={i < cut}
                          onClick={() => setHeadParts(i < cut ? i : i + 1)}
                        >
                          {p}
                        </button>
                      ))}
                    </Head>
                  )}
                  <TextField
                    label="New head"
                    mono
                    value={newHead}
                    onChange={setNewHead}
                    placeholder="../textures/"
                  />
                </>
              ) : (
                <>
                  <TextField label="Find" mono value={find} onChange={setFind} error={wrong} />
                  <TextField label="Replace by" mono value={replace} onChange={setReplace} />
                  <Tick checked={isPattern} onChange={setPattern}>
                    It is a pattern <Soft>($1 is its first group)</Soft>
                  </Tick>
                </>
              )}
              <Row>
                <Grow />
                <Button
                  isDisabled={!isChanged || wrong !== undefined}
                  onPress={() =>
                    keep(
                      way === 'head'
                        ? `${oldHead || 'nothing'} → ${newHead || 'nothing'}`
                        : `${find} → ${replace || 'nothing'}`,
                      after,
                    )
                  }
                >
                  Keep this step
                </Button>
              </Row>
            </Stack>
          </Sheet>
          <Sheet aria-label="States">
            <Stack $gap={2}>
              <h2>States on the way</h2>
              <History>
                {states.map((s, i) => (
                  <li key={i}>
                    <button
                      type="button"
                      aria-current={i === at}
                      onClick={() => {
                        setAt(i);
                        setHeadParts(null);
                        setNewHead('');
                        setFind('');
                        setReplace('');
                      }}
                    >
                      {s.title}
                    </button>
                  </li>
                ))}
              </History>
            </Stack>
          </Sheet>
          <Sheet aria-label="Relative or absolute">
            <Stack $gap={2}>
              <h2>Or write all of them</h2>
              <Row $wrap>
                <Button onPress={() => write({ how: 'relative', base })}>relative…</Button>
                <Button onPress={() => write({ how: 'absolute' })}>absolute…</Button>
                {(settings?.libraries.length ?? 0) > 0 && (
                  <Button onPress={() => write({ how: 'library' })}>by library name…</Button>
                )}
              </Row>
              <Choose
                label="Relative paths are measured from"
                value={base}
                onChange={setBase}
                options={
                  [
                    ['scene', 'the scene’s own folder, as formats do'],
                    ['root', 'the root, as some programs do'],
                  ] as const
                }
              />
              <Tick checked={nested} onChange={setNested}>
                with all scenes that these lead to
              </Tick>
              <Soft style={{ fontSize: 13 }}>
                Only what is found is rewritten. A library’s name is read by Loyal Satchel alone: write it
                out, by <em>absolute</em>, before a program opens the scene.
              </Soft>
            </Stack>
          </Sheet>
          {(settings?.places.some((p) => p.heads.length > 1) ?? false) && (
            <Sheet aria-label="As another machine has them">
              <Stack $gap={2}>
                <h2>As another machine has them</h2>
                {settings!.places
                  .filter((p) => p.heads.length > 1)
                  .map((p) => (
                    <div key={p.name}>
                      <Soft>{p.name}</Soft>
                      <Row $wrap>
                        {p.heads.map((h) => (
                          <Chip key={h} type="button" onClick={() => asElsewhere(p.name, h)}>
                            <Mono style={{ fontSize: 12.5 }}>{h}</Mono>
                          </Chip>
                        ))}
                      </Row>
                    </div>
                  ))}
              </Stack>
            </Sheet>
          )}
        </Stack>
        <Sheet aria-label="Before and after">
          <Rows tabIndex={0} role="group" aria-label="Paths before and after">
            {shown.map(({ r, i }, n) => {
              const state = found?.[n]?.state;
              return (
                <div className="row" key={`${r.scene} ${r.at}`}>
                  {state === undefined ? (
                    <Soft>…</Soft>
                  ) : state === 'missing' || state === 'offline' ? (
                    <span className="mark lost">
                      <CircleSlash size={14} aria-hidden />
                      {state}
                    </span>
                  ) : (
                    <span className="mark found">
                      <CheckCircle2 size={14} aria-hidden />
                      {state}
                    </span>
                  )}
                  <div style={{ minWidth: 0 }}>
                    <PathDiff before={r.written} after={after[i]!} />
                    <Soft style={{ fontSize: 13 }}>{r.scene}</Soft>
                  </div>
                </div>
              );
            })}
          </Rows>
          {changed.length > shownAtMost && (
            <Soft>… and {count(changed.length - shownAtMost, 'more path')}</Soft>
          )}
        </Sheet>
      </Columns>
    </Page>
  );
}
