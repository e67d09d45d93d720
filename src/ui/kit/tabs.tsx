'use client';
// Views of one page, one at a time: arrows move between them, Tab goes into what is shown.

import type { LucideIcon } from 'lucide-react';
import type { ReactNode } from 'react';
import { Tab, TabList, TabPanel, Tabs } from 'react-aria-components';
import styled from 'styled-components';
import { color, space } from '../theme/theme';

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
  }
  [role='tab'][data-selected] {
    border-color: ${color.ink};
    box-shadow: inset 0 0 0 1px ${color.ink};
  }
  [role='tab'][data-hovered] {
    border-color: ${color.lineStrong};
  }
  [role='tab'] strong {
    font-variant-numeric: tabular-nums;
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
  icon: LucideIcon;
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
        {views.map(({ id, name, icon: Icon, figure }) => (
          <Tab key={id} id={id}>
            <Icon size={15} aria-hidden /> {name}
            {figure !== undefined && <strong>{figure.toLocaleString('en')}</strong>}
          </Tab>
        ))}
      </TabList>
      <TabPanel id={chosen}>{children}</TabPanel>
    </Frame>
  );
}
