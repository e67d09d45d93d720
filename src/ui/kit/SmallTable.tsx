'use client';
// A table of a few lines within a sheet.

import styled from 'styled-components';
import { color, space } from '../theme/theme';

export const SmallTable = styled.table`
  width: 100%;
  border-collapse: collapse;
  th {
    text-align: left;
    font-weight: 600;
    padding: 6px ${space(3)} 6px 0;
  }
  td {
    padding: 6px ${space(3)} 6px 0;
    overflow-wrap: anywhere;
  }
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
  tr {
    border-bottom: 1px solid ${color.line};
  }
`;
