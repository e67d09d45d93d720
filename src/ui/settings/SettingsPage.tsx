'use client';
// Settings: of the open workspace (where things live, what they are called, units and grid, what lies outside), and of the application.

import { Grid3x3, Home, Library, Palette, Type } from '../kit/icons';
import { shapeOf } from '../kit/api';
import { Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { Views, type View } from '../kit/tabs';
import { useAddress, useSettings, useWorkspaceId } from '../kit/work';
import { ApplicationTab } from './ApplicationTab';
import { HomesTab } from './HomesTab';
import { NamesTab } from './NamesTab';
import { OutsideTab } from './OutsideTab';
import { UnitsTab } from './UnitsTab';

const ofWorkspace = { homes: HomesTab, names: NamesTab, units: UnitsTab, outside: OutsideTab };
type Tab = keyof typeof ofWorkspace | 'application';

const tabs: readonly View<Tab>[] = [
  { id: 'homes', name: 'Homes', icon: Home },
  { id: 'names', name: 'Names', icon: Type },
  { id: 'units', name: 'Units and grid', icon: Grid3x3 },
  { id: 'outside', name: 'Libraries and places', icon: Library },
  { id: 'application', name: 'This application', icon: Palette },
];

export function SettingsPage({ theme }: { theme: string }) {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const tab: Tab =
    id === null ? 'application' : (tabs.find((t) => t.id === address.get('tab'))?.id ?? 'homes');
  return (
    <Page title="Settings" answer={id === null && 'Open a workspace to see its own settings too.'}>
      <Views
        label="Which settings"
        views={tabs.filter((t) => id !== null || t.id === 'application')}
        chosen={tab}
        onChoose={(t) => change({ tab: t })}
      >
        {tab === 'application' ? (
          <ApplicationTab theme={theme} />
        ) : (
          <OfWorkspace key={`${id} ${tab}`} tab={tab} />
        )}
      </Views>
    </Page>
  );
}

function OfWorkspace({ tab }: { tab: keyof typeof ofWorkspace }) {
  const { data, error } = useSettings();
  const Shown = ofWorkspace[tab];
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  return data ? <Shown s={data} /> : <Soft>Reading …</Soft>;
}
