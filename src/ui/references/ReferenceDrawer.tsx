'use client';
// One reference in full: what it is, the chain it hangs on, who else uses the file, what to do.

import { readReference } from '@/wire/routes/references';
import { useQuery } from '@tanstack/react-query';
import { Box, Briefcase, CheckCircle2, CircleSlash, LibraryBig } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import type { Base } from '@/wire/views';
import { call, query, shapeOf } from '../kit/api';
import {
  ErrorNotice,
  Grow,
  MainButton,
  Mono,
  Notice,
  PlainButton,
  Row,
  Soft,
  StateMark,
} from '../kit/controls';
import { Drawer, FullPath, Preview } from '../kit/Drawer';
import { ago, bytes, count, exactTime } from '@/core/text/figures';
import { color, font, space } from '../theme/theme';
import { usePlan, useStepHref } from '../kit/work';
import { Candidates, ChooseFile } from './Candidates';

const Stripes = styled.div`
  height: 118px;
  border-radius: 8px;
  background: repeating-linear-gradient(135deg, ${color.stripe} 0 20px, ${color.stripeInk} 20px 40px);
  display: flex;
  align-items: flex-end;
  padding: ${space(2)};
  span {
    background: ${color.stripeInk};
    color: #fffdf8;
    font: 700 13px ${font.mono};
    padding: 2px 8px;
    border-radius: 4px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Chain = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  li {
    position: relative;
    padding: 0 0 ${space(2)} ${space(5)};
    overflow-wrap: anywhere;
  }
  li::before {
    content: '';
    position: absolute;
    left: 1px;
    top: 6px;
    width: 8px;
    height: 8px;
    border: 2px solid ${color.soft};
    border-radius: 50%;
  }
  li:not(:last-child)::after {
    content: '';
    position: absolute;
    left: 5px;
    top: 17px;
    bottom: -4px;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.lineStrong} 0 4px, transparent 4px 7px);
  }
  li.broken {
    color: ${color.brick};
  }
  li.broken::before {
    border-color: ${color.brick};
  }
`;

/** Where the written path leads by one base. */
function BaseLine({ what, base }: { what: string; base: Base }) {
  return (
    <div style={{ marginTop: 4 }}>
      <Row>
        {base.there ? (
          <CheckCircle2 size={14} color={color.greenText} aria-label="found" />
        ) : (
          <CircleSlash size={14} color={color.soft} aria-label="nothing there" />
        )}
        <Soft>{what}</Soft>
      </Row>
      {base.resolves && <Mono style={{ fontSize: 12.5 }}>{base.resolves}</Mono>}
    </div>
  );
}

export function ReferenceDrawer({
  workspace,
  of,
  onClose,
  onMend,
  onSee,
}: {
  workspace: string;
  of: { scene: string; at: string };
  onClose: () => void;
  onMend: () => void;
  onSee?: ((scene: string) => void) | undefined;
}) {
  const { data, error } = useQuery({
    queryKey: ['reference', workspace, of],
    queryFn: () => call(readReference, { id: workspace }, of),
  });
  const r = data?.reference;
  // A set that is there, but not whole.
  const lacks = r?.inside === true && r.gaps.length > 0;
  const [now] = useState(() => Date.now());
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const plan = usePlan();
  const href = useStepHref();
  const attempt = (work: Promise<unknown>) => {
    setProblem(null);
    work.catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  const write = (written: string) =>
    attempt(plan({ kind: 'repath', only: null, change: { how: 'exact', paths: [{ ...of, written }] } }));
  const name = (r?.target ?? r?.written ?? of.at).split(/[\\/]/).pop() ?? '';
  return (
    <Drawer title={name} label="The reference in full" onClose={onClose}>
      {problem && <ErrorNotice error={problem} />}
      {error && <ErrorNotice error={shapeOf(error)} />}
      {r && data && (
        <>
          {r.target === null ? (
            <Stripes role="img" aria-label="Not found">
              <span>{name}</span>
            </Stripes>
          ) : (
            data.preview && (
              <Preview
                key={`${of.scene} ${of.at}`}
                name={name}
                src={`/api/workspaces/${workspace}/preview${query(of)}`}
              />
            )
          )}
          <Row>
            <StateMark state={r.state} odd={r.oddities.length > 0} />
            <Soft>
              {r.kind}
              {r.targets > 1 && ` · ${count(r.targets, 'file')}`}
              {r.size !== null && ` · ${bytes(r.size)}`}
            </Soft>
          </Row>
          {data.facts && <div>{data.facts}</div>}
          {data.disagrees && (
            <Notice tone="amber" title={data.disagrees}>
              Programs that go by the name may refuse it.
            </Notice>
          )}
          <p>{data.advice}</p>
          {r.state !== 'travels' || r.oddities.length > 0
            ? !['missing', 'offline', 'remote', 'library'].includes(r.state) && (
                <Row>
                  <MainButton onPress={onMend}>
                    <Briefcase size={15} />{' '}
                    {r.kind === 'scene' && r.state === 'outside'
                      ? 'Bring it home…'
                      : r.state === 'case'
                        ? 'Match the letters…'
                        : 'Make it travel…'}
                  </MainButton>
                </Row>
              )
            : null}
          {(r.state === 'missing' || lacks) && (
            <Candidates workspace={workspace} of={of} lacks={lacks ? r.gaps[0]! : null} />
          )}
          {(r.state === 'offline' || r.state === 'remote') && <ChooseFile workspace={workspace} of={of} />}
          <div>
            <h2>The chain</h2>
            <Chain>
              {data.chain.map((c) => (
                <li key={c}>{c}</li>
              ))}
              <li className={r.target === null ? 'broken' : ''}>
                <Mono>{r.written}</Mono>
              </li>
              {data.below.references.map((b) => (
                <li
                  key={`${b.scene} ${b.at}`}
                  className={b.state === 'missing' || b.state === 'offline' ? 'broken' : ''}
                  style={{ marginLeft: 14 }}
                >
                  <Link href={href('/references', { scene: b.scene, at: b.at })}>
                    <Mono>{b.written}</Mono>
                  </Link>{' '}
                  <Soft>{b.state}</Soft>
                </li>
              ))}
            </Chain>
            {data.below.of > data.below.references.length && (
              <Soft>and {count(data.below.of - data.below.references.length, 'more')} below it</Soft>
            )}
          </div>
          <div>
            <Row>
              <h2 style={{ flex: 1 }}>Where it is used</h2>
              {onSee && (
                <PlainButton onPress={() => onSee(of.scene)}>
                  <Box size={15} /> See it on the model
                </PlainButton>
              )}
            </Row>
            {r.uses.slice(0, 8).map((u) => (
              <div key={u}>{u}</div>
            ))}
            <Soft style={{ fontSize: 13 }}>{r.at}</Soft>
          </div>
          {data.fullTarget && (
            <div>
              <h2>What it resolves to</h2>
              <FullPath path={data.fullTarget} />
              {r.inside && r.target !== null && r.targets === 1 && (
                <Link
                  href={href('/files', {
                    folder: r.target.slice(0, Math.max(0, r.target.lastIndexOf('/'))),
                    file: r.target,
                  })}
                >
                  Open its folder
                </Link>
              )}
            </div>
          )}
          {data.bases && (
            <div>
              <h2>The two bases</h2>
              <BaseLine what="from the scene’s folder" base={data.bases.scene} />
              <BaseLine what="from the root" base={data.bases.root} />
              {data.bases.disagree && (
                <Notice
                  tone="amber"
                  title={
                    data.bases.scene.there
                      ? 'The two disagree: each leads to another file.'
                      : 'Only from the root something lies there.'
                  }
                >
                  The format measures from the scene’s folder. A program that measures from the root shows
                  another result.
                </Notice>
              )}
            </div>
          )}
          {data.elsewhere.length > 0 && (
            <div>
              <h2>On other machines</h2>
              {data.elsewhere.map((e) => (
                <div key={e.place}>
                  <Soft>
                    {e.place}, here {e.head}
                  </Soft>
                  {e.others.map((o) => (
                    <Row key={o.head} style={{ alignItems: 'flex-start' }}>
                      <Grow>
                        <Mono style={{ fontSize: 12.5 }}>{o.path}</Mono>
                      </Grow>
                      {o.written !== r.written && (
                        <PlainButton aria-label={`Write it as ${o.path}`} onPress={() => write(o.written)}>
                          write it so…
                        </PlainButton>
                      )}
                    </Row>
                  ))}
                </div>
              ))}
            </div>
          )}
          {data.library !== null && (
            <div>
              <h2>Library {data.library}</h2>
              {r.oddities.includes('library-name') ? (
                <PlainButton
                  onPress={() => attempt(plan({ kind: 'repath', only: [of], change: { how: 'absolute' } }))}
                >
                  <LibraryBig size={15} /> Write its path out…
                </PlainButton>
              ) : (
                <PlainButton
                  onPress={() => attempt(plan({ kind: 'repath', only: [of], change: { how: 'library' } }))}
                >
                  <LibraryBig size={15} /> Write it by the library’s name…
                </PlainButton>
              )}
            </div>
          )}
          {data.users.length > 0 && (
            <div>
              <h2>Also used by</h2>
              {data.users.slice(0, 6).map((u) => (
                <div key={`${u.scene}${u.at}`}>{u.scene}</div>
              ))}
              {data.users.length > 6 && <Soft>and {count(data.users.length - 6, 'more place')}</Soft>}
            </div>
          )}
          {data.neighbours.length > 0 && (
            <div>
              <h2>{r.target === null ? 'What lies where it points' : 'Beside it on disk'}</h2>
              {data.neighbours.map((n) => (
                <div key={n}>
                  <Mono>{n}</Mono>
                </div>
              ))}
            </div>
          )}
          {data.history.length > 0 && (
            <div>
              <h2>History</h2>
              {data.history.map((l) => (
                <div key={l.id}>
                  <Link href={href('/ledger', { q: l.title })}>{l.title}</Link>{' '}
                  <Soft title={exactTime(Date.parse(l.time))}>
                    {ago(Date.parse(l.time), now)}
                    {l.state !== 'applied' && `, ${l.state}`}
                  </Soft>
                </div>
              ))}
            </div>
          )}
        </>
      )}
    </Drawer>
  );
}
