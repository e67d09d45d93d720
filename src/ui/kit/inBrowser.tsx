'use client';
// Renders a page only in the browser. Its code is loaded when the page opens, or earlier when the browser is idle.

import { use, useEffect, useSyncExternalStore, type ComponentType } from 'react';
import { Button } from './buttons';
import styled from 'styled-components';
import { Notice } from './notices';
import { space } from '../theme/theme';

const Apart = styled.div`
  padding: ${space(6)};
`;

/** True after the first page was rendered. From then on the previous page stays until the next has loaded. */
let isShown = false;
const others = new Set<() => Promise<void>>();
const whenIdle = (act: () => void) =>
  'requestIdleCallback' in window ? requestIdleCallback(act, { timeout: 5000 }) : setTimeout(act, 200);

/** Loads the other pages in turn. A page that fails is loaded again when it opens. */
async function loadOthers() {
  for (const load of others) {
    await new Promise<void>((resolve) => void whenIdle(resolve));
    await load().catch(() => undefined);
  }
}

const reload = () => window.location.reload();

/**
 * Wraps the component that `load` imports. Pass `typeof window === 'undefined' ? null : () => import(…)`, which lets the compiler drop the page from the
 * server bundle.
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
        <Apart>
          <Notice tone="brick" title="This page could not be loaded.">
            <p>The server may have been stopped, or updated, since this window was opened.</p>
            <Button onPress={reload}>Load it again</Button>
          </Notice>
        </Apart>
      );
    if (Here !== undefined) return <Here {...props} />;
    if (load === null) return null;
    opening ??= open();
    if (isShown) use(opening);
    return null;
  };
}
