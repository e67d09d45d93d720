// A choice that this browser remembers, for every workspace and every window: on or off.

import { useCallback, useSyncExternalStore } from 'react';

const listeners = new Set<() => void>();

/** The choice, and how it is changed. Off until it was made, and where the browser keeps nothing. */
export function useRemembered(name: string): [boolean, (on: boolean) => void] {
  const key = `satchel-${name}`;
  const on = useSyncExternalStore(
    useCallback((listener: () => void) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    }, []),
    () => read(key) === 'on',
    () => false,
  );
  const set = (wanted: boolean) => {
    try {
      localStorage.setItem(key, wanted ? 'on' : 'off');
    } catch {
      // It is not remembered, then.
    }
    for (const listener of listeners) listener();
  };
  return [on, set];
}

function read(key: string): string | null {
  try {
    return localStorage.getItem(key);
  } catch {
    return null;
  }
}
