'use client';
// The references of a scene beside it in space; of an object that was picked, those it is drawn with.

import styled from 'styled-components';
import { keyOfRow } from '@/core/references/key';
import type { ReferenceView } from '@/wire/views';
import { LineButton, PlainButton } from '../kit/buttons';
import { Grow, Row, Soft } from '../kit/layout';
import { StateMark } from '../kit/marks';
import { Path } from '../kit/Path';
import type { Picked } from '../preview/Stage';
import { color, radius, space } from '../theme/theme';

const List = styled.div`
  width: 320px;
  flex: none;
  overflow: auto;
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  padding: ${space(1)};
  .use {
    grid-column: 2;
    font-size: 13px;
    color: ${color.soft};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;

const UseLine = styled(LineButton)`
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: ${space(2)};
  align-items: baseline;
`;

export function UseList({
  shown,
  picked,
  isDrawn,
  onAll,
  onOpen,
}: {
  shown: readonly ReferenceView[];
  picked: Picked | null;
  /** Whether it is on what is shown. */
  isDrawn: (r: ReferenceView) => boolean;
  onAll: () => void;
  onOpen: (r: ReferenceView) => void;
}) {
  return (
    <List role="group" aria-label="References of this scene">
      <Row style={{ padding: '4px 8px', minHeight: 34 }}>
        {picked?.object != null ? (
          <>
            <Grow>
              <strong>{picked.object || 'An object without a name'}</strong>
              {picked.references.length === 0 && <Soft> uses no file</Soft>}
            </Grow>
            <PlainButton onPress={onAll}>all of them</PlainButton>
          </>
        ) : (
          <Soft>Pick an object to see what it is drawn with; double-click comes nearer.</Soft>
        )}
      </Row>
      {shown.map((r) => (
        <UseLine key={keyOfRow(r)} onPress={() => onOpen(r)}>
          <StateMark state={r.state} odd={r.oddities.length > 0} />
          <Path path={r.written} />
          <span className="use">
            {r.uses[0] ?? r.at}
            {!isDrawn(r) && r.kind === 'texture' && ' · not on what is shown'}
          </span>
        </UseLine>
      ))}
    </List>
  );
}
