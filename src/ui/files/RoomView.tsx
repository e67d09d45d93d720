'use client';
// What takes how much room, drawn as areas and listed beside: by home or by use; a folder leads to its files.

import { readRoom } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import { bytes, count } from '@/core/text/figures';
import { call, shapeOf } from '../kit/api';
import { Chip } from '../kit/buttons';
import { Chart, type Css } from '../kit/Chart';
import { Columns, Grow, Row, Soft, Stack } from '../kit/layout';
import { Empty, ErrorNotice } from '../kit/notices';
import { useWorkspaceId } from '../kit/work';
import { RoomList } from './RoomList';
import { optionOf } from './roomDrawing';

export function RoomView({
  onFolder,
  onFile,
}: {
  onFolder: (folder: string) => void;
  onFile: (path: string) => void;
}) {
  const id = useWorkspaceId();
  const [by, setBy] = useState<'home' | 'use'>('home');
  const { data, error } = useQuery({
    queryKey: ['room', id, by],
    queryFn: () => call(readRoom, { id }, { by }),
  });
  const option = useCallback((css: Css) => optionOf(data ?? [], css), [data]);
  const pick = useCallback(
    (name: string) => {
      if (!name || !data) return;
      const isFile = data.some((r) => r.children.some((f) => f.children.some((x) => x.path === name)));
      if (isFile) onFile(name);
      else onFolder(name);
    },
    [data, onFile, onFolder],
  );
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  const all = data?.reduce((s, r) => s + r.bytes, 0) ?? 0;
  return (
    <Stack>
      <Row role="group" aria-label="Drawn by">
        <Chip isSelected={by === 'home'} onChange={() => setBy('home')}>
          By home
        </Chip>
        <Chip isSelected={by === 'use'} onChange={() => setBy('use')}>
          By use
        </Chip>
        <Grow />
        {data && (
          <Soft>
            {bytes(all)} in{' '}
            {count(
              data.reduce((s, r) => s + r.files, 0),
              'file',
            )}
          </Soft>
        )}
      </Row>
      {!data ? (
        <Soft>Reading …</Soft>
      ) : data.length === 0 ? (
        <Empty>There is no file yet.</Empty>
      ) : (
        <Columns $right="340px">
          <Chart
            label="Areas as large as the room each takes; the same is listed beside it."
            option={option}
            height="calc(100dvh - 284px)"
            onPick={pick}
          />
          <RoomList rooms={data} onFolder={onFolder} />
        </Columns>
      )}
    </Stack>
  );
}
