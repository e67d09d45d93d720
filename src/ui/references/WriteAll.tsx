'use client';
// All chosen paths written in one way: relative, absolute, by a library's name; or as another machine has them.

import { writtenElsewhere } from '@/wire/routes/references';
import { useState } from 'react';
import type { RepathChange } from '@/wire/jobs';
import type { ReferenceView, SettingsView } from '@/wire/views';
import { call } from '../kit/api';
import { Button } from '../kit/buttons';
import { Choose, Tick } from '../kit/fields';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import type { Change } from './change';

const bases = [
  ['scene', 'the scene’s own folder, as formats do'],
  ['root', 'the root, as some programs do'],
] as const;

export function WriteAll({
  hasLibraries,
  onWrite,
}: {
  hasLibraries: boolean;
  /** `nested`: with all scenes that these lead to. */
  onWrite: (change: RepathChange, nested: boolean) => void;
}) {
  const [base, setBase] = useState<'scene' | 'root'>('scene');
  const [nested, setNested] = useState(false);
  return (
    <Sheet aria-label="Relative or absolute">
      <Stack $gap={2}>
        <h2>Or write all of them</h2>
        <Row $wrap>
          <Button onPress={() => onWrite({ how: 'relative', base }, nested)}>relative…</Button>
          <Button onPress={() => onWrite({ how: 'absolute' }, nested)}>absolute…</Button>
          {hasLibraries && (
            <Button onPress={() => onWrite({ how: 'library' }, nested)}>by library name…</Button>
          )}
        </Row>
        <Choose label="Relative paths are measured from" value={base} onChange={setBase} options={bases} />
        <Tick checked={nested} onChange={setNested}>
          with all scenes that these lead to
        </Tick>
        <Soft style={{ fontSize: 13 }}>
          Only what is found is rewritten. A library’s name is read by Loyal Satchel alone: write it out, by{' '}
          <em>absolute</em>, before a program opens the scene.
        </Soft>
      </Stack>
    </Sheet>
  );
}

export function AsElsewhere({
  id,
  places,
  rows,
  change,
  attempt,
}: {
  id: string;
  /** Those with more than one head. */
  places: SettingsView['places'];
  rows: readonly ReferenceView[];
  change: Change;
  attempt: (work: () => Promise<unknown>) => unknown;
}) {
  /** The paths as another machine has them: every other head of the place by this one. */
  const take = (place: string, head: string) =>
    attempt(async () => {
      const paths = rows.map((r, i) => ({ scene: r.scene, written: change.before[i]! }));
      change.keepAs(`as under ${head}`, await call(writtenElsewhere, { id }, { place, head, paths }));
    });
  return (
    <Sheet aria-label="As another machine has them">
      <Stack $gap={2}>
        <h2>As another machine has them</h2>
        {places.map((p) => (
          <div key={p.name}>
            <Soft>{p.name}</Soft>
            <Row $wrap>
              {p.heads.map((h) => (
                <Button key={h} onPress={() => take(p.name, h)}>
                  <Mono style={{ fontSize: 12.5 }}>{h}</Mono>
                </Button>
              ))}
            </Row>
          </div>
        ))}
      </Stack>
    </Sheet>
  );
}
