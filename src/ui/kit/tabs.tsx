'use client';
// Views of one page, one at a time: arrows move between them, Tab goes into what is shown.

import { figure } from '@/core/text/figures';
import type { IconType } from './icons';
import type { ReactNode } from 'react';
import { Tab, TabList, TabPanel, Tabs } from 'react-aria-components';
import styled from 'styled-components';
import { space } from '../theme/theme';
import { chip } from './buttons';

const Frame = styled(Tabs)`
  display: flex;
  flex-direction: column;
  gap: ${space(4)};
  flex: 1 1 auto;
  min-width: 0;
  min-height: 0;
  [role='tablist'] {
    display: flex;
    flex-wrap: wrap;
    gap: ${space(2)};
  }
  [role='tab'] {
    ${chip}
  }
  [role='tabpanel'] {
    display: flex;
    flex-direction: column;
    gap: ${space(4)};
    flex: 1 1 auto;
    min-width: 0;
    min-height: 0;
    outline-offset: 4px;
  }
  /* What has the focus in it shows that itself. */
  [role='tabpanel']:not(:focus) {
    outline: none;
  }
`;

export interface View<T extends string> {
  id: T;
  name: string;
  icon: IconType;
  /** Said behind the name. */
  figure?: number | undefined;
}

/** `children` is what the chosen view shows. */
export function Views<T extends string>({
  label,
  views,
  chosen,
  onChoose,
  children,
}: {
  label: string;
  views: readonly View<T>[];
  chosen: T;
  onChoose: (view: T) => void;
  children: ReactNode;
}) {
  return (
    // Chosen by Enter or a press, not by passing over it: a view may be costly to work out.
    <Frame selectedKey={chosen} onSelectionChange={(key) => onChoose(key as T)} keyboardActivation="manual">
      <TabList aria-label={label}>
        {views.map(({ id, name, icon: Icon, figure: n }) => (
          <Tab key={id} id={id}>
            <Icon size={15} aria-hidden /> {name}
            {n !== undefined && <strong>{figure(n)}</strong>}
          </Tab>
        ))}
      </TabList>
      {/* Another panel for another view: the tab names it by its id, which one that stays would keep. */}
      <TabPanel key={chosen} id={chosen}>
        {children}
      </TabPanel>
    </Frame>
  );
}
