'use client';
// A view of scenes where there is none yet: what will stand here, the way to begin, and where what comes in will lie.

import { useQuery } from '@tanstack/react-query';
import { PackagePlus } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { fileKinds } from '@/core/layouts/homes';
import { nameOfPattern } from '@/core/names/patterns';
import { readSettings } from '@/wire/routes/settings';
import type { SettingsView } from '@/wire/views';
import { color, space } from '../theme/theme';
import { today } from '../workspaces/PatternField';
import { aboutKind } from './aboutKind';
import { call } from './api';
import { LinkButton } from './buttons';
import { Grow, Mono, Row, Sheet, Soft, Stack } from './layout';
import Link from './Link';
import { Empty } from './notices';
import { useStepHref, useWorkspaceId } from './work';

const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  th,
  td {
    text-align: left;
    padding: 5px ${space(3)} 5px 0;
    border-bottom: 1px solid ${color.line};
  }
  th {
    color: ${color.soft};
    font-size: 13.5px;
  }
  tr:last-child td {
    border-bottom: 0;
  }
`;

/** `children`: what stands here once there is a scene, as a sentence. */
export function NoScene({ children }: { children: ReactNode }) {
  const id = useWorkspaceId();
  const href = useStepHref();
  const { data } = useQuery({
    queryKey: ['settings', id],
    enabled: id !== null,
    queryFn: () => call(readSettings, { id }),
  });
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
      <Table>
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
      </Table>
      <Soft>
        Versions of a scene called “quay” are named <Mono>{named(1)}</Mono>, <Mono>{named(2)}</Mono> …,{' '}
        <Link href={href('/settings', { tab: 'names' })}>by the pattern in Settings</Link>.
      </Soft>
    </Sheet>
  );
}
