'use client';
// Overview: would it open, complete, on the other machine? If not, what holds it back, and the one step that mends most.

import { scanWorkspace } from '@/wire/routes/workspaces';
import { Briefcase, HardDrive, History, RefreshCw, Route } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import type { OverviewView, ReferenceView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import {
  Button,
  Empty,
  ErrorNotice,
  MainButton,
  Notice,
  PlainButton,
  Row,
  Sheet,
  Soft,
  Stack,
  StateMark,
} from '../kit/controls';
import { ago, bytes, count, exactBytes, exactTime, inWords } from '@/core/text/figures';
import { Needs, Page } from '../kit/Page';
import { Path } from '../kit/Path';
import { useOverview, usePlan, useStepHref, useWorkspaceId } from '../kit/work';
import { color, font, space } from '../theme/theme';

const Cards = styled.div`
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: ${space(4)};
  .big {
    font: 600 20px/1.3 ${font.title};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1.55fr) minmax(0, 1fr);
  gap: ${space(4)};
  align-items: start;
  flex: 1;
  @media (max-width: 1120px) {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Line = styled.div`
  display: grid;
  grid-template-columns: 92px minmax(0, 2fr) minmax(124px, 1fr) 100px;
  gap: ${space(3)};
  align-items: center;
  min-height: 33px;
  border-bottom: 1px solid ${color.line};
  > :last-child {
    justify-self: end;
  }
  .scene {
    color: ${color.soft};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Day = styled.ol`
  list-style: none;
  margin: ${space(2)} 0 0;
  padding: 0;
  position: relative;
  li {
    position: relative;
    padding: 0 0 ${space(3)} ${space(6)};
    display: grid;
    grid-template-columns: 92px 1fr;
    gap: ${space(2)};
  }
  li::before {
    content: '';
    position: absolute;
    left: 2px;
    top: 5px;
    width: 10px;
    height: 10px;
    border: 2px solid ${color.soft};
    border-radius: 50%;
    background: ${color.sheet};
    z-index: 1;
  }
  li:not(:last-child)::after {
    content: '';
    position: absolute;
    left: 6.5px;
    top: 17px;
    bottom: -3px;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.line} 0 6px, transparent 6px 10px);
  }
  time {
    color: ${color.soft};
    font-size: 13px;
  }
  .undone {
    text-decoration: line-through;
    color: ${color.soft};
  }
`;

const stateWords: Record<string, (n: number) => string> = {
  missing: (n) => `${inWords(n)} ${n === 1 ? 'is' : 'are'} missing`,
  outside: (n) => `${inWords(n)} ${n === 1 ? 'lies' : 'lie'} outside`,
  case: (n) => `${inWords(n)} ${n === 1 ? 'differs' : 'differ'} in letter case`,
  absolute: (n) => `${inWords(n)} ${n === 1 ? 'is' : 'are'} absolute`,
  offline: (n) => `${inWords(n)} ${n === 1 ? 'is' : 'are'} offline`,
  library: (n) => `${inWords(n)} ${n === 1 ? 'lies' : 'lie'} in a library, which travels apart`,
  remote: (n) => `${inWords(n)} ${n === 1 ? 'needs' : 'need'} the network`,
};

/** What keeps references from travelling, as one sentence. */
export function whatHoldsBack(byState: Record<string, number>, odd: number, gapped: number): string {
  const parts = ['outside', 'missing', 'case', 'absolute', 'offline', 'remote', 'library']
    .filter((s) => byState[s])
    .map((s) => stateWords[s]!(byState[s]!));
  if (gapped > 0) parts.push(`${inWords(gapped)} ${gapped === 1 ? 'has' : 'have'} holes`);
  if (odd > 0) parts.push(`${inWords(odd)} ${odd === 1 ? 'is' : 'are'} oddly spelt`);
  const all = parts.length > 1 ? `${parts.slice(0, -1).join(', ')}, ${parts.at(-1)}` : (parts[0] ?? '');
  return all === '' ? '' : `${all[0]!.toUpperCase()}${all.slice(1)}.`;
}

function titleOf(d: OverviewView): string {
  if (d.references === 0) return d.scanned === null ? 'Reading the workspace' : 'Nothing referenced yet';
  const part = d.ready / d.references;
  return part === 1 ? 'Ready to travel' : part > 0.7 ? 'Almost ready to travel' : 'Not ready to travel yet';
}

export function OverviewPage() {
  const result = useOverview();
  return (
    <Needs title="Overview" result={result}>
      {(d) => <Overview d={d} />}
    </Needs>
  );
}

function Overview({ d }: { d: OverviewView }) {
  const href = useStepHref();
  const plan = usePlan();
  const id = useWorkspaceId();
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [now] = useState(() => Date.now());
  const lost = d.references - d.ready;
  const last = d.found?.lastVersion ?? null;
  const attempt = (work: Promise<unknown>) => void work.catch((cause: unknown) => setProblem(shapeOf(cause)));
  const answer =
    d.references === 0 ? (
      d.scanned === null ? (
        'One moment: the scenes are being read.'
      ) : (
        'There is no scene with references in this workspace yet. Bring one in: everything it needs comes along.'
      )
    ) : lost === 0 ? (
      <>
        All <strong>{d.references.toLocaleString('en')}</strong> references in {count(d.scenes, 'file')} would
        open on another machine.
      </>
    ) : (
      <>
        <strong>
          {d.ready.toLocaleString('en')} of {d.references.toLocaleString('en')}
        </strong>{' '}
        references would open in a copy of this folder on another machine.{' '}
        {whatHoldsBack(d.byState, d.odd, d.gapped)}
        {d.withLibraries > d.ready &&
          ` With its libraries there, ${d.withLibraries.toLocaleString('en')} would.`}
      </>
    );
  return (
    <Page
      title={titleOf(d)}
      answer={answer}
      actions={
        <>
          <Button onPress={() => attempt(call(scanWorkspace, { id }))}>
            <RefreshCw size={15} /> Read again
          </Button>
          {d.references === 0 ? (
            <Link href={href('/files')} style={{ alignSelf: 'center' }}>
              Bring a scene in
            </Link>
          ) : lost > 0 ? (
            <MainButton onPress={() => attempt(plan({ kind: 'travel', only: null }))}>
              <Briefcase size={16} /> Make them travel…
            </MainButton>
          ) : (
            <Link href={href('/travel')} style={{ alignSelf: 'center' }}>
              Pack a bag
            </Link>
          )}
        </>
      }
    >
      {problem && <ErrorNotice error={problem} />}
      <Cards>
        <Sheet>
          <h2>
            <Row>
              <History size={15} aria-hidden /> Last version
            </Row>
          </h2>
          <div className="big" title={last?.path}>
            {last ? last.path.split('/').pop() : 'none yet'}
          </div>
          <Soft>
            {last ? (
              <>
                <span title={exactTime(last.modified)}>{ago(last.modified, now)}</span>
                {last.note && ` · “${last.note}”`}
              </>
            ) : (
              'A saved version is the way back.'
            )}
          </Soft>
          {last && (
            <div style={{ marginTop: 8 }}>
              <Link href={href('/versions', { scene: last.path })}>Save the next version</Link>
            </div>
          )}
        </Sheet>
        <Sheet>
          <h2>
            <Row>
              <Route size={15} aria-hidden /> References
            </Row>
          </h2>
          <div className="big">
            {d.references === 0
              ? 'none'
              : `${d.ready.toLocaleString('en')} of ${d.references.toLocaleString('en')}`}
          </div>
          <Soft>
            {d.scanned ? (
              <span title={exactTime(d.scanned)}>
                {count(d.scenes, 'scene file')}, read {ago(d.scanned, now)}
              </span>
            ) : (
              'being read'
            )}
          </Soft>
          {d.references > 0 && (
            <div style={{ marginTop: 8 }}>
              <Link href={href('/references')}>See all of them</Link>
            </div>
          )}
        </Sheet>
        <Sheet>
          <h2>
            <Row>
              <HardDrive size={15} aria-hidden /> On disk
            </Row>
          </h2>
          <div className="big" title={exactBytes(d.found?.bytes ?? null)}>
            {d.found ? `${bytes(d.found.bytes)} in ${count(d.found.files, 'file')}` : 'being counted'}
          </div>
          <Soft>
            {[
              ...(d.found?.largest ?? []).map((f) => `${f.folder || 'root'} ${bytes(f.bytes)}`),
              `${bytes(d.free)} free`,
            ].join(' · ')}
          </Soft>
          <div style={{ marginTop: 8 }}>
            <Link href={href('/files')}>Look at the files</Link>
          </div>
        </Sheet>
      </Cards>
      <Columns>
        <Sheet aria-label="What holds it back">
          <h2>What holds it back</h2>
          {d.attention.length === 0 ? (
            <div style={{ marginTop: 12 }}>
              {d.references > 0 ? (
                <Notice tone="green" title="Nothing.">
                  Every reference is found inside the root, by a relative path, in the right letters.
                </Notice>
              ) : (
                <Empty>Problems of references show here, worst first.</Empty>
              )}
            </div>
          ) : (
            d.attention.map((r) => (
              <Held
                key={`${r.scene}${r.at}`}
                r={r}
                onPlan={(only) => attempt(plan({ kind: 'travel', only }))}
                href={href}
              />
            ))
          )}
          {lost > d.attention.length && (
            <p style={{ marginTop: 10 }}>
              <Link href={href('/references')}>{lost - d.attention.length} more in References</Link>
            </p>
          )}
          {d.problems.length > 0 && (
            <details style={{ marginTop: 12 }}>
              <summary>{count(d.problems.length, 'note')} about the files themselves</summary>
              <ul>
                {d.problems.slice(0, 50).map((p, i) => (
                  <li key={i}>
                    <Soft>{p.scene}:</Soft> {p.message}
                  </li>
                ))}
              </ul>
            </details>
          )}
        </Sheet>
        <Sheet aria-label="Ledger">
          <Row>
            <h2 style={{ flex: 1 }}>What was done</h2>
            {d.ledger.length > 0 && <Link href={href('/ledger')}>All of the ledger</Link>}
          </Row>
          {d.ledger.length === 0 ? (
            <Soft>Every applied plan stands here, with its undo.</Soft>
          ) : (
            <Day>
              {d.ledger.slice(0, 8).map((e) => (
                <li key={e.id}>
                  <time title={exactTime(Date.parse(e.time))} dateTime={e.time}>
                    {ago(Date.parse(e.time), now)}
                  </time>
                  <span>
                    <span className={e.state === 'applied' ? '' : 'undone'}>{e.title}</span>
                    {e.state === 'applied' ? (
                      <>
                        {' '}
                        ·{' '}
                        <PlainButton
                          aria-label={`Undo: ${e.title}`}
                          onPress={() => attempt(plan({ kind: 'undo', id: e.id }))}
                        >
                          undo
                        </PlainButton>
                      </>
                    ) : (
                      <Soft> {e.state}</Soft>
                    )}
                    {e.left.length > 0 && (
                      <Stack>
                        <Soft>left as it was found: {e.left.join(', ')}</Soft>
                      </Stack>
                    )}
                  </span>
                </li>
              ))}
            </Day>
          )}
        </Sheet>
      </Columns>
    </Page>
  );
}

const fixWords: Record<string, string> = {
  outside: 'File it',
  case: 'Match letters',
  absolute: 'Make relative',
  missing: 'Look for it',
  travels: 'Spell it right',
};

function Held({
  r,
  onPlan,
  href,
}: {
  r: ReferenceView;
  onPlan: (only: { scene: string; at: string }[]) => void;
  href: (step: string, more?: Record<string, string>) => string;
}) {
  const fixable = r.state !== 'offline' && r.state !== 'remote';
  return (
    <Line>
      <StateMark state={r.state} odd={r.oddities.length > 0} />
      <Path path={r.written} />
      <span className="scene" title={r.scene}>
        {r.scene.split('/').pop()}
      </span>
      {fixable ? (
        <PlainButton onPress={() => onPlan([{ scene: r.scene, at: r.at }])}>
          {fixWords[r.state] ?? 'Mend it'}
        </PlainButton>
      ) : (
        <Link href={href('/references', { scene: r.scene, at: r.at })}>See it</Link>
      )}
    </Line>
  );
}
