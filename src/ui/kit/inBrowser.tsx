'use client';
// A page that only the browser draws: loaded when it is opened, or before that, while the browser has nothing else to do.

import { use, useEffect, useSyncExternalStore, type ComponentType } from 'react';
import { Button } from './buttons';
import { Notice } from './notices';

/** Whether a page has been drawn: from then on one that is still loading lets the one before it stay. */
let isShown = false;
const others = new Set<() => Promise<void>>();
const whenIdle = (act: () => void) =>
  'requestIdleCallback' in window ? requestIdleCallback(act, { timeout: 5000 }) : setTimeout(act, 200);

/** Loads the other pages, one after the other; one that cannot be loaded is tried again when it is opened. */
async function loadOthers() {
  for (const load of others) {
    await new Promise<void>((resolve) => void whenIdle(resolve));
    await load().catch(() => undefined);
  }
}

const reload = () => window.location.reload();

/**
 * The component that `load` brings. To be written `typeof window === 'undefined' ? null : () => import(…)`: the compiler then leaves the page out of
 * what the server loads.
 */
export function inBrowser<P extends object>(
  load: (() => Promise<ComponentType<P>>) | null,
): ComponentType<P> {
  let loaded: ComponentType<P> | 'failed' | undefined;
  let loading: Promise<void> | undefined;
  const waiting = new Set<() => void>();
  const begin = () =>
    (loading ??= load!().then(
      (component) => {
        loaded = component;
        waiting.forEach((tell) => tell());
      },
      (cause: unknown) => {
        loading = undefined;
        throw cause;
      },
    ));
  const open = () =>
    begin().catch((cause: unknown) => {
      console.error(cause);
      loaded = 'failed';
      waiting.forEach((tell) => tell());
    });
  let opening: Promise<void> | undefined;
  const subscribe = (tell: () => void) => {
    waiting.add(tell);
    return () => void waiting.delete(tell);
  };
  if (load !== null) others.add(begin);
  return function Page(props: P) {
    const Here = useSyncExternalStore(
      subscribe,
      () => loaded,
      () => undefined,
    );
    useEffect(() => {
      if (isShown) return;
      isShown = true;
      void loadOthers();
    }, []);
    if (Here === 'failed')
      return (
        <Notice tone="brick" title="This page could not be loaded.">
          <p>The server may have been stopped, or updated, since this window was opened.</p>
          <Button onPress={reload}>Load it again</Button>
        </Notice>
      );
    if (Here !== undefined) return <Here {...props} />;
    if (load === null) return null;
    opening ??= open();
    if (isShown) use(opening);
    return null;
  };
}
