'use client';
// Signs that mean something: the state of a reference, readiness as a seam.

import { figure } from '@/core/text/figures';
import {
  AlertTriangle,
  CaseSensitive,
  CheckCircle2,
  CircleSlash,
  ExternalLink,
  Globe,
  LibraryBig,
  Pin,
  Unlink,
  type IconType,
} from './icons';
import styled, { css } from 'styled-components';
import { color } from '../theme/theme';

const stateTone: Record<string, [IconType, string]> = {
  missing: [Unlink, color.brick],
  offline: [CircleSlash, color.brick],
  case: [CaseSensitive, color.amber],
  outside: [ExternalLink, color.amber],
  absolute: [Pin, color.amber],
  remote: [Globe, color.slate],
  library: [LibraryBig, color.slate],
  travels: [CheckCircle2, color.greenText],
  odd: [AlertTriangle, color.amber],
};

const StateFrame = styled.span<{ $tone: string }>`
  display: inline-flex;
  align-items: center;
  gap: 6px;
  color: ${(p) => p.$tone};
  font-weight: 600;
  white-space: nowrap;
`;

/** A state as icon and word. An odd spelling of a good path, or holes in a sequence, are told instead. */
export function StateMark({ state, odd, holes }: { state: string; odd?: boolean; holes?: boolean }) {
  const isOdd = state === 'travels' && (odd === true || holes === true);
  const [Icon, tone] = stateTone[isOdd ? 'odd' : state] ?? stateTone.odd!;
  return (
    <StateFrame $tone={tone}>
      <Icon size={15} aria-hidden />
      {isOdd ? (holes ? 'holes' : 'spelling') : state}
    </StateFrame>
  );
}

/** Tone of a state, for chips. */
export const toneOf = (state: string) => stateTone[state]?.[1] ?? color.soft;

const stitchLine = css`
  height: 4px;
  flex: none;
  background-size: 12px 4px;
  background-repeat: repeat-x;
`;
const StitchTrack = styled.div`
  display: flex;
  width: 100%;
  gap: 4px;
`;
const Sewn = styled.div<{ $part: number }>`
  ${stitchLine} width: ${(p) => p.$part * 100}%;
  background-image: linear-gradient(90deg, ${color.greenText} 8px, transparent 8px);
`;
const Open = styled.div`
  ${stitchLine} flex: 1;
  background-image: linear-gradient(90deg, ${color.line} 8px, transparent 8px);
`;

/** Readiness as a seam: sewn as far as it holds. */
export function Seam({ ready, of }: { ready: number; of: number }) {
  // One broken tie of many still shows as a gap; none at all is no seam yet.
  const part = of === 0 ? 0 : ready === of ? 1 : Math.min(0.94, ready / of);
  return (
    <StitchTrack role="img" aria-label={`${figure(ready)} of ${figure(of)} references would open elsewhere`}>
      <Sewn $part={part} />
      {part < 1 && <Open />}
    </StitchTrack>
  );
}
