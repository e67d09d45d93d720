'use client';
// Collects the styles of a server-rendered page, so that it arrives painted; each style element carries the answer's nonce.

import { useServerInsertedHTML } from 'next/navigation';
import { cloneElement, useState, type ReactElement, type ReactNode } from 'react';
import { ServerStyleSheet, StyleSheetManager } from 'styled-components';

export function StyleRegistry({ nonce, children }: { nonce: string; children: ReactNode }) {
  const [sheet] = useState(() => new ServerStyleSheet());
  useServerInsertedHTML(() => {
    const elements = sheet.getStyleElement() as ReactElement<{ nonce?: string }>[];
    sheet.instance.clearTag();
    return <>{elements.map((e, i) => cloneElement(e, { nonce, key: i }))}</>;
  });
  // In the browser the styles find the nonce themselves, in the document's meta element.
  if (typeof window !== 'undefined') return <>{children}</>;
  return <StyleSheetManager sheet={sheet.instance}>{children}</StyleSheetManager>;
}
