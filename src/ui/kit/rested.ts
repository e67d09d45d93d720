// A value once it has not changed for a while: what is typed, when the typing rests.

import { useEffect, useState } from 'react';

/** `rest`: milliseconds. */
export function useRested<T>(value: T, rest = 350): T {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), rest);
    return () => clearTimeout(timer);
  }, [value, rest]);
  return rested;
}
