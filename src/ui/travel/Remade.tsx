'use client';
// Which caches can be made again: as patterns over paths, kept with the workspace.

import type { SettingsView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { TextArea } from '../kit/fields';
import { Grow, Row, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlan } from '../kit/work';
import { useTyped } from '../kit/kept';

export function Remade({ settings, onClose }: { settings: SettingsView; onClose: () => void }) {
  const plan = usePlan();
  const { attempt, problem, busy } = useAttempt();
  const [typed, setTyped] = useTyped('caches made again', (settings.remade ?? []).join('\n'));
  const patterns = typed
    .split('\n')
    .map((p) => p.trim())
    .filter(Boolean);
  const keep = (remade: string[] | null) => attempt(() => plan({ kind: 'settings', change: { remade } }));
  return (
    <Dialog title="Caches that can be made again" onClose={onClose}>
      <Soft>
        Folders or patterns below the root, one a line: caches/sea, caches/**/*.abc. What none of them names
        counts as a cache that has to travel. As long as nothing is said, every cache counts as one that can
        be made again.
      </Soft>
      <TextArea
        label="Folders and patterns"
        height={120}
        value={typed}
        onChange={setTyped}
        placeholder="caches/sea"
      />
      <ErrorNotice error={problem} />
      <Row>
        {settings.remade !== null && <Button onPress={() => void keep(null)}>All caches again…</Button>}
        <Grow />
        <MainButton
          isDisabled={patterns.length === 0}
          isPending={busy !== null}
          onPress={() => void keep(patterns)}
        >
          Plan the change…
        </MainButton>
      </Row>
    </Dialog>
  );
}
