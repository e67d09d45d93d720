'use client';
// Versions: save the next one with a note, and bring an old one back as a new one.

import { listScenes, listVersions } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import { Save } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { parseNumbered } from '@/core/names/counters';
import { ago, bytes, count, exactBytes, exactTime } from '@/core/text/figures';
import { planRequest } from '@/wire/jobs';
import type { VersionsView } from '@/wire/views';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Choose } from '../kit/fields';
import { asking, Form, FormText, Submit, useKeptForm } from '../kit/form';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { Empty, ErrorNotice } from '../kit/notices';
import { Needs, Page } from '../kit/Page';
import { useAddress, usePlan, useStepHref, useWorkspaceId } from '../kit/work';
import { VersionTable } from './VersionTable';

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

/** Of the series asked for, the newest; saving and bringing back start from the series, whatever its file. */
function sceneAsked(asked: string | null, heads: string[], all: string[]): string | undefined {
  if (!asked || !all.includes(asked))
    return heads.find((h) => parseNumbered(h.split('/').pop()!)) ?? heads[0];
  return heads.includes(asked) ? asked : (heads.find((h) => seriesHeads([h, asked]).length === 1) ?? asked);
}

function Versions({ heads, all }: { heads: string[]; all: string[] }) {
  const id = useWorkspaceId();
  const [address] = useAddress();
  const href = useStepHref();
  const scene = sceneAsked(address.get('scene'), heads, all);
  const { data } = useQuery({
    queryKey: ['versions', id, scene],
    enabled: scene !== undefined,
    queryFn: () => call(listVersions, { id }, { scene: scene! }),
  });
  if (scene === undefined)
    return (
      <Page title="Versions">
        <Empty action={<Link href={href('/files')}>Bring a scene in</Link>}>
          No scene in this workspace yet. Its versions show here once there is one.
        </Empty>
      </Page>
    );
  return <OfScene key={scene} scene={scene} heads={heads} data={data} />;
}

function Answer({ data, scene }: { data: VersionsView; scene: string }) {
  const [now] = useState(() => Date.now());
  const current = data.versions.find((v) => v.path === scene);
  return (
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
  );
}

function OfScene({ scene, heads, data }: { scene: string; heads: string[]; data: VersionsView | undefined }) {
  const [, change] = useAddress();
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const request = (v: { note: string }) => ({ kind: 'save' as const, scene, ...v });
  const form = useKeptForm(`next of ${scene}`, asking(planRequest, request), { note: '' });
  return (
    <Page title="Versions" answer={data ? <Answer data={data} scene={scene} /> : 'Reading …'}>
      <ErrorNotice error={problem} />
      <Sheet>
        <Form form={form} label="Save the next version" onSubmit={(v) => attempt(() => plan(request(v)))}>
          <Stack>
            <Row $gap={4} style={{ alignItems: 'flex-end' }} $wrap>
              <Choose
                label="Scene"
                mono
                value={scene}
                onChange={(to) => change({ scene: to })}
                options={heads.map((h) => [h, h] as const)}
              />
              <FormText name="note" label="Note" placeholder="what changed, in a few words" />
              <Submit>
                <Save size={16} /> Save {data?.next.split('/').pop() ?? 'the next version'}…
              </Submit>
            </Row>
            <Soft>
              The present file is copied under the next number; go on working in the new one. A buffer or
              material file that is the scene’s own is copied with it.
            </Soft>
          </Stack>
        </Form>
      </Sheet>
      <Sheet aria-label="All versions">
        <VersionTable
          versions={data?.versions ?? []}
          scene={scene}
          onBring={(number) => void attempt(() => plan({ kind: 'restore', scene, number }))}
        />
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
