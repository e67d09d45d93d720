'use client';
// What was begun in this workspace and is not finished: said on every page until it is put back, or left as it is.

import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { post, shapeOf } from '../kit/api';
import { ErrorNotice, Notice, PlainButton, Row } from '../kit/controls';
import { useOverview, useWorkspaceId } from '../kit/work';
import type { ErrorShape } from '@/wire/jobs';
import type { OpenEntry } from '@/core/changes/summary';

const said: Record<OpenEntry['why'], string> = {
  unfinished: 'Files may lie half way: what this page shows is not what was meant.',
  damaged: 'Its record is damaged, so it cannot be put back or undone. Its files are as they are.',
  newer: 'A newer version of Loyal Satchel has begun it. Nothing is changed here until it has finished it.',
};

function Entry({ entry }: { entry: OpenEntry }) {
  const id = useWorkspaceId();
  const client = useQueryClient();
  const [error, setError] = useState<ErrorShape | null>(null);
  const end = (leave: boolean) => async () => {
    setError(null);
    try {
      const { done } = await post<{ done: { stuck: { path: string; why: string }[] }[] }>(
        `/api/workspaces/${id}/put-back`,
        { id: entry.id, leave },
      );
      const stuck = done.flatMap((d) => d.stuck);
      if (stuck.length > 0)
        setError({
          code: 'unfinished',
          message: `${stuck[0]!.path} could not be put back: ${stuck[0]!.why}`,
          unchanged: 'What it held is safe in the workspace’s store.',
          next: 'Mend the cause, then put it back again.',
          details: stuck.map((s) => `${s.path}: ${s.why}`),
        });
    } catch (cause) {
      setError(shapeOf(cause));
    }
    await client.invalidateQueries();
  };
  return (
    <Notice tone="amber" title={`“${entry.title ?? entry.id}” was begun here and is not finished.`}>
      <p>{said[entry.why]}</p>
      <Row>
        {entry.why === 'unfinished' && (
          <PlainButton onPress={() => void end(false)()}>Put it back</PlainButton>
        )}
        {entry.why !== 'newer' && (
          <PlainButton onPress={() => void end(true)()}>Leave the files as they are</PlainButton>
        )}
      </Row>
      {error && <ErrorNotice error={error} />}
    </Notice>
  );
}

/** Nothing where all is finished. */
export function Unfinished() {
  const { data } = useOverview();
  if (!data || data.open.length === 0) return null;
  return data.open.map((entry) => <Entry key={entry.id} entry={entry} />);
}
