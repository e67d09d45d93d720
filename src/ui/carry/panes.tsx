'use client';
// Three panes: from where, what comes, into what.

import styled from 'styled-components';
import { space } from '../theme/theme';

export const Panes = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 0.9fr) minmax(0, 1.15fr) minmax(0, 0.9fr);
  gap: ${space(4)};
  flex: 1;
  min-height: 320px;
  @media (max-width: 1120px) {
    grid-template-columns: minmax(0, 0.8fr) minmax(0, 1.1fr) minmax(0, 0.9fr);
    gap: ${space(3)};
  }
`;
