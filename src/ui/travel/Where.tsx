'use client';
// Where it would arrive: every machine in a line, what it is, what it would say. The one that is chosen opens in the drawer.

import { CheckCircle2, TriangleAlert, Unlink } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import type { RehearsalView } from '@/wire/views';
import { PlainButton } from '../kit/buttons';
import { Grow, Row, Sheet, Soft } from '../kit/layout';
import { color, space } from '../theme/theme';
import { outcomeOf, type Outcome } from './outcome';

const Table = styled.div`
  display: grid;
  grid-template-columns: minmax(110px, 0.9fr) minmax(0, 1.3fr) minmax(0, 1.6fr);
  [role='row'] {
    display: contents;
  }
  [role='columnheader'] {
    font-weight: 600;
    font-size: 13px;
    color: ${color.soft};
    padding: 4px ${space(2)};
    border-bottom: 1px solid ${color.line};
  }
  button {
    all: unset;
    box-sizing: border-box;
    display: grid;
    grid-template-columns: subgrid;
    grid-column: 1 / -1;
    align-items: baseline;
    padding: 7px ${space(2)};
    border-bottom: 1px solid ${color.line};
    cursor: pointer;
    min-width: 0;
    overflow-wrap: anywhere;
    > * {
      padding-right: ${space(3)};
      min-width: 0;
    }
  }
  button:hover {
    background: ${color.raised};
  }
  button:focus-visible {
    outline: 2px solid ${color.saddle};
    outline-offset: -2px;
  }
  button[aria-pressed='true'] {
    background: ${color.greenTint};
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
        <Table aria-label="Machines">
          <Soft style={{ fontSize: 13, padding: '4px 8px' }}>Place</Soft>
          <Soft style={{ fontSize: 13, padding: '4px 8px' }}>What it is</Soft>
          <Soft style={{ fontSize: 13, padding: '4px 8px' }}>Would say</Soft>
          {shown.map((r) => (
            <button
              key={r.place.id}
              type="button"
              aria-pressed={chosen === r.place.id}
              data-testid="machine"
              onClick={() => onChoose(chosen === r.place.id ? null : r.place.id)}
            >
              <strong style={r.place.own ? undefined : { fontWeight: 400 }}>{r.place.name}</strong>
              <Soft>{r.place.words}</Soft>
              <OutcomeMark outcome={outcomeOf(r)} />
            </button>
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
