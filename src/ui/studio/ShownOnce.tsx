'use client';
// Something that is shown once and kept nowhere: a link, a key, a secret.

import { Copy } from '../kit/icons';
import { useState, type ReactNode } from 'react';
import { Button, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Grow, Mono, Row } from '../kit/layout';

export function ShownOnce({
  title,
  text,
  children,
  onClose,
}: {
  title: string;
  text: string;
  children: ReactNode;
  onClose: () => void;
}) {
  const [isCopied, setIsCopied] = useState(false);
  return (
    <Dialog title={title} urgent onClose={onClose}>
      <div>{children} It is shown only now.</div>
      <Mono style={{ overflowWrap: 'anywhere', userSelect: 'all' }}>{text}</Mono>
      <Row>
        <Grow />
        <Button
          onPress={() =>
            void navigator.clipboard.writeText(text).then(
              () => setIsCopied(true),
              () => undefined,
            )
          }
        >
          <Copy size={15} /> {isCopied ? 'Copied' : 'Copy'}
        </Button>
        <MainButton autoFocus onPress={onClose}>
          Done
        </MainButton>
      </Row>
    </Dialog>
  );
}
