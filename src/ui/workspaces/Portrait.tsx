'use client';
// The newest scene of a workspace as a small picture; drawn when it is in sight and the page has nothing else to do.

import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { portraitOf, portraitSize } from '../preview/portrait';
import { color, radius } from '../theme/theme';

const Frame = styled.span`
  display: block;
  flex: none;
  width: ${portraitSize.width / 1.5}px;
  height: ${portraitSize.height / 1.5}px;
  border: 1px solid ${color.line};
  border-radius: ${radius.small};
  background: ${color.raised};
  overflow: hidden;
`;
const Picture = styled.img`
  display: block;
  width: 100%;
  height: 100%;
  object-fit: cover;
`;

// Who only passes through a list on the way to a workspace waits for no picture.
const patience = 900; // ms

export function Portrait({
  workspace,
  of,
}: {
  workspace: string;
  of: { path: string; size: number; modified: number } | null;
}) {
  const frame = useRef<HTMLSpanElement>(null);
  const [src, setSrc] = useState<string | null>(null);
  const { path, size, modified } = of ?? { path: null, size: 0, modified: 0 };
  useEffect(() => {
    if (path === null) return;
    const stop = new AbortController();
    let url: string | null = null;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const watch = new IntersectionObserver(([seen]) => {
      clearTimeout(timer);
      if (!seen?.isIntersecting) return;
      timer = setTimeout(() => {
        watch.disconnect();
        portraitOf({ workspace, scene: path, size, modified }, stop.signal).then(
          (picture) => {
            if (picture && !stop.signal.aborted) setSrc((url = URL.createObjectURL(picture)));
          },
          () => undefined, // it is not wanted any more
        );
      }, patience);
    });
    watch.observe(frame.current!);
    return () => {
      stop.abort();
      clearTimeout(timer);
      watch.disconnect();
      if (url) URL.revokeObjectURL(url);
    };
  }, [workspace, path, size, modified]);
  return (
    <Frame ref={frame} aria-hidden data-testid="portrait" data-has={src !== null}>
      {src && <Picture alt="" src={src} />}
    </Frame>
  );
}
