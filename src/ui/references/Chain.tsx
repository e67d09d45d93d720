'use client';
// The chain a reference hangs on: what leads to it, itself, what it leads to.

import Link from '../kit/Link';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import type { ReferenceDetail } from '@/wire/views';
import { Mono, Soft } from '../kit/layout';
import { useStepHref } from '../kit/work';
import { color, space } from '../theme/theme';

const List = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  li {
    position: relative;
    padding: 0 0 ${space(2)} ${space(5)};
    overflow-wrap: anywhere;
  }
  li::before {
    content: '';
    position: absolute;
    left: 1px;
    top: 6px;
    width: 8px;
    height: 8px;
    border: 2px solid ${color.soft};
    border-radius: 50%;
  }
  li:not(:last-child)::after {
    content: '';
    position: absolute;
    left: 5px;
    top: 17px;
    bottom: -4px;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.lineStrong} 0 4px, transparent 4px 7px);
  }
  li.broken {
    color: ${color.brick};
  }
  li.broken::before {
    border-color: ${color.brick};
  }
`;

export function Chain({ data }: { data: ReferenceDetail }) {
  const href = useStepHref();
  const r = data.reference;
  return (
    <div>
      <h2>The chain</h2>
      <List>
        {data.chain.map((c) => (
          <li key={c}>{c}</li>
        ))}
        <li className={r.target === null ? 'broken' : ''}>
          <Mono>{r.written}</Mono>
        </li>
        {data.below.references.map((b) => (
          <li
            key={`${b.scene} ${b.at}`}
            className={b.state === 'missing' || b.state === 'offline' ? 'broken' : ''}
            style={{ marginLeft: 14 }}
          >
            <Link href={href('/references', { scene: b.scene, at: b.at })}>
              <Mono>{b.written}</Mono>
            </Link>{' '}
            <Soft>{b.state}</Soft>
          </li>
        ))}
      </List>
      {data.below.of > data.below.references.length && (
        <Soft>and {count(data.below.of - data.below.references.length, 'more')} below it</Soft>
      )}
    </div>
  );
}

/** The other addresses of a list whose first is found. */
export function Alternatives({ written }: { written: readonly string[] }) {
  if (written.length === 0) return null;
  return (
    <div>
      <h2>In its list as well</h2>
      <Soft>
        Not needed, as this one is found. They change with it where a beginning or a piece of text is changed.
      </Soft>
      <List style={{ marginTop: 8 }}>
        {written.map((w, n) => (
          <li key={n}>
            <Mono>{w}</Mono>
          </li>
        ))}
      </List>
    </div>
  );
}
