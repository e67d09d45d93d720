'use client';
// A small picture beside a name; an empty place where there is none.

import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { color } from '../theme/theme';

const Place = styled.span<{ $side: number }>`
  display: inline-flex;
  align-items: center;
  justify-content: center;
  flex: none;
  color: ${color.soft};
  width: ${({ $side }) => $side}px;
  height: ${({ $side }) => $side}px;
  border-radius: 4px;
  background: ${color.raised};
  border: 1px solid ${color.line};
  overflow: hidden;
  img {
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
`;
const Picture = styled.img``;

/** `src` null: it has no picture. `side` in pixels; `sign` stands in the place of a picture that is not there or cannot be shown. */
export function Thumb({ src, side = 64, sign }: { src: string | null; side?: number; sign?: ReactNode }) {
  const [broken, setBroken] = useState<string | null>(null);
  return (
    <Place $side={side} aria-hidden>
      {src !== null && broken !== src ? (
        <Picture alt="" src={src} loading="lazy" onError={() => setBroken(src)} />
      ) : (
        sign
      )}
    </Place>
  );
}
