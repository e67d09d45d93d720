'use client';
// What is pressed: buttons by weight, ways to other pages that look like them, switches, menus. Behaviour is React Aria's.

import Link from './Link';
import { Button as AriaButton, Popover, ToggleButton as AriaToggle } from 'react-aria-components';
import styled, { css } from 'styled-components';
import { color, font, radius, space } from '../theme/theme';

const button = css`
  display: inline-flex;
  align-items: center;
  justify-content: center;
  gap: ${space(2)};
  min-height: 34px;
  padding: ${space(1)} ${space(3)};
  border-radius: ${radius.small};
  border: 1px solid ${color.line};
  background: ${color.sheet};
  color: ${color.ink};
  font: 600 14.5px/1.2 ${font.text};
  cursor: pointer;
  white-space: nowrap;
  text-decoration: none;
  &[data-hovered],
  &:hover {
    border-color: ${color.lineStrong};
    text-decoration: none;
  }
  &[data-pressed] {
    transform: translateY(1px);
  }
  &[data-disabled] {
    color: ${color.soft};
    cursor: default;
    border-style: dashed;
    background: transparent;
  }
`;

export const Button = styled(AriaButton)`
  ${button}
`;
export const MainButton = styled(AriaButton)`
  ${button}
  background: ${color.green};
  border-color: ${color.green};
  color: ${color.onGreen};
  &[data-hovered] {
    filter: brightness(1.1);
    border-color: ${color.green};
  }
`;
export const PlainButton = styled(AriaButton)`
  ${button}
  border-color: transparent;
  background: transparent;
  color: ${color.greenText};
  padding: ${space(1)};
  min-height: 26px;
  &[data-hovered] {
    text-decoration: underline;
    border-color: transparent;
  }
`;
export const IconButton = styled(AriaButton)`
  ${button}
  border-color: transparent;
  background: transparent;
  padding: 0;
  width: 30px;
  min-height: 30px;
  color: ${color.soft};
  &[data-hovered] {
    color: ${color.ink};
    background: ${color.raised};
  }
`;

/** A way to another page that looks like a button. */
export const LinkButton = styled(Link)`
  ${button}
`;

/** How a chip looks: what is on or off, and a tab. */
export const chip = css`
  display: inline-flex;
  align-items: center;
  gap: 6px;
  min-height: 28px;
  padding: 0 ${space(3)};
  border-radius: 15px;
  border: 1px solid ${color.line};
  background: ${color.sheet};
  color: ${color.ink};
  cursor: pointer;
  font-size: 13.5px;
  &[data-selected] {
    border-color: ${color.ink};
    box-shadow: inset 0 0 0 1px ${color.ink};
  }
  &[data-hovered] {
    border-color: ${color.lineStrong};
  }
  strong {
    font-variant-numeric: tabular-nums;
  }
`;

/** A filter or a choice that is on or off. */
export const Chip = styled(AriaToggle)`
  ${chip}
`;

/** A line of a list that is pressed; `aria-current` or `aria-pressed` marks the chosen one. */
export const LineButton = styled(AriaButton)`
  display: block;
  width: 100%;
  text-align: left;
  border: none;
  background: none;
  color: ${color.ink};
  font: inherit;
  padding: 4px ${space(2)};
  min-height: 28px;
  border-radius: ${radius.small};
  cursor: pointer;
  overflow-wrap: anywhere;
  &[data-hovered] {
    background: ${color.raised};
  }
  &[aria-current='true'],
  &[aria-pressed='true'] {
    background: ${color.greenTint};
  }
  &[aria-current='true'] {
    font-weight: 700;
  }
`;

/** A list of choices that opens at a button. */
export const MenuFrame = styled(Popover)`
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  box-shadow: 0 8px 30px ${color.shadow};
  padding: ${space(1)};
  min-width: 220px;
  max-height: 420px;
  overflow: auto;
  [role='menuitem'],
  [role='menuitemradio'] {
    display: block;
    padding: ${space(2)} ${space(3)};
    border-radius: ${radius.small};
    cursor: pointer;
    outline-offset: -2px;
  }
  [data-focused] {
    background: ${color.greenTint};
  }
`;
