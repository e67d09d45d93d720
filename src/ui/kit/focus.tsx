'use client';
// Where the focus goes when what had it goes away: to the next thing that is still there, or to the heading of what took its place; never to nowhere.

import { usePathname } from 'next/navigation';
import { useEffect, useRef } from 'react';

const reachable = 'a[href], button, input, textarea, select, [tabindex]:not([tabindex="-1"])';

function canTake(e: Element): e is HTMLElement {
  return (
    e instanceof HTMLElement &&
    e.isConnected &&
    !e.matches(':disabled, [aria-disabled="true"], [data-disabled]') &&
    e.tabIndex >= 0 &&
    e.getClientRects().length > 0 &&
    e.closest('[inert], [aria-hidden="true"]') === null
  );
}

const main = () => document.querySelector('main');

/** The heading of the page, so that Tab goes on with what stands below it. */
function toHeading(): void {
  const heading = main()?.querySelector('h1');
  if (!heading) return;
  heading.tabIndex = -1;
  heading.focus({ preventScroll: true });
}

interface Held {
  element: HTMLElement;
  /** All that could be reached in the main part when it got the focus, in their order; and which of them it was. */
  order: Element[];
  at: number;
  /** What it lay in, the nearest first. */
  around: Element[];
}

function hold(element: HTMLElement): Held {
  const around: Element[] = [];
  for (let e = element.parentElement; e && e !== document.body; e = e.parentElement) around.push(e);
  const order = [...(main()?.querySelectorAll(reachable) ?? [])];
  return { element, order, at: order.indexOf(element), around };
}

/** The one to go to when what was held is gone: nearest after it, else before it, in the nearest part of the page that is left. */
export function successorOf(held: Held): HTMLElement | null {
  if (held.at < 0) return null;
  const after = held.order.slice(held.at + 1).filter(canTake);
  const before = held.order.slice(0, held.at).reverse().filter(canTake);
  for (const part of held.around) {
    if (!part.isConnected) continue;
    if (part.matches('main')) break;
    const next = after.find((e) => part.contains(e)) ?? before.find((e) => part.contains(e));
    if (next) return next;
    // What is new in this part took the place of what went.
    const fresh = [...part.querySelectorAll(reachable)].find(canTake);
    if (fresh) return fresh;
  }
  return null;
}

export function FocusKeeper() {
  const pathname = usePathname();
  const last = useRef<string | null>(null);
  useEffect(() => {
    if (last.current !== null && last.current !== pathname) {
      // A page that knows better has put the focus into its own part already.
      const timer = setTimeout(() => {
        const at = document.activeElement;
        if (!at || at === document.body || at.closest('main > *') === null) toHeading();
      }, 60);
      last.current = pathname;
      return () => clearTimeout(timer);
    }
    last.current = pathname;
    return undefined;
  }, [pathname]);
  useEffect(() => {
    let held: Held | null = null;
    let waiting = 0;
    const isNowhere = () => document.activeElement === null || document.activeElement === document.body;
    const look = () => {
      waiting = 0;
      if (!held || !isNowhere()) return;
      const { element } = held;
      if (element.isConnected) {
        // Out of use for the moment, as a button is while its work goes on: it gets the focus back.
        if (canTake(element)) element.focus({ preventScroll: true });
        return;
      }
      const next = successorOf(held);
      held = null;
      if (next) next.focus({ preventScroll: true });
      else toHeading();
    };
    const soon = () => {
      if (held && !waiting) waiting = requestAnimationFrame(look);
    };
    const onFocusIn = (e: FocusEvent) => {
      // From a dialog, the way leads back to where it was opened.
      if (e.target instanceof HTMLElement && e.target.closest('main')) held = hold(e.target);
    };
    // A press beside everything takes the focus away on purpose.
    const onPointerDown = (e: PointerEvent) => {
      if (e.target instanceof Element && e.target.closest(reachable) === null) held = null;
    };
    const watch = new MutationObserver(soon);
    watch.observe(document.body, {
      childList: true,
      subtree: true,
      attributes: true,
      attributeFilter: ['disabled'],
    });
    document.addEventListener('focusin', onFocusIn);
    document.addEventListener('focusout', soon);
    document.addEventListener('pointerdown', onPointerDown, true);
    return () => {
      watch.disconnect();
      cancelAnimationFrame(waiting);
      document.removeEventListener('focusin', onFocusIn);
      document.removeEventListener('focusout', soon);
      document.removeEventListener('pointerdown', onPointerDown, true);
    };
  }, []);
  return null;
}
