// A row of the index as the browser reads it.

import type { ReferenceView } from '@/wire/views';
import type { ReferenceRow } from './database/queries';

/** A row of the index as the browser reads it. */
export function referenceView(r: ReferenceRow): ReferenceView {
  return {
    ...r,
    oddities: r.oddities === '' ? [] : r.oddities.split(' '),
    uses: r.uses === '' ? [] : r.uses.split('\n'),
    gaps: r.gaps === '' ? [] : r.gaps.split(' ').map(Number),
  };
}
