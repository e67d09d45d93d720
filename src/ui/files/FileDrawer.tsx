'use client';
// One file in full: what it holds, and who uses it.

import { readFileDetail } from '@/wire/routes/files';
import { useQuery } from '@tanstack/react-query';
import { CheckCircle2, Unplug } from '../kit/icons';
import Link from '../kit/Link';
import { useState } from 'react';
import { ago, bytes, count, exactBytes, exactTime } from '@/core/text/figures';
import { call, query, shapeOf } from '../kit/api';
import { Drawer, FullPath, Preview } from '../kit/Drawer';
import { Row, Soft } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { useStepHref } from '../kit/work';
import { Some } from '../kit/some';
import { CarryTo } from '../carry/CarryTo';
import { OtherForm } from './OtherForm';
import { RenameFile } from './RenameFile';

export function FileDrawer({
  workspace,
  path,
  onClose,
}: {
  workspace: string;
  path: string;
  onClose: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: ['file', workspace, path],
    queryFn: () => call(readFileDetail, { id: workspace }, { path }),
  });
  const [now] = useState(() => Date.now());
  const href = useStepHref();
  const name = path.split('/').pop() ?? path;
  return (
    <Drawer title={name} label="The file in full" onClose={onClose}>
      {error && <ErrorNotice error={shapeOf(error)} />}
      {data && (
        <>
          {data.preview && (
            <Preview key={path} name={name} src={`/api/workspaces/${workspace}/picture${query({ path })}`} />
          )}
          <div>{data.facts ?? 'What it holds is not known here.'}</div>
          {data.disagrees && (
            <Notice tone="amber" title={data.disagrees}>
              Programs that go by the name may refuse it.
            </Notice>
          )}
          <Soft>
            <span title={exactBytes(data.size)}>{bytes(data.size)}</span> ·{' '}
            <span title={exactTime(data.modified)}>changed {ago(data.modified, now)}</span>
          </Soft>
          <div>
            <h2>Who uses it</h2>
            {data.users.length === 0 ? (
              <Row>
                {data.unused ? (
                  <>
                    <Unplug size={15} aria-hidden /> No scene of this workspace uses it.
                  </>
                ) : (
                  <Soft>No scene leads to it, nor needs to.</Soft>
                )}
              </Row>
            ) : (
              <>
                <Row>
                  <CheckCircle2 size={15} aria-hidden /> {count(data.users.length, 'reference')}
                </Row>
                <Some of={data.users} more="more place" atOnce={12}>
                  {(u) => (
                    <div key={`${u.scene} ${u.at}`}>
                      <Link href={href('/references', { scene: u.scene, at: u.at })}>{u.scene}</Link>{' '}
                      <Soft>{u.at}</Soft>
                    </div>
                  )}
                </Some>
              </>
            )}
          </div>
          <Link href={`/?${new URLSearchParams({ view: 'uses', q: data.fullPath }).toString()}`}>
            Who uses it in other workspaces
          </Link>
          <div>
            <h2>Where it lies</h2>
            <FullPath path={data.fullPath} />
            {data.home && <Soft>the home of {data.home} files</Soft>}
          </div>
          <CarryTo path={path} />
          <OtherForm path={path} />
          <RenameFile key={path} path={path} kind={data.kind} home={data.home} />
        </>
      )}
    </Drawer>
  );
}
