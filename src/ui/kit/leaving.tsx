'use client';
// Leaving a page on which something was changed and not saved: asked before a step away; what is left behind so waits there all the same (kept.ts).

import { useRouter } from 'next/navigation';
import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ReactNode,
} from 'react';
import { Button, MainButton } from './buttons';
import { Dialog } from './dialog';
import { Grow, Row } from './layout';

interface Unsaved {
  /** What is not saved, as a sentence. */
  said: string;
  drop: () => void;
}
interface Leaving {
  hold: (unsaved: Unsaved) => () => void;
  /** Goes on where nothing is unsaved; else asks first. */
  go: (on: () => void) => void;
}
const LeavingContext = createContext<Leaving>({ hold: () => () => undefined, go: (on) => on() });

/** The pages below it may hold back a step away. */
export function LeavingGuard({ children }: { children: ReactNode }) {
  const held = useRef(new Set<Unsaved>());
  const [asked, setAsked] = useState<{ on: () => void; unsaved: Unsaved[] } | null>(null);
  const router = useRouter();
  const go = useCallback((on: () => void) => {
    if (held.current.size === 0) on();
    else setAsked({ on, unsaved: [...held.current] });
  }, []);
  const value = useMemo<Leaving>(
    () => ({
      go,
      hold: (unsaved) => {
        held.current.add(unsaved);
        return () => held.current.delete(unsaved);
      },
    }),
    [go],
  );
  useEffect(() => {
    const onClick = (e: MouseEvent) => {
      if (held.current.size === 0 || e.defaultPrevented || e.button !== 0) return;
      if (e.ctrlKey || e.metaKey || e.shiftKey || e.altKey || !(e.target instanceof Element)) return;
      const link = e.target.closest<HTMLAnchorElement>('a[href]');
      if (!link || link.target === '_blank' || link.origin !== window.location.origin) return;
      e.preventDefault();
      e.stopPropagation();
      go(() => router.push(`${link.pathname}${link.search}`));
    };
    const onUnload = (e: BeforeUnloadEvent) => {
      if (held.current.size > 0) e.preventDefault();
    };
    document.addEventListener('click', onClick, true);
    window.addEventListener('beforeunload', onUnload);
    return () => {
      document.removeEventListener('click', onClick, true);
      window.removeEventListener('beforeunload', onUnload);
    };
  }, [go, router]);
  const end = (then?: () => void) => () => {
    setAsked(null);
    then?.();
  };
  return (
    <LeavingContext.Provider value={value}>
      {children}
      {asked && (
        <Dialog title="Leave without saving?" width={560} urgent onClose={end()}>
          {asked.unsaved.map((u) => (
            <div key={u.said}>{u.said}</div>
          ))}
          <Row $wrap>
            <Button
              onPress={end(() => {
                for (const u of asked.unsaved) u.drop();
                asked.on();
              })}
            >
              Leave, take it back
            </Button>
            <Grow />
            <Button onPress={end(asked.on)}>Leave, keep it waiting here</Button>
            <MainButton autoFocus onPress={end()}>
              Stay
            </MainButton>
          </Row>
        </Dialog>
      )}
    </LeavingContext.Provider>
  );
}

/** Says that something is not saved, while it is so. `drop` takes it back. */
export function useUnsaved(isUnsaved: boolean, said: string, drop: () => void): void {
  const { hold } = useContext(LeavingContext);
  const latest = useRef(drop);
  useEffect(() => {
    latest.current = drop;
  });
  useEffect(() => {
    if (!isUnsaved) return undefined;
    return hold({ said, drop: () => latest.current() });
  }, [isUnsaved, said, hold]);
}

/** Goes to another page, unless something unsaved holds it back. */
export function useGo() {
  const { go } = useContext(LeavingContext);
  const router = useRouter();
  return useCallback((to: string) => go(() => router.push(to)), [go, router]);
}
