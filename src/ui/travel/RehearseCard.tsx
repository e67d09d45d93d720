'use client';
// Opens a workspace or a bag on another machine, in simulation, and lists what would fail there.

import { rehearseAt } from '@/wire/routes/bags';
import { Route } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import type { RehearsalView, StateView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { asking, Form, FormChoice, FormText, Submit, useKeptForm } from '../kit/form';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { Path } from '../kit/Path';
import { useJob } from '../kit/work';
import { color, space } from '../theme/theme';

const Failed = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.3fr);
  gap: ${space(3)};
  padding: 5px 0;
  border-bottom: 1px solid ${color.line};
  align-items: baseline;
`;
const shownAtMost = 100;

function Rehearsed({ rehearsal }: { rehearsal: RehearsalView }) {
  const { failures } = rehearsal;
  return (
    <div data-testid="rehearsal">
      <Notice tone={failures.length === 0 ? 'green' : 'amber'} title={rehearsal.sentence}>
        {count(rehearsal.files, 'file')} looked at.
      </Notice>
      {failures.slice(0, shownAtMost).map((f, i) => (
        <Failed key={i}>
          <span>
            <Path path={f.written ?? f.path} />
            <br />
            <Soft style={{ fontSize: 13 }}>{f.written ? f.path : 'the file itself'}</Soft>
          </span>
          <span>{f.message}</span>
        </Failed>
      ))}
      {failures.length > shownAtMost && <Soft>… and {count(failures.length - shownAtMost, 'more')}</Soft>}
    </div>
  );
}

/** `target`: the path of what is rehearsed; `isBag`: a bag, not the open workspace. */
export function RehearseCard({
  target,
  isBag,
  machines,
}: {
  target: string;
  isBag: boolean;
  machines: StateView['machines'];
}) {
  const run = useJob();
  const { attempt, problem, busy } = useAttempt();
  const [rehearsal, setRehearsal] = useState<RehearsalView | null>(null);
  const request = (v: { place: string; at: string }) => ({ ...v, path: target });
  const form = useKeptForm('rehearse', asking(rehearseAt.input, request), { place: 'windows', at: '' });
  return (
    <Sheet aria-label="Rehearse">
      <Form
        form={form}
        label="Rehearse the arrival"
        onSubmit={(values) => attempt(async () => setRehearsal(await run(rehearseAt, {}, request(values))))}
      >
        <Stack>
          <div>
            <h2>
              <Row>
                <Route size={15} aria-hidden /> Rehearse the arrival
              </Row>
            </h2>
            <Soft>
              Opens {isBag ? 'the bag' : 'the workspace'} on another machine, in simulation, before it is
              sent.
            </Soft>
          </div>
          <Row $gap={3} style={{ alignItems: 'flex-end' }} $wrap>
            <FormChoice name="place" label="On" options={machines.map((m) => [m.id, m.name] as const)} />
            <FormText
              name="at"
              label="At"
              mono
              placeholder={machines.find((m) => m.id === form.values.place)?.root}
            />
            <Submit unless={target === ''}>{busy ? 'Rehearsing …' : 'Rehearse'}</Submit>
          </Row>
          <ErrorNotice error={problem} />
          {rehearsal && <Rehearsed rehearsal={rehearsal} />}
        </Stack>
      </Form>
    </Sheet>
  );
}
