'use client';
// What takes how much room as a list; each home opens to what is in it.

import { useState } from 'react';
import styled from 'styled-components';
import type { Room } from '@/core/layouts/room';
import { bytes, count, exactBytes } from '@/core/text/figures';
import { PlainButton } from '../kit/buttons';
import { Grow, Row, Soft } from '../kit/layout';
import { Path } from '../kit/Path';
import { Some } from '../kit/some';
import { color, radius, space } from '../theme/theme';

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: ${space(2)} ${space(3)};
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  max-height: calc(100dvh - 280px);
  min-height: 300px;
  overflow: auto;
  li {
    padding: 5px 0;
    border-bottom: 1px solid ${color.line};
  }
  li:last-child {
    border-bottom: none;
  }
  .size {
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
  ul {
    list-style: none;
    padding: 2px 0 0 ${space(3)};
    margin: 0;
  }
  ul li {
    border: none;
    padding: 1px 0;
  }
`;

export function RoomList({
  rooms,
  onFolder,
}: {
  rooms: readonly Room[];
  onFolder: (folder: string) => void;
}) {
  const [open, setOpen] = useState<string | null>(null);
  const all = rooms.reduce((s, r) => s + r.bytes, 0);
  return (
    <List aria-label="Room">
      {rooms.map((r) => (
        <li key={r.name}>
          <Row>
            <Grow>
              <PlainButton
                aria-expanded={open === r.name}
                onPress={() => setOpen(open === r.name ? null : r.name)}
              >
                {r.name}
              </PlainButton>
            </Grow>
            <span className="size" title={exactBytes(r.bytes)}>
              {bytes(r.bytes)}
            </span>
          </Row>
          <Soft style={{ fontSize: 13 }}>
            {count(r.files, 'file')} · {all > 0 ? Math.round((100 * r.bytes) / all) : 0} %
          </Soft>
          {open === r.name && (
            <ul>
              <Some isList of={r.children} more="more" atOnce={30}>
                {(c) => (
                  <li key={c.name}>
                    <Row>
                      <Grow>
                        {c.path === null ? (
                          <Soft>{c.name}</Soft>
                        ) : (
                          <PlainButton
                            aria-label={c.name}
                            style={{ color: color.ink, maxWidth: '100%' }}
                            onPress={() => onFolder(c.path!)}
                          >
                            <Path path={c.name} />
                          </PlainButton>
                        )}
                      </Grow>
                      <span className="size">{bytes(c.bytes)}</span>
                    </Row>
                  </li>
                )}
              </Some>
            </ul>
          )}
        </li>
      ))}
    </List>
  );
}
