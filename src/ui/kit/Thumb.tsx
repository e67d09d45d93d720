'use client';
// A small picture beside a name; an empty place where there is none.

import { useState } from 'react';
import styled from 'styled-components';
import { color } from '../theme/theme';

const Place = styled.span<{ $side: number }>`
  display: block;
  flex: none;
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

/** `src` null: it has no picture. */
export function Thumb({ src, side = 64 }: { src: string | null; side?: number }) {
  const [broken, setBroken] = useState(false);
  return (
    <Place $side={side} aria-hidden>
      {src !== null && !broken && <Picture alt="" src={src} loading="lazy" onError={() => setBroken(true)} />}
    </Place>
  );
}
