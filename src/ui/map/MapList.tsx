'use client';
// What the map shows as a list: what needs a hand first; the one chosen with its ways on.

import { AlertTriangle, FolderClosed, FolderOpen, Table2 } from '../kit/icons';
import { useMemo } from 'react';
import styled from 'styled-components';
import type { DependencyMap, MapNode } from '@/core/references/map';
import { LineButton, LinkButton, PlainButton } from '../kit/buttons';
import { Grow, Row } from '../kit/layout';
import { StateMark } from '../kit/marks';
import { useStepHref } from '../kit/work';
import { CarryTo } from '../carry/CarryTo';
import { color, font, radius, space } from '../theme/theme';
import { told } from './drawing';

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: ${space(1)};
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  max-height: calc(100dvh - 210px);
  overflow: auto;
  li {
    border-radius: ${radius.small};
    padding: 2px;
  }
  li[data-chosen='true'] {
    background: ${color.greenTint};
  }
  .name {
    font: 700 13.5px ${font.mono};
  }
  .more {
    font-size: 13px;
    color: ${color.soft};
  }
`;

export function MapList({
  map,
  chosen,
  onChoose,
  onToggle,
}: {
  map: DependencyMap;
  chosen: string | null;
  onChoose: (id: string | null) => void;
  /** Opens what is drawn together, or folds it again. */
  onToggle: (node: MapNode) => void;
}) {
  const href = useStepHref();
  const listed = useMemo(
    () => map.nodes.toSorted((a, b) => Math.sign(b.attention) - Math.sign(a.attention)),
    [map],
  );
  return (
    <List aria-label="What the map shows">
      {listed.map((n) => (
        <li key={n.id} data-chosen={n.id === chosen}>
          <LineButton aria-pressed={n.id === chosen} onPress={() => onChoose(n.id === chosen ? null : n.id)}>
            <Row>
              {n.state ? (
                <StateMark state={n.state} />
              ) : n.attention > 0 ? (
                <AlertTriangle
                  size={15}
                  color={color.amber}
                  aria-label="needs attention"
                  style={{ flex: 'none' }}
                />
              ) : null}
              <Grow>
                <span className="name">{n.label}</span>
              </Grow>
            </Row>
            <div className="more">{told(n)}</div>
          </LineButton>
          {n.id === chosen && (
            <Row $wrap style={{ padding: '2px 8px 6px' }}>
              {n.query && (
                <LinkButton href={href('/references', { q: n.query })}>
                  <Table2 size={15} /> See in the table
                </LinkButton>
              )}
              {n.kind === 'scene' && <CarryTo path={n.within === '' ? n.label : `${n.within}/${n.label}`} />}
              {n.opens && (
                <PlainButton onPress={() => onToggle(n)}>
                  {n.opens === 'open' ? (
                    <>
                      <FolderClosed size={15} /> Fold
                    </>
                  ) : (
                    <>
                      <FolderOpen size={15} /> Open
                    </>
                  )}
                </PlainButton>
              )}
            </Row>
          )}
        </li>
      ))}
    </List>
  );
}
