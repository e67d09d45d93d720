'use client';
// Shows any plan: what will happen in one sentence, before and after, what is left as it is, what it does to readiness and disk.

import { applyPlanRoute, readPlan } from '@/wire/routes/plans';
import { useQuery } from '@tanstack/react-query';
import { AlertTriangle, ArrowRight, ShieldCheck } from 'lucide-react';
import { useParams, useRouter } from 'next/navigation';
import { Fragment, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import type { PlanView } from '@/wire/views';
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
} from '../kit/controls';
import { bytes, count, exactBytes } from '@/core/text/figures';
import { Page } from '../kit/Page';
import { Path, PathDiff } from '../kit/Path';
import { useAddress, useJob, useStepHref } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: ${space(4)};
  align-items: start;
  flex: 1;
`;
const Group = styled.div`
  margin-top: ${space(3)};
  .edge {
    border-left: 2px dashed ${color.line};
    padding-left: ${space(3)};
    margin-left: 1px;
    display: flex;
    flex-direction: column;
    gap: ${space(2)};
  }
`;
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
  th {
    text-align: left;
    font-weight: 600;
    color: ${color.soft};
    font-size: 13.5px;
    border-bottom: 1px solid ${color.line};
    padding: 4px 8px 4px 0;
  }
  td {
    border-bottom: 1px solid ${color.line};
    padding: 5px 8px 5px 0;
    overflow: hidden;
  }
  th:last-child,
  td:last-child {
    text-align: right;
    width: 76px;
    padding-right: 0;
    font-variant-numeric: tabular-nums;
  }
`;
const Figures = styled.div`
  display: flex;
  gap: ${space(8)};
  flex-wrap: wrap;
  .value {
    font: 600 19px ${font.title};
  }
  .label {
    color: ${color.soft};
    font-weight: 600;
    font-size: 13.5px;
  }
`;
const Bar = styled.div`
  position: sticky;
  bottom: 0;
  display: flex;
  align-items: center;
  gap: ${space(3)};
  background: ${color.raised};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  padding: ${space(3)} ${space(4)};
  margin-top: auto;
`;

const shownAtMost = 300;

/** What will happen, in one sentence. */
export function sentenceOf(p: PlanView): ReactNode {
  const size = p.copies.reduce((s, c) => s + c.size, 0);
  const scenes = new Set(p.paths.map((c) => c.scene)).size;
  const parts: ReactNode[] = [];
  if (p.kind === 'undo') {
    if (p.removes.length > 0)
      parts.push(
        <>
          takes <strong>{count(p.removes.length, 'file or folder', 'files and folders')}</strong> out again
        </>,
      );
    if (p.writes.length + p.copies.length > 0)
      parts.push(
        <>
          brings <strong>{count(p.writes.length + p.copies.length, 'file')}</strong> back to the same bytes as
          before
        </>,
      );
  } else {
    if (p.moves.length > 0)
      parts.push(
        <>
          moves <strong>{count(p.moves.length, 'file or folder', 'files and folders')}</strong>
        </>,
      );
    if (p.removes.length > 0 && p.moves.length === 0)
      parts.push(
        <>
          takes <strong>{count(p.removes.length, 'file or folder', 'files and folders')}</strong> out
        </>,
      );
    if (p.copies.length > 0)
      parts.push(
        <>
          copies{' '}
          <strong>
            {count(p.copies.length, 'file')} ({bytes(size)})
          </strong>
          {p.kind === 'bring' || p.kind === 'travel' ? ' into their homes' : ''}
        </>,
      );
    if (p.paths.length > 0)
      parts.push(
        <>
          changes{' '}
          <strong>
            {count(p.paths.length, 'path')} in {count(scenes, 'scene file')}
          </strong>
        </>,
      );
    if (
      p.copies.length === 0 &&
      p.paths.length === 0 &&
      p.moves.length === 0 &&
      p.writes.length + p.folders.length > 0
    )
      parts.push(
        <>
          makes{' '}
          <strong>{count(p.writes.length + p.folders.length, 'file or folder', 'files and folders')}</strong>
        </>,
      );
  }
  if (parts.length === 0) return 'There is nothing to do.';
  return (
    <>
      It{' '}
      {parts.map((part, i) => (
        <Fragment key={i}>
          {i > 0 && ' and '}
          {part}
        </Fragment>
      ))}
      . {p.paths.length > 0 && 'Nothing else in the scenes changes, to the byte. '}
      {p.copies.length > 0 && 'Sources stay where they are.'}
    </>
  );
}

const MovedFrame = styled.div`
  padding: 3px 0;
  border-bottom: 1px solid ${color.line};
  .from {
    color: ${color.soft};
  }
`;

/** Where something was and will be. */
function Moved({ from, to }: { from: string; to: string }) {
  return (
    <MovedFrame>
      <div className="from">
        <Path path={from} strong={false} />
      </div>
      <Row>
        <ArrowRight size={14} aria-label="to" style={{ flex: 'none' }} />
        <Path path={to} />
      </Row>
    </MovedFrame>
  );
}

export function ReviewPage() {
  const { id } = useParams<{ id: string }>();
  const [address] = useAddress();
  const router = useRouter();
  const href = useStepHref();
  const run = useJob();
  const [working, setWorking] = useState(false);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const { data: p, error } = useQuery({
    queryKey: ['plan', id],
    staleTime: Infinity,
    refetchOnWindowFocus: false,
    retry: false,
    queryFn: () => call(readPlan, { plan: id }),
  });
  const backTo = address.get('back');
  const back = () =>
    router.push(backTo?.startsWith('/') && !backTo.startsWith('//') ? backTo : href('/overview'));
  if (error && !working)
    return (
      <Page title="Plan" actions={<Button onPress={back}>Back</Button>}>
        <ErrorNotice error={problem ?? shapeOf(error)} />
      </Page>
    );
  if (!p) return <Page title="Plan" answer="Reading …" />;
  const nothing =
    p.copies.length + p.writes.length + p.folders.length + p.removes.length + p.moves.length === 0;
  const blocked = p.notes.filter((n) => n.level === 'blocker');
  const left = p.notes.filter((n) => n.level === 'warning');
  const told = p.notes.filter((n) => n.level === 'info');
  const byScene = new Map<string, PlanView['paths'][number][]>();
  for (const c of p.paths) byScene.set(c.scene, [...(byScene.get(c.scene) ?? []), c]);
  const apply = async () => {
    setWorking(true);
    setProblem(null);
    try {
      const result = await run(applyPlanRoute, { plan: id });
      if (result.workspace) router.push(`/overview?w=${result.workspace}`);
      else if (result.gone) router.push('/');
      else back();
    } catch (cause) {
      setProblem(shapeOf(cause));
    } finally {
      setWorking(false);
    }
  };
  let shown = 0;
  return (
    <Page title={p.title} kicker={<h2>Plan · not applied yet</h2>} answer={sentenceOf(p)}>
      {problem && <ErrorNotice error={problem} />}
      {blocked.length > 0 && (
        <Notice tone="brick" title="This plan cannot be applied.">
          <ul>
            {blocked.map((n, i) => (
              <li key={i}>{n.message}</li>
            ))}
          </ul>
        </Notice>
      )}
      <Columns>
        <Sheet aria-label="Paths, before and after">
          <h2>Paths, before and after</h2>
          {p.paths.length === 0 && (
            <Soft>
              {p.moves.length > 0
                ? 'No path needs to change: what belongs together moves together.'
                : 'No path changes.'}
            </Soft>
          )}
          {[...byScene].map(([scene, changes]) =>
            shown > shownAtMost ? null : (
              <Group key={scene}>
                <div style={{ marginBottom: 6 }}>
                  <strong>{scene.split('/').pop()}</strong> <Soft>· {count(changes.length, 'path')}</Soft>
                </div>
                <div className="edge">
                  {changes.map((c) =>
                    shown++ > shownAtMost ? null : <PathDiff key={c.at} before={c.before} after={c.after} />,
                  )}
                </div>
              </Group>
            ),
          )}
          {p.paths.length > shownAtMost && (
            <p>
              <Soft>… and {count(p.paths.length - shownAtMost, 'more path')}</Soft>
            </p>
          )}
        </Sheet>
        <Stack $gap={4}>
          {p.copies.length > 0 && (
            <Sheet aria-label="Files to copy">
              <h2>Files to copy</h2>
              <Table>
                <thead>
                  <tr>
                    <th>From</th>
                    <th>To</th>
                    <th>Size</th>
                  </tr>
                </thead>
                <tbody>
                  {p.copies.slice(0, shownAtMost).map((c) => (
                    <tr key={c.to}>
                      <td>
                        <Path path={c.from} />
                      </td>
                      <td>
                        <Path path={c.to} strong={false} />
                      </td>
                      <td title={exactBytes(c.size)}>{bytes(c.size)}</td>
                    </tr>
                  ))}
                </tbody>
              </Table>
              {p.copies.length > shownAtMost && (
                <Soft>… and {count(p.copies.length - shownAtMost, 'more file')}</Soft>
              )}
            </Sheet>
          )}
          {(p.writes.length > 0 || p.folders.length > 0 || p.removes.length > 0 || p.moves.length > 0) && (
            <Sheet aria-label="Also">
              <h2>Files touched</h2>
              {p.writes.slice(0, 60).map((w) => (
                <div key={w.path}>
                  <Soft>{w.replaces ? 'change' : 'make'}</Soft> <Mono>{w.path}</Mono>
                </div>
              ))}
              {p.moves.slice(0, shownAtMost).map((m) => (
                <Moved key={m.from} from={m.from} to={m.to} />
              ))}
              {p.moves.length > shownAtMost && (
                <Soft>… and {count(p.moves.length - shownAtMost, 'more move')}</Soft>
              )}
              {p.removes.slice(0, 60).map((r) => (
                <div key={r}>
                  <Soft>take out</Soft> <Mono>{r}</Mono>
                </div>
              ))}
              {p.folders.slice(0, 60).map((f) => (
                <div key={f}>
                  <Soft>folder</Soft> <Mono>{f}/</Mono>
                </div>
              ))}
            </Sheet>
          )}
          {left.length > 0 && (
            <Notice tone="amber" title={`Left as it is: ${left.length}`}>
              <ul style={{ margin: '4px 0 0', paddingLeft: 18 }}>
                {left.slice(0, 40).map((n, i) => (
                  <li key={i} style={{ overflowWrap: 'anywhere' }}>
                    {n.message}
                  </li>
                ))}
              </ul>
            </Notice>
          )}
          {told.length > 0 && (
            <Notice tone="slate" title="Good to know">
              <ul style={{ margin: '4px 0 0', paddingLeft: 18 }}>
                {told.slice(0, 40).map((n, i) => (
                  <li key={i} style={{ overflowWrap: 'anywhere' }}>
                    {n.message}
                  </li>
                ))}
              </ul>
            </Notice>
          )}
          <Sheet>
            <Figures>
              {p.readiness && (
                <div>
                  <div className="label">Opens elsewhere</div>
                  <div className="value">
                    {p.readiness.before} <ArrowRight size={15} aria-label="then" /> {p.readiness.after}{' '}
                    <Soft style={{ font: `400 14px ${font.text}` }}>of {p.readiness.of}</Soft>
                  </div>
                </div>
              )}
              <div>
                <div className="label">{p.grows < 0 ? 'Workspace shrinks by' : 'Workspace grows by'}</div>
                <div className="value" title={exactBytes(Math.abs(p.grows))}>
                  {bytes(Math.abs(p.grows))}
                </div>
              </div>
              <div>
                <div className="label">Free here</div>
                <div className="value">{bytes(p.free)}</div>
              </div>
            </Figures>
          </Sheet>
        </Stack>
      </Columns>
      <Bar>
        {blocked.length > 0 ? <AlertTriangle size={16} aria-hidden /> : <ShieldCheck size={16} aria-hidden />}
        <Grow>
          <Soft>Every file is checked before and after. Undo brings back the same bytes.</Soft>
        </Grow>
        <Row>
          <Button onPress={back}>Back, change nothing</Button>
          <MainButton
            autoFocus
            isDisabled={nothing || blocked.length > 0 || working}
            onPress={() => void apply()}
          >
            {working ? 'Applying …' : 'Apply the plan'}
          </MainButton>
        </Row>
      </Bar>
    </Page>
  );
}
