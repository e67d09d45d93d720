// Moving about in a grid without a pointer: arrows, pages, ends, letters; space selects, shift extends, Enter opens.

import { useRef, type KeyboardEvent } from 'react';

export interface GridKeys {
  lines: number;
  active: number;
  /** Lines that fit into what is seen. */
  perPage: () => number;
  /** What a line is found by when letters are typed, in small letters; '' for none. */
  nameOf: (line: number) => string;
  onMove: (line: number, extend: boolean) => void;
  onOpen: (line: number) => void;
  onToggle?: ((line: number) => void) | undefined;
  onAll?: (() => void) | undefined;
  onClear?: (() => void) | undefined;
  /** The text that copying takes from a line; null: none. */
  textOf?: ((line: number) => string | null) | undefined;
}

const pause = 800; // ms after which letters begin another word
const farthest = 2000; // lines looked at for a name

export function useGridKeys(k: GridKeys): (event: KeyboardEvent) => void {
  const typed = useRef({ text: '', at: 0 });
  const jump = (letter: string) => {
    const now = Date.now();
    const isMore = now - typed.current.at < pause;
    const text = (isMore ? typed.current.text : '') + letter.toLowerCase();
    typed.current = { text, at: now };
    for (let i = 1; i <= Math.min(k.lines, farthest); i++) {
      const line = (k.active + i - (text.length > 1 ? 1 : 0)) % k.lines;
      if (k.nameOf(line).startsWith(text)) return k.onMove(line, false);
    }
  };
  return (event) => {
    if (k.lines === 0 || event.target !== event.currentTarget) return;
    const { key } = event;
    const withControl = event.ctrlKey || event.metaKey;
    const to: Record<string, number> = {
      ArrowDown: k.active + 1,
      ArrowUp: k.active - 1,
      PageDown: k.active + k.perPage(),
      PageUp: k.active - k.perPage(),
      Home: 0,
      End: k.lines - 1,
    };
    if (key in to) k.onMove(Math.max(0, Math.min(k.lines - 1, to[key]!)), event.shiftKey);
    else if (key === ' ' && k.onToggle) k.onToggle(k.active);
    else if (key === 'Enter') k.onOpen(k.active);
    else if (key === 'Escape' && k.onClear) k.onClear();
    else if (withControl && key.toLowerCase() === 'a' && k.onAll) k.onAll();
    else if (withControl && key.toLowerCase() === 'c') {
      const text = k.textOf?.(k.active);
      if (text === null || text === undefined) return;
      void navigator.clipboard.writeText(text);
    } else if (key.length === 1 && /[\p{L}\p{N}_.-]/u.test(key) && !withControl && !event.altKey) jump(key);
    else return;
    event.preventDefault();
  };
}
