'use client';
// How versions are kept: the habit of the workspace, and its net.

import { Save } from '../kit/icons';
import { nameOf } from '@/core/files/treePath';
import { plainName } from '@/core/names/counters';
import { checkVersionPattern, usualPattern, versionPath } from '@/core/versions/habit';
import { usualNet, type NetSettings } from '@/core/versions/net';
import { planRequest } from '@/wire/jobs';
import type { NetView, VersionsView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { asking, Form, FormNumber, FormText, FormTick, Submit, useKeptForm } from '../kit/form';
import { Radios } from '../kit/fields';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlan } from '../kit/work';

export function Keeping({ versions, net }: { versions: VersionsView; net: NetView }) {
  return (
    <>
      <HabitCard versions={versions} />
      <NetCard settings={net.settings} />
    </>
  );
}

function HabitCard({ versions }: { versions: VersionsView }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const request = (v: { habit: 'numbered' | 'folder'; pattern: string }) => ({
    kind: 'habit' as const,
    ...v,
  });
  const form = useKeptForm('habit', asking(planRequest, request), {
    habit: versions.habit,
    pattern: versions.pattern || usualPattern,
  });
  const { habit, pattern } = form.values;
  const name = plainName(nameOf(versions.scene));
  const isSame = habit === versions.habit && pattern === versions.pattern;
  return (
    <Sheet aria-label="Habit">
      <Form form={form} label="Habit" onSubmit={(v) => attempt(() => plan(request(v)))}>
        <Stack $gap={4}>
          <h2>Where older versions lie</h2>
          <Radios
            label="Habit"
            framed
            value={habit}
            onChange={(to) => form.setValue('habit', to, { shouldValidate: true })}
            options={[
              {
                id: 'numbered',
                name: 'Numbered files side by side',
                content: (
                  <>
                    <strong>Numbered files side by side.</strong> You go on in the newest one; older ones stay
                    beside it.
                  </>
                ),
              },
              {
                id: 'folder',
                name: 'One current file, older ones in a folder',
                content: (
                  <>
                    <strong>One current file, older ones in a folder.</strong> The file keeps its name; each
                    save puts a copy aside, whose paths are written so that it opens from there.
                  </>
                ),
              },
            ]}
          />
          {habit === 'folder' && (
            <Row $gap={4} $wrap style={{ alignItems: 'flex-end' }}>
              <FormText
                name="pattern"
                label="Name of a version"
                mono
                check={(p) => checkVersionPattern(p)[0]}
              />
              <Soft>
                {checkVersionPattern(pattern).length === 0 && (
                  <>
                    <Mono>{versionPath(pattern, name, 7)}</Mono>
                  </>
                )}
              </Soft>
            </Row>
          )}
          <ErrorNotice error={problem} />
          <Row $gap={4} $wrap>
            <Submit unless={isSame}>
              <Save size={16} /> Change the habit…
            </Submit>
            <Soft>Versions that are there are moved, with every path to them and in them.</Soft>
          </Row>
        </Stack>
      </Form>
    </Sheet>
  );
}

const whole = (least: number, most: number) => (text: string) => {
  const n = Number(text);
  return Number.isInteger(n) && n >= least && n <= most
    ? undefined
    : `A whole number from ${least} to ${most}.`;
};

/** What the settings do, in a sentence. */
function ruleOf({ every, keep, hours, days }: NetSettings): string {
  const near = `The newest ${keep} reach back ${every * keep} minutes while a scene changes all the time, further while it rests.`;
  const far = [
    hours > 0 ? `the last of each hour for ${hours} hours` : '',
    days > 0 ? `the last of each day for ${days} days` : '',
  ].filter(Boolean);
  return far.length > 0
    ? `${near} Of older ones stay ${far.join(', then ')}.`
    : `${near} Older ones are let go.`;
}

function NetCard({ settings }: { settings: NetSettings | null }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const request = ({ on, ...net }: NetSettings & { on: boolean }) => ({
    kind: 'settings' as const,
    change: { net: on ? net : null },
  });
  const form = useKeptForm('net', asking(planRequest, request), {
    on: settings !== null,
    ...usualNet,
    ...settings,
  });
  const { on, ...now } = form.values;
  return (
    <Sheet aria-label="The net">
      <Form form={form} label="The net" onSubmit={(v) => attempt(() => plan(request(v)))}>
        <Stack $gap={4}>
          <h2>The net</h2>
          <Soft>
            While the application runs, every scene that changed is kept in the workspace’s store, not as
            files beside it. An extra net, never the main one: what you save yourself stays.
          </Soft>
          <FormTick name="on">Keep scenes that changed</FormTick>
          {on && (
            <Row $gap={4} $wrap style={{ alignItems: 'flex-end' }}>
              <FormNumber name="every" label="Every, in minutes" check={whole(1, 240)} />
              <FormNumber name="keep" label="The newest" check={whole(1, 500)} />
              <FormNumber name="hours" label="One an hour, for hours" check={whole(0, 720)} />
              <FormNumber name="days" label="One a day, for days" check={whole(0, 3650)} />
            </Row>
          )}
          {on && <p>{ruleOf(now)}</p>}
          <ErrorNotice error={problem} />
          <Row>
            <Submit unless={!form.isChanged}>
              <Save size={16} /> Set the net…
            </Submit>
          </Row>
        </Stack>
      </Form>
    </Sheet>
  );
}
