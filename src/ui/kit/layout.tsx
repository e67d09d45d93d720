'use client';
// How things lie on a page, and its plain words.

import styled from 'styled-components';
import { color, font, radius, space } from '../theme/theme';

export const Sheet = styled.section`
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  padding: ${space(4)};
  min-width: 0;
`;

export const Row = styled.div<{ $gap?: number; $wrap?: boolean }>`
  display: flex;
  align-items: center;
  gap: ${(p) => space(p.$gap ?? 2)};
  min-width: 0;
  ${(p) => (p.$wrap ? 'flex-wrap: wrap;' : '')}
`;
export const Stack = styled.div<{ $gap?: number }>`
  display: flex;
  flex-direction: column;
  gap: ${(p) => space(p.$gap ?? 3)};
  min-width: 0;
`;
/** A sheet with a drawer beside it. */
export const Split = styled.div`
  display: flex;
  height: 100%;
  min-width: 0;
`;

/** What scrolls by itself beside a drawer. */
export const Scroll = styled.div`
  flex: 1;
  min-width: 0;
  overflow: auto;
`;
export const Grow = styled.div`
  flex: 1;
  min-width: 0;
`;
/** Two columns of one page, one below the other where there is little room. */
export const Columns = styled.div<{ $right?: string; $one?: boolean }>`
  display: grid;
  grid-template-columns: minmax(0, 1fr) ${(p) => (p.$one ? '' : (p.$right ?? 'minmax(0, 1fr)'))};
  gap: ${space(4)};
  align-items: start;
`;
export const Soft = styled.span`
  color: ${color.soft};
`;
export const Mono = styled.span`
  font-family: ${font.mono};
  font-size: 13.5px;
  overflow-wrap: anywhere;
`;
/** The line at the foot of a page: what stays as it is, what it takes. */
export const FootLine = styled.div`
  display: flex;
  align-items: center;
  gap: ${space(3)};
  background: ${color.raised};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  padding: ${space(2)} ${space(4)};
`;
