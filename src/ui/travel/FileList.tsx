// Files or folders with their sizes, a line each, in a dialog.

import styled from 'styled-components';
import { color, space } from '../theme/theme';

export const FileList = styled.div`
  max-height: 46vh;
  overflow: auto;
  border: 1px solid ${color.line};
  border-radius: 8px;
  padding: 0 ${space(2)};
  > div {
    padding: 4px 0;
  }
  > div + div {
    border-top: 1px solid ${color.line};
  }
  .number {
    font-variant-numeric: tabular-nums;
    color: ${color.soft};
    white-space: nowrap;
  }
`;
