'use client';
// The next version of one scene, with a note.

import { Save } from '../kit/icons';
import { nameOf } from '@/core/files/treePath';
import { plainName } from '@/core/names/counters';
import { planRequest } from '@/wire/jobs';
import type { SeriesView, VersionsView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Choose } from '../kit/fields';
import { asking, Form, FormText, Submit, useKeptForm } from '../kit/form';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useAddress, usePlan } from '../kit/work';
import { HoldLine } from './HoldLine';

export function SaveCard({
  series,
  versions,
  now,
}: {
  series: SeriesView[];
  versions: VersionsView;
  now: number;
}) {
  const { scene } = versions;
  const [, change] = useAddress();
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const request = (v: { note: string }) => ({ kind: 'save' as const, scenes: [scene], ...v });
  const form = useKeptForm(`next of ${plainName(scene)}`, asking(planRequest, request), { note: '' });
  const scenes = series.some((s) => s.scene === scene)
    ? series
    : [{ scene, versions: 0, last: null, modified: 0 }, ...series];
  return (
    <Sheet>
      <Form form={form} label="Save the next version" onSubmit={(v) => attempt(() => plan(request(v)))}>
        <Stack>
          <ErrorNotice error={problem} />
          <HoldLine scene={scene} now={now} />
          <Row $gap={4} style={{ alignItems: 'flex-end' }} $wrap>
            <Choose
              label="Scene"
              mono
              value={scene}
              onChange={(to) => change({ scene: to })}
              options={scenes.map((s) => [s.scene, s.scene] as const)}
            />
            <FormText name="note" label="Note" placeholder="what changed, in a few words" />
            <Submit>
              <Save size={16} /> Save {nameOf(versions.next)}…
            </Submit>
          </Row>
          <Soft>
            {versions.habit === 'folder' ? (
              <>
                A copy goes to <Mono>{versions.next}</Mono>, with its paths written for there; the file keeps
                its name.
              </>
            ) : (
              'The present file is copied under the next number; go on working in the new one.'
            )}{' '}
            A buffer or material file that is the scene’s own is copied with it.
          </Soft>
        </Stack>
      </Form>
    </Sheet>
  );
}
