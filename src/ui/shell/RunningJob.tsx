'use client';
// The work under way, in the top of the window: how far it is, how long it will take, and its cancel.

import { cancelJob } from '@/wire/routes/state';
import { X } from '../kit/icons';
import { useEffect, useState } from 'react';
import { ProgressBar } from 'react-aria-components';
import styled from 'styled-components';
import { bytes, figure, timeLeft } from '@/core/text/figures';
import type { JobView } from '@/wire/jobs';
import { call } from '../kit/api';
import { IconButton } from '../kit/buttons';
import { Soft } from '../kit/layout';
import { color, space } from '../theme/theme';

const JobFrame = styled.div`
  display: flex;
  align-items: center;
  gap: ${space(2)};
  min-width: 200px;
  max-width: 320px;
  flex: 0 1 300px;
  font-size: 13px;
  .bar {
    height: 4px;
    border-radius: 2px;
    background: ${color.line};
    overflow: hidden;
  }
  .fill {
    height: 100%;
    background: ${color.greenText};
  }
  .text {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;

/** What its line says: what it waits for, or how far it is and how long it will take. */
function detailOf(job: JobView, now: number): string {
  const p = job.progress;
  if (job.ending)
    return job.work === 'apply' ? 'cancelled: what was done is being put back' : 'being cancelled';
  if (p === null) return 'starting';
  if (job.state === 'waiting') return p.path;
  const [done, total] = amountOf(job);
  const seconds = Math.max(1, (now - job.started) / 1000);
  return [
    `${figure(p.files)}${p.filesTotal ? ` of ${figure(p.filesTotal)}` : ''} files`,
    p.bytes > 0 ? `${bytes(p.bytes)} · ${bytes(p.bytes / seconds)}/s` : '',
    timeLeft(done, total, now - job.started),
  ]
    .filter(Boolean)
    .join(' · ');
}

/** What is done and of how much, in bytes where they are known, else in files; null: of nobody knows how much. */
function amountOf({ progress: p }: JobView): [number, number | null] {
  return p?.bytesTotal ? [p.bytes, p.bytesTotal] : [p?.files ?? 0, p?.filesTotal ?? null];
}

export function RunningJob({ job, more }: { job: JobView; more: number }) {
  const [now, setNow] = useState(() => job.started);
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  const [done, total] = amountOf(job);
  return (
    <JobFrame>
      <ProgressBar
        aria-label={job.title}
        value={total ? (done / total) * 100 : 0}
        isIndeterminate={!total}
        style={{ flex: 1, minWidth: 0 }}
      >
        {({ percentage }) => (
          <>
            <div className="text">
              <strong>{job.who === null ? job.title : `${job.who}: ${job.title}`}</strong>
              {more > 0 && <Soft> +{more}</Soft>}
            </div>
            <div className="bar">
              <div className="fill" style={{ width: `${percentage ?? 30}%` }} />
            </div>
            <div className="text">
              <Soft>{detailOf(job, now)}</Soft>
            </div>
          </>
        )}
      </ProgressBar>
      <IconButton
        aria-label={`Cancel: ${job.title}`}
        isDisabled={job.ending}
        onPress={() => void call(cancelJob, { job: job.id })}
      >
        <X size={16} />
      </IconButton>
    </JobFrame>
  );
}
