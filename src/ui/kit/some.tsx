'use client';
// The first of a long list, how many more there are, and a button that shows them.

import { useState, type ReactNode } from 'react';
import { count } from '@/core/text/figures';
import { PlainButton } from './buttons';
import { linesAtOnce } from './tree';

/** The lines that are shown, and the button that shows more of them; null where that is all. `more`: what one more is called, 'more file'. */
export function useSome<T>(
  of: readonly T[],
  more: string,
  atOnce: number = linesAtOnce,
): [shown: readonly T[], rest: ReactNode] {
  const [most, setMost] = useState(atOnce);
  const left = of.length - most;
  return [
    of.slice(0, most),
    left > 0 ? (
      <PlainButton onPress={() => setMost(most + Math.max(atOnce, linesAtOnce))}>
        {count(left, more)}: show {Math.min(Math.max(atOnce, linesAtOnce), left).toLocaleString('en')}
      </PlainButton>
    ) : null,
  ];
}

/** A list of lines, cut where it is long. */
export function Some<T>({
  of,
  more,
  atOnce,
  isList = false,
  children,
}: {
  of: readonly T[];
  more: string;
  atOnce?: number;
  /** The lines are items of a list: so is the button. */
  isList?: boolean;
  children: (one: T, n: number) => ReactNode;
}) {
  const [shown, rest] = useSome(of, more, atOnce);
  return (
    <>
      {shown.map(children)}
      {rest && isList ? <li role="listitem">{rest}</li> : rest}
    </>
  );
}
