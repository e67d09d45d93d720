'use client';
// What lies about: files outside the home of their kind, to be filed all at once or some of them.

import { findLoose, readSettings } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { FolderInput } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { homeOf, type Homes } from '@/core/layouts/homes';
import { bytes, count, exactBytes } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import { call, shapeOf } from '../kit/api';
import { Button, Empty, ErrorNotice, Grow, MainButton, Mono, Row, Sheet, Soft, Stack } from '../kit/controls';
import { Path } from '../kit/Path';
import { useJob, useOverview, usePlan, useWorkspaceId } from '../kit/work';
import { color, space } from '../theme/theme';

const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  td,
  th {
    text-align: left;
    padding: 4px ${space(3)} 4px 0;
    border-bottom: 1px solid ${color.line};
  }
  th {
    color: ${color.soft};
    font-size: 13.5px;
  }
  td:nth-child(2) {
    max-width: 0;
    width: 46%;
  }
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
    padding-right: 0;
  }
`;
const shownAtMost = 500;

export function LooseView() {
  const id = useWorkspaceId();
  const run = useJob();
  const plan = usePlan();
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const { data: overview } = useOverview();
  const { data: settings } = useQuery({
    queryKey: ['settings', id],
    queryFn: () => call(readSettings, { id }),
  });
  const { data, error } = useQuery({
    queryKey: ['loose', id, overview?.scanned, overview?.ledger.length],
    enabled: overview !== undefined,
    queryFn: () => run(findLoose, { id }),
  });
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data || !settings) return <Soft>Looking …</Soft>;
  const chosen = data.filter((f) => !left.has(f.path));
  const file = () => {
    setProblem(null);
    plan({ kind: 'tidy', only: left.size === 0 ? null : chosen.map((f) => f.path) }).catch((cause: unknown) =>
      setProblem(shapeOf(cause)),
    );
  };
  return (
    <Sheet aria-label="What lies about">
      <Stack>
        {problem && <ErrorNotice error={problem} />}
        {data.length === 0 ? (
          <Empty>
            Every file lies where its kind belongs. What lies outside the home of its kind would be listed
            here.
          </Empty>
        ) : (
          <>
            <Row $wrap>
              <Grow>
                <strong>
                  {count(data.length, 'file')}, {bytes(data.reduce((s, f) => s + f.size, 0))}
                </strong>{' '}
                <Soft>outside the home of {data.length === 1 ? 'its' : 'their'} kind</Soft>
              </Grow>
              {left.size > 0 && <Button onPress={() => setLeft(new Set())}>Choose all</Button>}
              <MainButton isDisabled={chosen.length === 0} onPress={file}>
                <FolderInput size={16} /> File{' '}
                {chosen.length === data.length ? 'all of them' : count(chosen.length, 'file')}…
              </MainButton>
            </Row>
            <Table>
              <thead>
                <tr>
                  <th aria-label="Chosen" />
                  <th>File</th>
                  <th>Kind</th>
                  <th>Belongs in</th>
                  <th className="number">Size</th>
                </tr>
              </thead>
              <tbody>
                {data.slice(0, shownAtMost).map((f) => (
                  <tr key={f.path}>
                    <td>
                      <input
                        type="checkbox"
                        aria-label={f.path}
                        checked={!left.has(f.path)}
                        onChange={() => {
                          const next = new Set(left);
                          if (!next.delete(f.path)) next.add(f.path);
                          setLeft(next);
                        }}
                      />
                    </td>
                    <td>
                      <Path path={f.path} />
                    </td>
                    <td>{f.kind}</td>
                    <td>
                      <Mono>{homeOf(f.kind, settings.homes as Homes)}/</Mono>
                    </td>
                    <td className="number" title={exactBytes(f.size)}>
                      {bytes(f.size)}
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
            {data.length > shownAtMost && <Soft>… and {count(data.length - shownAtMost, 'more file')}</Soft>}
          </>
        )}
      </Stack>
    </Sheet>
  );
}
