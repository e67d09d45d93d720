'use client';
// Settings: the theme, and where data lies.

import { useState } from 'react';
import { Mono, Sheet, Soft, Stack } from '../kit/controls';
import { Page } from '../kit/Page';
import { useServerState } from '../kit/work';

const themes = [['system', 'As the system has it'], ['paper', 'Paper (light)'], ['night', 'Night (dark)']] as const;

/** Changes the page's theme at once and keeps it for the next visit. */
function wear(theme: string): void {
  document.documentElement.dataset.theme = theme;
  document.cookie = `theme=${theme}; path=/; max-age=31536000; samesite=strict`;
}

export function SettingsPage({ theme }: { theme: string }) {
  const [chosen, setChosen] = useState(theme);
  const { data } = useServerState();
  const choose = (to: string) => {
    setChosen(to);
    wear(to);
  };
  return (
    <Page title="Settings">
      <Sheet><Stack role="radiogroup" aria-label="Theme" $gap={2}>
        <h2>Theme</h2>
        {themes.map(([id, name]) => <label key={id} style={{ cursor: 'pointer' }}><input type="radio" name="theme" checked={chosen === id} onChange={() => choose(id)} /> {name}</label>)}
      </Stack></Sheet>
      <Sheet><Stack $gap={2}>
        <h2>Where data lies</h2>
        <div>What belongs to a workspace lies in it, in the hidden folder <code>.satchel</code>: its layout, homes, notes on versions, and the ledger with what undo needs. Copy the folder, and nothing is lost.</div>
        <div>The list of places and the index of references lie in <Mono>{data?.dataFolder ?? '…'}</Mono>. Deleting that costs a new reading, never work.</div>
        <Soft>Version {data?.version ?? '…'}. Nothing is sent anywhere.</Soft>
      </Stack></Sheet>
    </Page>
  );
}
