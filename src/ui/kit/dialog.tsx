'use client';
// A dialog over the page: its title, what it asks, its buttons. Escape and a press outside close it; the focus goes back to where it was.

import type { CSSProperties, ReactNode } from 'react';
import { Dialog as AriaDialog, Heading, Modal, ModalOverlay } from 'react-aria-components';
import styled from 'styled-components';
import { color, font, radius, space } from '../theme/theme';
import { Stack } from './layout';

export const Veil = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  background: ${color.veil};
  display: flex;
  align-items: flex-start;
  justify-content: center;
  padding: 8vh ${space(4)} ${space(4)};
  z-index: 20;
`;
export const Card = styled(Modal)`
  background: ${color.sheet};
  color: ${color.ink};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  box-shadow: 0 16px 60px ${color.shadow};
  width: 100%;
  max-height: 84vh;
  overflow: auto;
  outline: none;
  [role='dialog'],
  [role='alertdialog'] {
    outline: none;
  }
`;
const title: CSSProperties = { font: `600 19px ${font.title}`, margin: 0 };

/** `urgent`: a question that has to be answered before anything else goes on. */
export function Dialog({
  title: said,
  width = 640,
  urgent = false,
  onClose,
  children,
}: {
  title: string;
  /** Pixels at most. */
  width?: number;
  urgent?: boolean;
  onClose: () => void;
  children: ReactNode;
}) {
  return (
    <Veil isOpen onOpenChange={(open) => !open && onClose()} isDismissable={!urgent}>
      <Card style={{ maxWidth: width }}>
        <AriaDialog {...(urgent ? { role: 'alertdialog' as const } : {})}>
          <Stack style={{ padding: 20 }}>
            <Heading slot="title" style={title}>
              {said}
            </Heading>
            {children}
          </Stack>
        </AriaDialog>
      </Card>
    </Veil>
  );
}
