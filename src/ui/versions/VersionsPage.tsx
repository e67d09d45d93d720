'use client';
// Versions: save the next one with a note, and bring an old one back as a new one.

import { listScenes, listVersions } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import { History, Save } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import styled from 'styled-components';
import { parseNumbered } from '@/core/names/counters';
import type { ErrorShape } from '@/wire/jobs';
import { call, shapeOf } from '../kit/api';
import {
  Empty,
  ErrorNotice,
  MainButton,
  Mono,
  PlainButton,
  Row,
  Select,
  Sheet,
  Soft,
  Stack,
  TextField,
} from '../kit/controls';
import { ago, bytes, count, exactBytes, exactTime } from '@/core/text/figures';
import { Needs, Page } from '../kit/Page';
import { useAddress, usePlan, useStepHref, useWorkspaceId } from '../kit/work';
import { color, font, space } from '../theme/theme';

const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  th {
    text-align: left;
    color: ${color.soft};
    font-size: 13.5px;
    font-weight: 600;
    padding: 0 ${space(4)} 6px 0;
    border-bottom: 1px solid ${color.line};
  }
  td {
    padding: 6px ${space(4)} 6px 0;
    border-bottom: 1px solid ${color.line};
  }
  td.name {
    font-family: ${font.mono};
    font-size: 13.5px;
    font-weight: 700;
  }
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
`;

/** One line per series: its newest numbered file, or the unnumbered one. */
export function seriesHeads(scenes: readonly string[]): string[] {
  const heads = new Map<string, { path: string; number: number }>();
  for (const path of scenes) {
    const at = path.lastIndexOf('/') + 1;
    const n = parseNumbered(path.slice(at));
    const key = n ? `${path.slice(0, at)}${n.stem}${n.extension.toLowerCase()}` : path;
    const held = heads.get(key);
    if (!held || (n?.number ?? -1) > held.number) heads.set(key, { path, number: n?.number ?? -1 });
  }
  return [...heads.values()].map((h) => h.path).sort();
}

export function VersionsPage() {
  const id = useWorkspaceId();
  const scenes = useQuery({
    queryKey: ['scenes', id],
    enabled: id !== null,
    queryFn: () => call(listScenes, { id }),
  });
  return (
    <Needs title="Versions" result={scenes}>
      {(list) => <Versions heads={seriesHeads(list)} all={list} />}
    </Needs>
  );
}

function Versions({ heads, all }: { heads: string[]; all: string[] }) {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const asked = address.get('scene');
  // Of the series asked for, the newest; saving and bringing back start from the series, whatever its file.
  const scene =
    asked && all.includes(asked)
      ? heads.includes(asked)
        ? asked
        : (heads.find((h) => seriesHeads([h, asked]).length === 1) ?? asked)
      : (heads.find((h) => parseNumbered(h.split('/').pop()!)) ?? heads[0]);
  const [note, setNote] = useState('');
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [now] = useState(() => Date.now());
  const plan = usePlan();
  const href = useStepHref();
  const { data } = useQuery({
    queryKey: ['versions', id, scene],
    enabled: scene !== undefined,
    queryFn: () => call(listVersions, { id }, { scene: scene! }),
  });
  const attempt = (work: Promise<unknown>) => void work.catch((cause: unknown) => setProblem(shapeOf(cause)));
  if (scene === undefined)
    return (
      <Page title="Versions">
        <Empty action={<Link href={href('/files')}>Bring a scene in</Link>}>
          No scene in this workspace yet. Its versions show here once there is one.
        </Empty>
      </Page>
    );
  const current = data?.versions.find((v) => v.path === scene);
  const next = data?.next.split('/').pop();
  return (
    <Page
      title="Versions"
      answer={
        data ? (
          <>
            {count(data.versions.length, 'version')} of this scene,{' '}
            <span title={exactBytes(data.total)}>{bytes(data.total)}</span> in all
            {current && (
              <>
                ; the present one was saved{' '}
                <span title={exactTime(current.modified)}>{ago(current.modified, now)}</span>
              </>
            )}
            .
          </>
        ) : (
          'Reading …'
        )
      }
    >
      {problem && <ErrorNotice error={problem} />}
      <Sheet>
        <Stack>
          <Row $gap={4} style={{ alignItems: 'flex-end' }} $wrap>
            <label>
              <strong style={{ fontSize: 13.5 }}>Scene</strong>
              <br />
              <Select
                value={scene}
                onChange={(e) => change({ scene: e.target.value })}
                style={{ marginTop: 4, fontFamily: font.mono }}
              >
                {heads.map((h) => (
                  <option key={h} value={h}>
                    {h}
                  </option>
                ))}
              </Select>
            </label>
            <TextField
              label="Note"
              value={note}
              onChange={setNote}
              placeholder="what changed, in a few words"
              onKeyDown={(e) => {
                if (e.key === 'Enter') attempt(plan({ kind: 'save', scene, note }));
              }}
            />
            <MainButton onPress={() => attempt(plan({ kind: 'save', scene, note }))}>
              <Save size={16} /> Save {next ?? 'the next version'}…
            </MainButton>
          </Row>
          <Soft>
            The present file is copied under the next number; go on working in the new one. A buffer or
            material file that is the scene’s own is copied with it.
          </Soft>
        </Stack>
      </Sheet>
      <Sheet aria-label="All versions">
        <Table>
          <thead>
            <tr>
              <th className="number">No.</th>
              <th>File</th>
              <th>Note</th>
              <th className="number">Size</th>
              <th className="number">Saved</th>
              <th className="number">Way back</th>
            </tr>
          </thead>
          <tbody>
            {data?.versions.map((v) => (
              <tr key={v.path}>
                <td className="number">{v.number ?? '–'}</td>
                <td className="name">{v.path.split('/').pop()}</td>
                <td>{v.note ? `“${v.note}”` : <Soft>–</Soft>}</td>
                <td className="number" title={exactBytes(v.size)}>
                  {bytes(v.size)}
                </td>
                <td className="number" title={exactTime(v.modified)}>
                  {ago(v.modified, now)}
                </td>
                <td className="number">
                  {v.path === scene ? (
                    <Soft>present</Soft>
                  ) : (
                    v.number !== null && (
                      <PlainButton
                        aria-label={`Bring ${v.path.split('/').pop()} back as a new version`}
                        onPress={() => attempt(plan({ kind: 'restore', scene, number: v.number! }))}
                      >
                        <History size={15} /> Bring back…
                      </PlainButton>
                    )
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
        {data && (
          <p style={{ marginTop: 10 }}>
            <Soft>
              The next one will be <Mono>{data.next}</Mono>.
            </Soft>
          </p>
        )}
      </Sheet>
    </Page>
  );
}
