'use client';
// What stands around a reference: who else uses the file, what lies beside it, what was done with it.

import Link from '../kit/Link';
import { useState } from 'react';
import { ago, count, exactTime } from '@/core/text/figures';
import type { ReferenceDetail } from '@/wire/views';
import { Mono, Soft } from '../kit/layout';
import { useStepHref } from '../kit/work';

export function Around({ data }: { data: ReferenceDetail }) {
  const href = useStepHref();
  const [now] = useState(() => Date.now());
  const r = data.reference;
  return (
    <>
      {data.users.length > 0 && (
        <div>
          <h2>Also used by</h2>
          {data.users.slice(0, 6).map((u) => (
            <div key={`${u.scene}${u.at}`}>{u.scene}</div>
          ))}
          {data.users.length > 6 && <Soft>and {count(data.users.length - 6, 'more place')}</Soft>}
        </div>
      )}
      {data.neighbours.length > 0 && (
        <div>
          <h2>{r.target === null ? 'What lies where it points' : 'Beside it on disk'}</h2>
          {data.neighbours.map((n) => (
            <div key={n}>
              <Mono>{n}</Mono>
            </div>
          ))}
        </div>
      )}
      {data.history.length > 0 && (
        <div>
          <h2>History</h2>
          {data.history.map((l) => (
            <div key={l.id}>
              <Link href={href('/ledger', { q: l.title })}>{l.title}</Link>{' '}
              <Soft title={exactTime(Date.parse(l.time))}>
                {ago(Date.parse(l.time), now)}
                {l.state !== 'applied' && `, ${l.state}`}
              </Soft>
            </div>
          ))}
        </div>
      )}
    </>
  );
}
