'use client';
// Where it would arrive: every machine in a line, what it is, what it would say. The one that is chosen opens in the drawer.

import { CheckCircle2, TriangleAlert, Unlink } from '../kit/icons';
import { useState } from 'react';
import styled from 'styled-components';
import type { RehearsalView } from '@/wire/views';
import { LineButton, PlainButton } from '../kit/buttons';
import { Grow, Row, Sheet, Soft } from '../kit/layout';
import { color, space } from '../theme/theme';
import { outcomeOf, type Outcome } from './outcome';

const Table = styled.div`
  display: grid;
  grid-template-columns: minmax(110px, 0.9fr) minmax(0, 1.3fr) minmax(0, 1.6fr);
  .head {
    font-size: 13px;
    color: ${color.soft};
    padding: 4px ${space(3)} 4px 0;
    &:first-child {
      padding-left: ${space(2)};
    }
  }
`;
const Machine = styled(LineButton)`
  display: grid;
  grid-template-columns: subgrid;
  grid-column: 1 / -1;
  align-items: baseline;
  padding: 7px ${space(2)};
  border-radius: 0;
  border-bottom: 1px solid ${color.line};
  min-width: 0;
  > * {
    padding-right: ${space(3)};
    min-width: 0;
  }
  &[aria-pressed='true'] {
    box-shadow:
      inset 0 2px ${color.greenText},
      inset 0 -2px ${color.greenText};
  }
`;
const icons = { green: CheckCircle2, amber: TriangleAlert, brick: Unlink };
const toneOf = { green: color.greenText, amber: color.amber, brick: color.brick };
const Mark = styled.span<{ $tone: Outcome['tone'] }>`
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
  font-weight: 600;
  color: ${(p) => toneOf[p.$tone]};
  svg {
    flex: none;
    align-self: center;
  }
`;

/** An outcome as icon and words. */
export function OutcomeMark({ outcome }: { outcome: Outcome }) {
  const Icon = icons[outcome.tone];
  return (
    <Mark $tone={outcome.tone}>
      <Icon size={15} aria-hidden />
      {outcome.says}
    </Mark>
  );
}

export function Where({
  rehearsals,
  chosen,
  onChoose,
  onDescribe,
  onOther,
}: {
  rehearsals: readonly RehearsalView[];
  chosen: string | null;
  onChoose: (id: string | null) => void;
  onDescribe: () => void;
  onOther: () => void;
}) {
  const [isAll, setAll] = useState(false);
  const own = rehearsals.filter((r) => r.place.own);
  const usual = rehearsals.filter((r) => !r.place.own);
  const fine = usual.filter((r) => outcomeOf(r).tone === 'green').length;
  const shown = isAll || own.length === 0 ? rehearsals : own;
  return (
    <Sheet aria-label="Where it would arrive">
      <Row>
        <Grow>
          <h2>Where it would arrive</h2>
        </Grow>
        <PlainButton onPress={onOther}>Something else…</PlainButton>
        <PlainButton onPress={onDescribe}>Describe a place…</PlainButton>
      </Row>
      {rehearsals.length === 0 ? (
        <Soft>Rehearsing …</Soft>
      ) : (
        <Table role="group" aria-label="Machines">
          <span className="head">Place</span>
          <span className="head">What it is</span>
          <span className="head">Would say</span>
          {shown.map((r) => (
            <Machine
              key={r.place.id}
              aria-pressed={chosen === r.place.id}
              data-testid="machine"
              onPress={() => onChoose(chosen === r.place.id ? null : r.place.id)}
            >
              <strong style={r.place.own ? undefined : { fontWeight: 400 }}>{r.place.name}</strong>
              <Soft>{r.place.words}</Soft>
              <OutcomeMark outcome={outcomeOf(r)} />
            </Machine>
          ))}
        </Table>
      )}
      {own.length > 0 && usual.length > 0 && (
        <Row style={{ paddingTop: 6 }}>
          <PlainButton onPress={() => setAll(!isAll)}>
            {isAll
              ? 'Only places of one’s own'
              : `Usual systems: opens complete on ${fine} of ${usual.length}…`}
          </PlainButton>
        </Row>
      )}
    </Sheet>
  );
}
