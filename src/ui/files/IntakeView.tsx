'use client';
// The holding area: packs that wait, or what is in one of them.

import { listPacks } from '@/wire/routes/intake';
import { useQuery } from '@tanstack/react-query';
import { call, shapeOf } from '../kit/api';
import { Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useAddress, useWorkspaceId } from '../kit/work';
import { Pack } from './Pack';
import { Packs } from './Packs';

export function IntakeView() {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const pack = address.get('pack');
  const { data, error } = useQuery({
    queryKey: ['intake', id],
    queryFn: () => call(listPacks, { id }),
  });
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data) return <Soft>Reading …</Soft>;
  return pack === null ? (
    <Packs home={data.home} packs={data.packs} open={(p) => change({ pack: p })} />
  ) : (
    <Pack key={pack} pack={pack} home={data.home} onClose={() => change({ pack: undefined })} />
  );
}
