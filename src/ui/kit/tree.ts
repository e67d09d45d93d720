// How trees look: lines of one height, their figures at the right.

import styled from 'styled-components';
import { color, font, radius, space } from '../theme/theme';

export const TreeLook = styled.div`
  flex: 1;
  min-height: 0;
  overflow: auto;
  [role='treegrid'] {
    outline-offset: -2px;
    border-radius: ${radius.small};
    min-height: 100px;
  }
  [role='row'] {
    padding: 0 ${space(2)} 0 calc((var(--tree-item-level) - 1) * 18px);
    border-radius: ${radius.small};
    cursor: default;
    outline-offset: -2px;
  }
  [role='row'][data-drop-target] {
    box-shadow: inset 0 0 0 2px ${color.saddle};
  }
  [role='row'][data-dragging] {
    opacity: 0.5;
  }
  .react-aria-DropIndicator[data-drop-target] {
    outline: 1.5px solid ${color.saddle};
  }
  .line {
    display: flex;
    align-items: center;
    gap: ${space(2)};
    min-height: 28px;
    min-width: 0;
  }
  .grow {
    flex: 1;
    min-width: 0;
    display: flex;
    align-items: center;
    gap: ${space(2)};
  }
  .node {
    font: 400 13.5px/1.3 ${font.mono};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .folder {
    font-weight: 700;
  }
  .figure {
    flex: none;
    font-variant-numeric: tabular-nums;
    color: ${color.soft};
    font-size: 13.5px;
  }
  .told {
    flex: none;
    max-width: 60%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: 13px;
  }
  .amber {
    color: ${color.amber};
  }
  .brick {
    color: ${color.brick};
  }
  .slate {
    color: ${color.slate};
  }
  .under {
    display: flex;
    gap: 6px;
    align-items: baseline;
    padding: 0 0 4px 46px;
    font-size: 13px;
    font-weight: 600;
    color: ${color.amber};
    svg {
      flex: none;
      align-self: center;
    }
  }
  button[slot='chevron'],
  button[slot='drag'] {
    background: none;
    border: none;
    padding: 0;
    color: ${color.soft};
    width: 18px;
    height: 24px;
    flex: none;
    display: inline-flex;
    align-items: center;
    justify-content: center;
    cursor: pointer;
  }
  button[slot='drag'] {
    cursor: grab;
    width: 14px;
  }
  [data-expanded] > * button[slot='chevron'] svg {
    transform: rotate(90deg);
  }
`;

/** So many lines of one folder or group are drawn at first, and so many more each time. */
export const linesAtOnce = 200;
