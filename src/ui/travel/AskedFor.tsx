'use client';
// What was asked for: the list of a teacher, a client or a lead, held against the workspace point by point, with what would mend it.

import { useQuery } from '@tanstack/react-query';
import { CheckCircle2, ClipboardList, Download, FolderSearch, TriangleAlert, Wrench } from '../kit/icons';
import { useState } from 'react';
import { FileTrigger } from 'react-aria-components';
import Link from '../kit/Link';
import styled from 'styled-components';
import { handInSentence, type Point } from '@/core/handIn/list';
import { readHandInList, type HandInListWire } from '@/wire/handIn';
import { checkHandInRoute } from '@/wire/routes/travel';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, PlainButton } from '../kit/buttons';
import { download } from '../kit/download';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useJob, usePlan, useStepHref } from '../kit/work';
import { color } from '../theme/theme';
import { CheckMany } from './CheckMany';
import { HandInForm } from './HandInForm';

const Line = styled.div`
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr) auto;
  gap: 8px;
  padding: 5px 0;
  align-items: baseline;
  overflow-wrap: anywhere;
  svg {
    align-self: center;
  }
`;

const foundText = (p: Point) => {
  const [first] = p.found;
  const rest = p.found.length > 1 ? `, and ${p.found.length - 1} more` : '';
  return `${first!.path ? `${first!.path} ` : ''}${first!.message}${rest}`;
};

function PointLine({ point }: { point: Point }) {
  const plan = usePlan();
  const href = useStepHref();
  const { attempt, problem, busy } = useAttempt();
  return (
    <>
      <Line title={point.found.map((f) => `${f.path ?? ''} ${f.message}`).join('\n')}>
        {point.ok ? (
          <CheckCircle2 size={15} color={color.greenText} aria-label="met" />
        ) : (
          <TriangleAlert size={15} color={color.amber} aria-label="not met" />
        )}
        <span>
          {point.asked}
          {!point.ok && (
            <>
              : <strong>{foundText(point)}</strong>
            </>
          )}
        </span>
        {point.repair === 'relative' && (
          <PlainButton
            isPending={busy !== null}
            onPress={() => void attempt(() => plan({ kind: 'travel', only: null }))}
          >
            <Wrench size={14} /> Mend…
          </PlainButton>
        )}
        {point.repair === 'relink' && (
          <PlainButton isPending={busy !== null} onPress={() => void attempt(() => plan({ kind: 'relink' }))}>
            <Wrench size={14} /> Find…
          </PlainButton>
        )}
        {point.repair === 'rename' && <Link href={href('/files')}>Rename…</Link>}
      </Line>
      <ErrorNotice error={problem} />
    </>
  );
}

export function AskedFor({
  root,
  list,
  onList,
}: {
  root: string;
  list: HandInListWire | null;
  onList: (list: HandInListWire | null) => void;
}) {
  const run = useJob();
  const { attempt, problem } = useAttempt();
  const [open, setOpen] = useState<'form' | 'many' | null>(null);
  const { data, error } = useQuery({
    queryKey: ['hand-in', root, list],
    enabled: list !== null,
    staleTime: 60_000,
    queryFn: () => run(checkHandInRoute, {}, { path: root, list: list! }),
  });
  const take = async (file: File) => onList(readHandInList(await file.text(), file.name));
  const buttons = (
    <Row $wrap>
      <FileTrigger
        acceptedFileTypes={['application/json', '.json']}
        onSelect={(files) => files?.[0] && void attempt(() => take(files[0]!))}
      >
        <Button>
          <ClipboardList size={15} /> Open a list…
        </Button>
      </FileTrigger>
      <Button onPress={() => setOpen('form')}>{list ? 'Change it…' : 'Make one…'}</Button>
      {list && (
        <>
          <Button
            aria-label="Save the list as a file"
            onPress={() =>
              download(`${list.name}.json`, 'application/json', `${JSON.stringify(list, null, 2)}\n`)
            }
          >
            <Download size={15} />
          </Button>
          <Button onPress={() => setOpen('many')}>
            <FolderSearch size={15} /> Check a folder…
          </Button>
        </>
      )}
    </Row>
  );
  return (
    <Sheet aria-label="Asked for">
      <Stack $gap={2}>
        <Row>
          <Grow>
            <h2>{list ? `Asked for${list.from ? ` by ${list.from}` : ''}: ${list.name}` : 'Asked for'}</h2>
          </Grow>
          {list && <PlainButton onPress={() => onList(null)}>Put away</PlainButton>}
        </Row>
        {!list && (
          <Soft>
            What a teacher, a client or a lead wants handed in, as a list: checked here before it is sent.
          </Soft>
        )}
        {list && !data && !error && <Soft>Checking …</Soft>}
        {data && (
          <div data-testid="hand-in">
            <strong>{data.error ?? handInSentence(data.points)}</strong>
            {data.points.map((p) => (
              <PointLine key={p.id} point={p} />
            ))}
          </div>
        )}
        <ErrorNotice error={problem ?? (error ? shapeOf(error) : null)} />
        {buttons}
      </Stack>
      {open === 'form' && (
        <HandInForm
          list={list}
          onDone={(next) => {
            onList(next);
            setOpen(null);
          }}
          onClose={() => setOpen(null)}
        />
      )}
      {open === 'many' && list && <CheckMany list={list} onClose={() => setOpen(null)} />}
    </Sheet>
  );
}
