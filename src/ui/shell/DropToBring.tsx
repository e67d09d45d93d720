'use client';
// Files and folders dropped anywhere on the window: loose files are brought in, packs go to the holding area; a plan first, as always. What was packed
// elsewhere (a bag, a workspace) arrives instead, on Travel, where a folder or a ZIP of any kind does so too.

import { PackageOpen, X } from '../kit/icons';
import { useCallback, useEffect, useRef, useState } from 'react';
import { usePathname } from 'next/navigation';
import { ProgressBar } from 'react-aria-components';
import styled from 'styled-components';
import { bytes, figure } from '@/core/text/figures';
import { recogniseRoute } from '@/wire/routes/travel';
import { ApiError } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useGo } from '../kit/leaving';
import { useJob, usePlan, useWorkspaceId } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';
import { meaningOf, sendDrop, takeDrop, type Sending } from './dropped';

const Veil = styled.div`
  position: fixed;
  inset: ${space(4)};
  z-index: 30;
  pointer-events: none;
  border: 3px dashed ${color.saddle};
  border-radius: ${radius.tag};
  background: ${color.veil};
  display: flex;
  align-items: center;
  justify-content: center;
  div {
    background: ${color.sheet};
    color: ${color.ink};
    border-radius: ${radius.medium};
    padding: ${space(6)} ${space(8)};
    text-align: center;
    max-width: 460px;
  }
  strong {
    font: 600 21px ${font.title};
    display: block;
    margin: ${space(2)} 0;
  }
`;
const Corner = styled.div`
  position: fixed;
  right: ${space(5)};
  bottom: ${space(5)};
  width: 400px;
  z-index: 25;
  section {
    box-shadow: 0 8px 30px ${color.shadow};
  }
  .bar {
    height: 5px;
    border-radius: 3px;
    background: ${color.line};
    overflow: hidden;
  }
  .fill {
    height: 100%;
    background: ${color.greenText};
  }
  .path {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;

const hasFiles = (e: DragEvent) => [...(e.dataTransfer?.types ?? [])].includes('Files');

export function DropToBring() {
  const workspace = useWorkspaceId();
  const plan = usePlan();
  const run = useJob();
  const go = useGo();
  const isTravel = usePathname() === '/travel';
  const [arrived, setArrived] = useState<{ from: string; isBag: boolean } | null>(null);
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<Sending | null>(null);
  const { attempt, problem, setProblem } = useAttempt();
  const stop = useRef<AbortController | null>(null);
  const depth = useRef(0);
  const arrive = useCallback(
    (from: string) => {
      setArrived(null);
      const at = new URLSearchParams({ ...(workspace ? { w: workspace } : {}), arrived: from });
      go(`/travel?${at}`);
    },
    [go, workspace],
  );
  useEffect(() => {
    const enter = (e: DragEvent) => {
      if (!hasFiles(e)) return;
      depth.current++;
      setOver(true);
    };
    const leave = (e: DragEvent) => {
      if (!hasFiles(e)) return;
      depth.current = Math.max(0, depth.current - 1);
      if (depth.current === 0) setOver(false);
    };
    const hover = (e: DragEvent) => {
      if (hasFiles(e)) e.preventDefault();
    };
    const drop = (e: DragEvent) => {
      if (!hasFiles(e) || !e.dataTransfer) return;
      e.preventDefault();
      depth.current = 0;
      setOver(false);
      setProblem(null);
      setArrived(null);
      const taken = takeDrop(e.dataTransfer);
      stop.current = new AbortController();
      const { signal } = stop.current;
      void attempt(async () => {
        const drop = await taken;
        if (drop.files.length + drop.folders.length === 0)
          throw new ApiError({
            code: 'bad-request',
            message: 'What was dropped holds no file.',
            unchanged: 'Nothing was changed.',
            next: 'Drop files or folders of your disk.',
            details: [],
          });
        const total = drop.files.reduce((s, f) => s + f.file.size, 0);
        setSending({ files: 0, of: drop.files.length, bytes: 0, total, path: drop.files[0]?.path ?? '' });
        if (workspace === null && meaningOf(drop).kind === 'bring')
          throw new ApiError({
            code: 'bad-request',
            message: 'No workspace is open to bring this into.',
            unchanged: 'Nothing was changed.',
            next: 'Open one under Workspaces, then drop it again.',
            details: [],
          });
        const dropped = await sendDrop(drop, setSending, signal);
        setSending(null);
        if (dropped.kind === 'intake') {
          if (isTravel || workspace === null) return arrive(dropped.from);
          const what = await run(recogniseRoute, {}, { path: dropped.from }).catch(() => null);
          if (what && (what.kind === 'bag' || what.isWorkspace))
            return setArrived({ from: dropped.from, isBag: what.kind === 'bag' });
        }
        await plan(dropped);
      }).finally(() => setSending(null));
    };
    const events = [
      ['dragenter', enter],
      ['dragleave', leave],
      ['dragover', hover],
      ['drop', drop],
    ] as const;
    for (const [name, handler] of events) window.addEventListener(name, handler);
    return () => {
      for (const [name, handler] of events) window.removeEventListener(name, handler);
    };
  }, [workspace, plan, attempt, setProblem, isTravel, run, arrive]);
  return (
    <>
      {over && (
        <Veil aria-hidden>
          <div>
            <PackageOpen size={34} />
            <strong>
              {isTravel || workspace === null ? 'Drop to let it arrive' : 'Drop to bring it in'}
            </strong>
            <Soft>
              {isTravel || workspace === null
                ? 'A bag, a ZIP or a folder: it is recognised first; then you say where it shall lie.'
                : 'Files go to the homes of their kinds; folders and ZIP archives to the holding area. You see the plan before anything is copied.'}
            </Soft>
          </div>
        </Veil>
      )}
      {(sending || problem || arrived) && (
        <Corner role="status" aria-label="What was dropped">
          <Sheet>
            <Stack $gap={2}>
              {sending && (
                <ProgressBar
                  aria-label="Taking in what was dropped"
                  value={sending.total > 0 ? (sending.bytes / sending.total) * 100 : 0}
                >
                  {({ percentage }) => (
                    <Stack $gap={2}>
                      <Row>
                        <Grow>
                          <strong>Taking in what was dropped</strong>
                        </Grow>
                        <Button onPress={() => stop.current?.abort()}>Cancel</Button>
                      </Row>
                      <div className="bar">
                        <div className="fill" style={{ width: `${percentage ?? 0}%` }} />
                      </div>
                      <Soft>
                        {figure(sending.files)} of {figure(sending.of)} files · {bytes(sending.bytes)} of{' '}
                        {bytes(sending.total)}
                      </Soft>
                      <div className="path">
                        <Soft>{sending.path}</Soft>
                      </div>
                    </Stack>
                  )}
                </ProgressBar>
              )}
              {arrived && (
                <>
                  <strong>{arrived.isBag ? 'This is a bag.' : 'This is a workspace of its own.'}</strong>
                  <Soft>
                    It can be given a place of its own, checked and with its paths written for here; or its
                    files wait in the holding area of this workspace.
                  </Soft>
                  <Row $wrap>
                    <MainButton onPress={() => arrive(arrived.from)}>Let it arrive…</MainButton>
                    <Button
                      onPress={() => {
                        setArrived(null);
                        void attempt(() => plan({ kind: 'intake', from: arrived.from }));
                      }}
                    >
                      To the holding area…
                    </Button>
                    <Grow />
                    <Button aria-label="Leave it" onPress={() => setArrived(null)}>
                      <X size={15} />
                    </Button>
                  </Row>
                </>
              )}
              {problem && (
                <>
                  <ErrorNotice error={problem} />
                  <Row>
                    <Grow />
                    <Button onPress={() => setProblem(null)}>
                      <X size={15} /> Close
                    </Button>
                  </Row>
                </>
              )}
            </Stack>
          </Sheet>
        </Corner>
      )}
    </>
  );
}
