'use client';
// The window: the strap with the steps of the work, the top, the sheet.

import { useEffect, type ReactNode } from 'react';
import styled from 'styled-components';
import { FocusKeeper } from '../kit/focus';
import { LeavingGuard } from '../kit/leaving';
import { ErrorNotice } from '../kit/notices';
import { useWork } from '../kit/work';
import { space } from '../theme/theme';
import { Commands } from './Commands';
import { DropToBring } from './DropToBring';
import { News } from './News';
import { Strap } from './Strap';
import { Top } from './Top';
import { Unfinished } from './Unfinished';

const Frame = styled.div`
  display: grid;
  grid-template-columns: 188px minmax(0, 1fr);
  grid-template-rows: 64px minmax(0, 1fr);
  height: 100dvh;
`;

const Main = styled.main`
  overflow: auto;
  min-width: 0;
  outline-offset: -2px;
`; // focusable, so that long pages scroll by keyboard

const Trouble = styled.div`
  padding: ${space(5)} ${space(6)} 0;
`;

/** The key has done its work once the page is here: it stays in no address that could be copied or looked at. */
function hideKey(): void {
  const url = new URL(window.location.href);
  if (!url.searchParams.has('key')) return;
  url.searchParams.delete('key');
  window.history.replaceState(null, '', url);
}

export function Shell({ children }: { children: ReactNode }) {
  const { trouble } = useWork();
  useEffect(hideKey, []);
  return (
    <LeavingGuard>
      <Frame>
        <Strap />
        <Top />
        <Main tabIndex={0}>
          {trouble && (
            <Trouble>
              <ErrorNotice error={trouble} />
            </Trouble>
          )}
          <Unfinished />
          {children}
        </Main>
        <Commands />
        <News />
        <DropToBring />
        <FocusKeeper />
      </Frame>
    </LeavingGuard>
  );
}
