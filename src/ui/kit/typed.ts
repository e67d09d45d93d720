// What is searched for: it asks at once, and stands in the address once the typing rests, so that a view can be kept and gone back to.

import { useCallback, useEffect, useRef, useState } from 'react';
import { useAddress } from './work';

const rests = 250; // ms without a key after which the address follows

/** What is typed asks at once; the address follows when the typing rests, since changing it costs more than the search. */
export function useTyped(key = 'q'): { typed: string; search: (typed: string) => void } {
  const [address, change] = useAddress();
  const inAddress = address.get(key) ?? '';
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
        change({ [key]: q });
      }, rests);
    },
    [change, key],
  );
  return { typed, search };
}
