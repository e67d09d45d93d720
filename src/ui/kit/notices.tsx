'use client';
// What has to be read: notices, errors, what belongs where nothing is yet.

import { figure } from '@/core/text/figures';
import { Briefcase } from './icons';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import { color, radius, space } from '../theme/theme';

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

const detailsAtMost = 8;

/** An error as every screen tells it; nothing where there is none. */
export function ErrorNotice({ error }: { error: ErrorShape | null }) {
  if (error === null) return null;
  const rest = error.details.length - detailsAtMost;
  return (
    <Notice tone="brick" title={error.message}>
      {error.details.length > 1 && (
        <ul>
          {error.details.slice(0, detailsAtMost).map((d) => (
            <li key={d}>{d}</li>
          ))}
          {rest > 0 && <li>and {figure(rest)} more</li>}
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
