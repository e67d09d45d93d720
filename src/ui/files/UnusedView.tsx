'use client';
// What no scene uses: to be looked at, and cleared to the bin.

import { Trash2 } from '../kit/icons';
import { count } from '@/core/text/figures';
import type { UnusedView as Unused } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Grow, Row, Soft } from '../kit/layout';
import { Empty, ErrorNotice } from '../kit/notices';
import { usePlan } from '../kit/work';
import { FileGrid } from './FileGrid';

export function UnusedView({
  unused: { files, total },
  chosen,
  onFile,
}: {
  unused: Unused;
  chosen: string | null;
  onFile: (path: string) => void;
}) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  if (files.length === 0)
    return <Empty>Nothing lies idle. Files that no scene leads to would be listed here.</Empty>;
  return (
    <>
      <ErrorNotice error={problem} />
      <Row>
        <Grow>
          {total.files > files.length && <Soft>The {count(files.length, 'largest file')} of them:</Soft>}
        </Grow>
        <Button onPress={() => void attempt(() => plan({ kind: 'bin', paths: files.map((f) => f.path) }))}>
          <Trash2 size={15} /> Clear {count(files.length, 'file')} to the bin…
        </Button>
      </Row>
      <FileGrid
        label="Files used by nothing"
        files={files}
        whole
        question="unused"
        chosen={chosen}
        onOpen={(f) => onFile(f.path)}
      />
    </>
  );
}
