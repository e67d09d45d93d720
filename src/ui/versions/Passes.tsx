'use client';
// Outputs that are expected: a grid of passes by frames, and in words what is left.

import { useQuery } from '@tanstack/react-query';
import { CircleCheck, ListChecks, RefreshCw, TriangleAlert } from '../kit/icons';
import styled from 'styled-components';
import { checkFilePattern, wholeText } from '@/core/outputs/passes';
import { framesText } from '@/core/text/figures';
import { planRequest } from '@/wire/jobs';
import { checkOutputs } from '@/wire/routes/versions';
import type { CompleteView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { asking, Form, FormText, Submit, useKeptForm } from '../kit/form';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { SmallTable } from '../kit/SmallTable';
import { useJob, usePlan, useWorkspaceId } from '../kit/work';
import { color } from '../theme/theme';

type PassRow = CompleteView['rows'][number];

const words = {
  missing: 'missing',
  empty: 'empty',
  truncated: 'cut off',
  size: 'of another size',
  depth: 'of another depth',
  older: 'older than the scene',
  unreadable: 'not readable',
} as const;
const troubles = Object.keys(words) as (keyof typeof words)[];

export function Passes() {
  const id = useWorkspaceId();
  const run = useJob();
  const { data, error, isFetching, refetch } = useQuery({
    queryKey: ['complete', id],
    staleTime: Infinity,
    queryFn: () => run(checkOutputs, { id }),
  });
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (data === undefined) return <Soft>Looking at every output …</Soft>;
  return (
    <>
      {data && <Grid report={data} isFetching={isFetching} onAgain={() => void refetch()} />}
      <MakeList has={data !== null} />
    </>
  );
}

const Table = styled(SmallTable)`
  th {
    white-space: nowrap;
  }
  td.strip {
    width: 45%;
    min-width: 160px;
  }
`;
const Strip = styled.svg`
  display: block;
  width: 100%;
  height: 18px;
  .whole {
    fill: ${color.greenText};
  }
  .trouble {
    fill: none;
    stroke: ${color.brick};
    stroke-width: 1.5;
    vector-effect: non-scaling-stroke;
  }
  .older {
    stroke: ${color.amber};
  }
`;

function Grid({
  report,
  isFetching,
  onAgain,
}: {
  report: CompleteView;
  isFetching: boolean;
  onAgain: () => void;
}) {
  const left = report.expected - report.whole;
  return (
    <Sheet aria-label="Expected outputs">
      <Stack $gap={3}>
        <Row $gap={4} $wrap style={{ justifyContent: 'space-between' }}>
          <span>
            {left === 0 && report.unchecked === 0 ? (
              <CircleCheck size={16} aria-hidden style={{ verticalAlign: -3, color: color.greenText }} />
            ) : (
              <TriangleAlert size={16} aria-hidden style={{ verticalAlign: -3, color: color.amber }} />
            )}{' '}
            {wholeText(report)}
          </span>
          <Button onPress={onAgain} isDisabled={isFetching}>
            <RefreshCw size={15} /> Look again
          </Button>
        </Row>
        <Table>
          <thead>
            <tr>
              <th>Pass</th>
              <th>Frames</th>
              <th>What is left</th>
            </tr>
          </thead>
          <tbody>
            {report.rows.map((row) => (
              <One key={`${row.scene} ${row.camera} ${row.pass}`} row={row} />
            ))}
          </tbody>
        </Table>
      </Stack>
    </Sheet>
  );
}

/** At most so many cells are drawn; of more frames several share one. */
const cells = 120;

function One({ row }: { row: PassRow }) {
  const said = [
    ...troubles.flatMap((t) => (row.troubles[t] ? [`${words[t]} ${framesText(row.troubles[t])}`] : [])),
    ...(row.unchecked.length > 0 ? [`not checked ${framesText(row.unchecked)}`] : []),
  ];
  return (
    <tr>
      <th scope="row">{[row.scene, row.camera, row.pass].filter(Boolean).join(' · ')}</th>
      <td className="strip">
        <Cells row={row} />
        <Soft>
          {row.frames.first} to {row.frames.last}
          {row.width !== null && ` · ${row.width} × ${row.height}`}
          {row.bits !== null && ` · ${row.bits} bit`}
        </Soft>
      </td>
      <td>{said.length === 0 ? <Soft>complete</Soft> : said.join('; ')}</td>
    </tr>
  );
}

function Cells({ row: { frames, expected, troubles: found } }: { row: PassRow }) {
  const bad = new Map<number, keyof typeof words>();
  for (const t of [...troubles].reverse()) for (const f of found[t] ?? []) bad.set(f, t);
  const drawn = Math.min(cells, expected);
  return (
    <Strip viewBox={`0 0 ${drawn * 10} 18`} preserveAspectRatio="none" aria-hidden>
      {Array.from({ length: drawn }, (_, n) => {
        const from = Math.floor((n * expected) / drawn);
        const to = Math.max(from + 1, Math.floor(((n + 1) * expected) / drawn));
        let worst: keyof typeof words | undefined;
        for (let i = from; i < to; i++) worst ??= bad.get(frames.first + i * frames.step);
        return worst === undefined ? (
          <rect key={n} className="whole" x={n * 10 + 1} y={3} width={8} height={12} />
        ) : (
          <rect
            key={n}
            className={worst === 'older' ? 'trouble older' : 'trouble'}
            x={n * 10 + 1.5}
            y={3.5}
            width={7}
            height={11}
          />
        );
      })}
    </Strip>
  );
}

function MakeList({ has }: { has: boolean }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const request = (v: { file: string }) => ({ kind: 'passes' as const, ...v });
  const form = useKeptForm('passes', asking(planRequest, request), {
    file: 'renders/{scene}/{pass}.{frame:4}.png',
  });
  return (
    <Sheet aria-label="The list of passes">
      <Form form={form} label="The list of passes" onSubmit={(v) => attempt(() => plan(request(v)))}>
        <Stack>
          <Soft>
            {has
              ? 'passes.json in the root says what is expected; change it there, or make it anew from what lies here now.'
              : 'No passes.json in the root yet. Make it from a folder that is complete; the team shares the file, and changes it in any editor.'}
          </Soft>
          <ErrorNotice error={problem} />
          <Row $gap={4} $wrap style={{ alignItems: 'flex-end' }}>
            <FormText name="file" label="How outputs are called" mono check={(f) => checkFilePattern(f)[0]} />
            <Submit>
              <ListChecks size={16} /> Make the list…
            </Submit>
          </Row>
          <Soft>
            {'{scene}, {camera} and {pass} stand for any words, {frame:4} for a number of four digits.'}
          </Soft>
        </Stack>
      </Form>
    </Sheet>
  );
}
