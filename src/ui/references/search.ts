// The question to the table of references: it stands in the address, so that a view can be kept and gone back to.

import { useCallback, useEffect, useRef, useState } from 'react';
import { groupings, sortings } from '@/core/references/sheet';
import { useAddress } from '../kit/work';
import type { TableQuery } from './lines';

const rests = 250; // ms without a key after which the address follows

/** What is typed asks at once; the address follows when the typing rests, since changing it costs more than the search. */
export function useTableQuery(): { filter: TableQuery; search: (q: string) => void } {
  const [address, change] = useAddress();
  const inAddress = address.get('q') ?? '';
  const [typed, setTyped] = useState(inAddress);
  const [known, setKnown] = useState(inAddress);
  const [written, setWritten] = useState(inAddress);
  if (known !== inAddress) {
    setKnown(inAddress);
    // What was written there by the typing itself is not typed again.
    if (inAddress !== written) setTyped(inAddress);
  }
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(rest.current), []);
  const search = useCallback(
    (q: string) => {
      setTyped(q);
      clearTimeout(rest.current);
      rest.current = setTimeout(() => {
        setWritten(q);
        change({ q });
      }, rests);
    },
    [change],
  );
  return {
    search,
    filter: {
      q: typed,
      state: address.get('state') ?? '',
      group: groupings.find((g) => g === address.get('group')) ?? 'scene',
      sort: sortings.find((s) => s === address.get('sort')) ?? 'need',
      down: address.get('down') === 'yes' ? 'yes' : 'no',
    },
  };
}
