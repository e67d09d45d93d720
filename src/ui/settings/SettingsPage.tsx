'use client';
// Settings: of the open workspace (where things live, what they are called, units and grid, what lies outside), and of the application.

import { readSettings } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { Grid3x3, Home, Library, Palette, Type } from 'lucide-react';
import { useState } from 'react';
import { call } from '../kit/api';
import { Chip, Mono, Row, Sheet, Soft, Stack } from '../kit/controls';
import { Needs, Page } from '../kit/Page';
import { useAddress, useServerState, useWorkspaceId } from '../kit/work';
import { HomesTab } from './HomesTab';
import { NamesTab } from './NamesTab';
import { OutsideTab } from './OutsideTab';
import { UnitsTab } from './UnitsTab';

const tabs = [
  ['homes', 'Homes', Home],
  ['names', 'Names', Type],
  ['units', 'Units and grid', Grid3x3],
  ['outside', 'Libraries and places', Library],
  ['application', 'This application', Palette],
] as const;
const themes = [
  ['system', 'As the system has it'],
  ['paper', 'Paper (light)'],
  ['night', 'Night (dark)'],
] as const;

/** Changes the page's theme at once and keeps it for the next visit. */
function wear(theme: string): void {
  document.documentElement.dataset.theme = theme;
  document.cookie = `theme=${theme}; path=/; max-age=31536000; samesite=strict`;
}

export function SettingsPage({ theme }: { theme: string }) {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const tab = id === null ? 'application' : (address.get('tab') ?? 'homes');
  const bar = (
    <Row $wrap role="group" aria-label="Which settings">
      {tabs
        .filter(([t]) => id !== null || t === 'application')
        .map(([t, name, Icon]) => (
          <Chip key={t} type="button" aria-pressed={tab === t} onClick={() => change({ tab: t })}>
            <Icon size={15} aria-hidden /> {name}
          </Chip>
        ))}
    </Row>
  );
  if (tab === 'application')
    return (
      <Page
        title="Settings"
        answer={id === null ? 'Open a workspace to see its own settings too.' : undefined}
      >
        {bar}
        <Application theme={theme} />
      </Page>
    );
  return <OfWorkspace key={`${id} ${tab}`} tab={tab} bar={bar} />;
}

function OfWorkspace({ tab, bar }: { tab: string; bar: React.ReactNode }) {
  const id = useWorkspaceId();
  const result = useQuery({
    queryKey: ['settings', id],
    enabled: id !== null,
    queryFn: () => call(readSettings, { id }),
  });
  return (
    <Needs title="Settings" result={result}>
      {(s) =>
        tab === 'names' ? (
          <NamesTab s={s} bar={bar} />
        ) : tab === 'units' ? (
          <UnitsTab s={s} bar={bar} />
        ) : tab === 'outside' ? (
          <OutsideTab s={s} bar={bar} />
        ) : (
          <HomesTab s={s} bar={bar} />
        )
      }
    </Needs>
  );
}

function Application({ theme }: { theme: string }) {
  const [chosen, setChosen] = useState(theme);
  const { data } = useServerState();
  const choose = (to: string) => {
    setChosen(to);
    wear(to);
  };
  return (
    <>
      <Sheet>
        <Stack role="radiogroup" aria-label="Theme" $gap={2}>
          <h2>Theme</h2>
          {themes.map(([id, name]) => (
            <label key={id} style={{ cursor: 'pointer' }}>
              <input type="radio" name="theme" checked={chosen === id} onChange={() => choose(id)} /> {name}
            </label>
          ))}
        </Stack>
      </Sheet>
      <Sheet>
        <Stack $gap={2}>
          <h2>Where data lies</h2>
          <div>
            What belongs to a workspace lies in it, in the hidden folder <code>.satchel</code>: its layout,
            homes, units, patterns, notes on versions, and the ledger with what undo needs. Copy the folder,
            and nothing is lost.
          </div>
          <div>
            The list of allowed folders, your own layouts, the records of moved workspaces and the index of
            references lie in <Mono>{data?.dataFolder ?? '…'}</Mono>.
          </div>
          <Soft>Version {data?.version ?? '…'}. Nothing is sent anywhere.</Soft>
        </Stack>
      </Sheet>
    </>
  );
}
