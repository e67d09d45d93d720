'use client';
// Buttons, fields and marks, styled once. Behaviour is React Aria's.

import {
  AlertTriangle,
  Briefcase,
  CaseSensitive,
  CheckCircle2,
  CircleSlash,
  ExternalLink,
  Globe,
  LibraryBig,
  Pin,
  Unlink,
  type LucideIcon,
} from 'lucide-react';
import Link from 'next/link';
import type { ReactNode } from 'react';
import {
  Button as AriaButton,
  FieldError,
  Input,
  Label,
  Popover,
  TextField as AriaTextField,
  Text,
  type TextFieldProps,
} from 'react-aria-components';
import styled, { css } from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
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

/** A way to another page that looks like a button. */
export const LinkButton = styled(Link)`
  ${button}
`;

/** A filter that is on or off. */
export const Chip = styled.button`
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
  &[aria-pressed='true'] {
    border-color: ${color.ink};
    box-shadow: inset 0 0 0 1px ${color.ink};
  }
  &:hover {
    border-color: ${color.lineStrong};
  }
  strong {
    font-variant-numeric: tabular-nums;
  }
`;

export const Grow = styled.div`
  flex: 1;
  min-width: 0;
`;
export const Soft = styled.span`
  color: ${color.soft};
`;
export const Mono = styled.span`
  font-family: ${font.mono};
  font-size: 13.5px;
  overflow-wrap: anywhere;
`;

const fieldInput = css`
  width: 100%;
  min-height: 36px;
  padding: ${space(1)} ${space(3)};
  border-radius: ${radius.small};
  border: 1px solid ${color.lineStrong};
  background: ${color.sheet};
  color: ${color.ink};
  font: 400 14.5px/1.3 ${font.text};
  &::placeholder {
    color: ${color.soft};
  }
`;
const FieldFrame = styled(AriaTextField)<{ $mono?: boolean }>`
  display: flex;
  flex-direction: column;
  gap: ${space(1)};
  min-width: 0;
  flex: 1;
  label {
    font-weight: 600;
    font-size: 13.5px;
  }
  input {
    ${fieldInput} ${(p) => (p.$mono ? `font-family: ${font.mono};` : '')}
  }
  [slot='description'] {
    color: ${color.soft};
    font-size: 13px;
  }
  .error {
    color: ${color.brick};
    font-size: 13px;
  }
`;

/** A labelled line of text. */
export function TextField({
  label,
  description,
  error,
  mono,
  placeholder,
  ...props
}: Omit<TextFieldProps, 'children'> & {
  label: string;
  description?: string;
  error?: string | undefined;
  mono?: boolean;
  placeholder?: string;
}) {
  return (
    <FieldFrame {...props} isInvalid={error !== undefined} $mono={mono}>
      <Label>{label}</Label>
      <Input placeholder={placeholder} autoComplete="off" spellCheck={false} />
      {description && !error && <Text slot="description">{description}</Text>}
      {error && <FieldError className="error">{error}</FieldError>}
    </FieldFrame>
  );
}

export const Area = styled.textarea`
  ${fieldInput} font-family: ${font.mono};
  font-size: 13.5px;
  min-height: 150px;
  resize: vertical;
`;
export const Select = styled.select`
  ${fieldInput} width: auto;
  min-width: 0;
`;

const stateTone: Record<string, [LucideIcon, string]> = {
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

/** A state as icon and word. An odd spelling of a good path is told beside it. */
export function StateMark({ state, odd }: { state: string; odd?: boolean }) {
  const [Icon, tone] = stateTone[odd && state === 'travels' ? 'odd' : state] ?? stateTone.odd!;
  return (
    <StateFrame $tone={tone}>
      <Icon size={15} aria-hidden />
      {odd && state === 'travels' ? 'spelling' : state}
    </StateFrame>
  );
}

/** Tone of a state, for chips. */
export const toneOf = (state: string) => stateTone[state]?.[1] ?? color.soft;

const Callout = styled.div<{ $tone: 'amber' | 'brick' | 'slate' | 'green' }>`
  border: 1px solid ${(p) => (p.$tone === 'green' ? color.greenText : color[p.$tone])};
  background: ${(p) => color[`${p.$tone}Tint`]};
  border-radius: ${radius.medium};
  padding: ${space(3)} ${space(4)};
  strong {
    color: ${(p) => (p.$tone === 'green' ? color.greenText : color[p.$tone])};
  }
`;

/** A box that needs to be read: what, why, what next. */
export function Notice({
  tone,
  title,
  children,
}: {
  tone: 'amber' | 'brick' | 'slate' | 'green';
  title: string;
  children?: ReactNode;
}) {
  return (
    <Callout $tone={tone} role={tone === 'brick' ? 'alert' : 'status'}>
      <strong>{title}</strong>
      {children && <div>{children}</div>}
    </Callout>
  );
}

/** An error as every screen tells it. */
export function ErrorNotice({ error }: { error: ErrorShape }) {
  return (
    <Notice tone="brick" title={error.message}>
      {error.details.length > 1 && (
        <ul>
          {error.details.slice(0, 8).map((d) => (
            <li key={d}>{d}</li>
          ))}
        </ul>
      )}
      {error.unchanged} {error.next}
    </Notice>
  );
}

const EmptyFrame = styled.div`
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: ${space(3)};
  text-align: center;
  padding: ${space(10)} ${space(6)};
  color: ${color.soft};
  border: 2px dashed ${color.line};
  border-radius: ${radius.medium};
  p {
    max-width: 460px;
  }
`;

/** An empty state: what belongs here, and the one button to begin. */
export function Empty({ children, action }: { children: ReactNode; action?: ReactNode }) {
  return (
    <EmptyFrame>
      <Briefcase size={30} aria-hidden />
      <p>{children}</p>
      {action}
    </EmptyFrame>
  );
}

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
    <StitchTrack role="img" aria-label={`${ready} of ${of} references would open elsewhere`}>
      <Sewn $part={part} />
      {part < 1 && <Open />}
    </StitchTrack>
  );
}
