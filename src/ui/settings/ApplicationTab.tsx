'use client';
// Settings of the application itself: its theme, and where it keeps what.

import { useState } from 'react';
import { Radios } from '../kit/fields';
import { Mono, Sheet, Soft, Stack } from '../kit/layout';
import { useServerState } from '../kit/work';

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

export function ApplicationTab({ theme }: { theme: string }) {
  const [chosen, setChosen] = useState(theme);
  const { data } = useServerState();
  const choose = (to: string) => {
    setChosen(to);
    wear(to);
  };
  return (
    <>
      <Sheet>
        <Stack $gap={2}>
          <h2>Theme</h2>
          <Radios
            label="Theme"
            value={chosen}
            onChange={choose}
            options={themes.map(([id, name]) => ({ id: id as string, content: name }))}
          />
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
