'use client';
// A view of scenes where there is none yet: what will stand here, the way to begin, and where what comes in will lie.

import { PackagePlus } from '../kit/icons';
import { useState, type ReactNode } from 'react';
import { fileKinds } from '@/core/layouts/homes';
import { nameOfPattern } from '@/core/names/patterns';
import type { SettingsView } from '@/wire/views';
import { aboutKind } from '../kit/aboutKind';
import { LinkButton } from '../kit/buttons';
import { Grow, Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import Link from '../kit/Link';
import { Empty } from '../kit/notices';
import { SmallTable } from '../kit/SmallTable';
import { useSettings, useStepHref } from '../kit/work';
import { today } from './PatternField';

/** `children`: what stands here once there is a scene, as a sentence. */
export function NoScene({ children }: { children: ReactNode }) {
  const href = useStepHref();
  const { data } = useSettings();
  return (
    <Stack>
      <Empty
        action={
          <LinkButton href={href('/files')}>
            <PackagePlus size={16} /> Bring a scene in
          </LinkButton>
        }
      >
        {children} A scene or a whole download may also be dropped on this window.
      </Empty>
      {data && Object.keys(data.homes).length > 0 && <Homes settings={data} />}
    </Stack>
  );
}

function Homes({ settings: { homes, names } }: { settings: SettingsView }) {
  const href = useStepHref();
  const [date] = useState(today);
  const folders = new Map<string, string[]>();
  for (const kind of fileKinds) {
    const home = homes[kind];
    if (home !== undefined) folders.set(home, [...(folders.get(home) ?? []), aboutKind[kind]]);
  }
  const named = (version: number) =>
    nameOfPattern(names.scene, { date, title: 'quay', person: names.person, version });
  return (
    <Sheet aria-label="Where what comes in will lie">
      <Row>
        <Grow>
          <h2>Where what comes in will lie</h2>
        </Grow>
        <Link href={href('/settings', { tab: 'homes' })}>Change homes</Link>
      </Row>
      <SmallTable>
        <thead>
          <tr>
            <th>Home</th>
            <th>For</th>
          </tr>
        </thead>
        <tbody>
          {[...folders].map(([folder, kinds]) => (
            <tr key={folder}>
              <td>
                <Mono>{folder}/</Mono>
              </td>
              <td>{kinds.join('; ')}</td>
            </tr>
          ))}
        </tbody>
      </SmallTable>
      <Soft>
        Versions of a scene called “quay” are named <Mono>{named(1)}</Mono>, <Mono>{named(2)}</Mono> …,{' '}
        <Link href={href('/settings', { tab: 'names' })}>by the pattern in Settings</Link>.
      </Soft>
    </Sheet>
  );
}
