'use client';
// What one machine would say in full: one sentence, then everything that would fail there, by what would mend it.

import type { PlanRequestInput, RehearsalView } from '@/wire/views';
import { Wrench } from '../kit/icons';
import styled from 'styled-components';
import { bytes, count, figure } from '@/core/text/figures';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Drawer } from '../kit/Drawer';
import { Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { Path } from '../kit/Path';
import { usePlan } from '../kit/work';
import { Some } from '../kit/some';
import { color } from '../theme/theme';

type Failure = RehearsalView['failures'][number];

const groups: readonly { repair: Failure['repair']; title: string; act: string | null }[] = [
  { repair: 'rename', title: 'Names it refuses', act: 'Call them otherwise…' },
  { repair: 'shorten', title: 'Paths that are too long', act: 'Shorten them…' },
  { repair: 'relative', title: 'Paths that lead elsewhere', act: 'Make them travel…' },
  { repair: 'relink', title: 'Missing', act: 'Find them…' },
  { repair: null, title: 'To be decided by hand', act: null },
];

const Line = styled.div`
  padding: 5px 0;
  border-bottom: 1px solid ${color.line};
  min-width: 0;
  font-size: 14px;
`;
const shownAtMost = 60;

export function PlaceDrawer({
  rehearsal,
  isWorkspace,
  onClose,
}: {
  rehearsal: RehearsalView;
  /** The open workspace was rehearsed: what fails can be mended in it. */
  isWorkspace: boolean;
  onClose: () => void;
}) {
  const { place, failures } = rehearsal;
  const plan = usePlan();
  const { attempt, problem, busy } = useAttempt();
  const only = (of: readonly Failure[]) =>
    of.flatMap((f) => (f.at === null ? [] : [{ scene: f.path, at: f.at }]));
  const requestOf = (repair: NonNullable<Failure['repair']>, of: readonly Failure[]): PlanRequestInput => {
    switch (repair) {
      case 'rename':
        return { kind: 'fit', place: place.id, what: 'names' };
      case 'shorten':
        return { kind: 'fit', place: place.id, what: 'lengths' };
      case 'relative':
        return { kind: 'travel', only: only(of) };
      case 'relink':
        return { kind: 'relink', only: only(of), sure: true };
    }
  };
  return (
    <Drawer title={place.name} label={`Rehearsed on ${place.name}`} onClose={onClose}>
      <Stack>
        <Soft>
          {place.words}
          {place.free === null ? '' : `, ${bytes(place.free)} free`}
        </Soft>
        <div data-testid="rehearsal">
          <Notice tone={failures.length === 0 ? 'green' : 'amber'} title={rehearsal.sentence}>
            {count(rehearsal.files, 'file')}, {bytes(rehearsal.bytes)} looked at.
          </Notice>
        </div>
        <ErrorNotice error={problem} />
        {groups.map(({ repair, title, act }) => {
          const of = failures.filter((f) => f.repair === repair);
          if (of.length === 0) return null;
          return (
            <section key={title} aria-label={title}>
              <Row $wrap>
                <h3 style={{ margin: 0, flex: 1, fontSize: 14.5 }}>
                  {title} <Soft>{figure(of.length)}</Soft>
                </h3>
                {act && repair && isWorkspace && (
                  <Button
                    isPending={busy === repair}
                    onPress={() => void attempt(() => plan(requestOf(repair, of)), repair)}
                  >
                    <Wrench size={14} /> {act}
                  </Button>
                )}
              </Row>
              <Some of={of} more="more" atOnce={shownAtMost}>
                {(f, i) => (
                  <Line key={i}>
                    <Path path={f.written ?? f.path} />
                    {f.written !== null && (
                      <>
                        <br />
                        <Soft style={{ fontSize: 13 }}>in {f.path}</Soft>
                      </>
                    )}
                    <br />
                    {f.message}
                  </Line>
                )}
              </Some>
            </section>
          );
        })}
      </Stack>
    </Drawer>
  );
}
