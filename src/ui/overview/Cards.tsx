'use client';
// The three figures of a workspace: its last version, its references, its room on the disk.

import { HardDrive, History, Route, type IconType } from '../kit/icons';
import Link from '../kit/Link';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { ago, bytes, count, exactBytes, exactTime, figure } from '@/core/text/figures';
import type { OverviewView } from '@/wire/views';
import { Row, Sheet, Soft } from '../kit/layout';
import { useStepHref } from '../kit/work';
import { font, space } from '../theme/theme';

const Frame = styled.div`
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: ${space(4)};
  .big {
    font: 600 20px/1.3 ${font.title};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
function Card({
  icon: Icon,
  name,
  big,
  title,
  way,
  children,
}: {
  icon: IconType;
  name: string;
  big: string;
  title?: string | undefined;
  /** The way to more of it. */
  way: ReactNode;
  children: ReactNode;
}) {
  return (
    <Sheet>
      <h2>
        <Row>
          <Icon size={15} aria-hidden /> {name}
        </Row>
      </h2>
      <div className="big" title={title}>
        {big}
      </div>
      <Soft>{children}</Soft>
      {way && <div style={{ marginTop: 8 }}>{way}</div>}
    </Sheet>
  );
}

export function Cards({ d }: { d: OverviewView }) {
  const href = useStepHref();
  const [now] = useState(() => Date.now());
  const last = d.found?.lastVersion ?? null;
  return (
    <Frame>
      <Card
        icon={History}
        name="Last version"
        big={last ? last.path.split('/').pop()! : 'none yet'}
        title={last?.path}
        way={last && <Link href={href('/versions', { scene: last.path })}>Save the next version</Link>}
      >
        {last ? (
          <>
            <span title={exactTime(last.modified)}>{ago(last.modified, now)}</span>
            {last.note && ` · “${last.note}”`}
          </>
        ) : (
          'A saved version is the way back.'
        )}
      </Card>
      <Card
        icon={Route}
        name="References"
        big={d.references === 0 ? 'none' : `${figure(d.ready)} of ${figure(d.references)}`}
        way={d.references > 0 && <Link href={href('/references')}>See all of them</Link>}
      >
        {d.scanned ? (
          <span title={exactTime(d.scanned)}>
            {count(d.scenes, 'scene file')}, read {ago(d.scanned, now)}
          </span>
        ) : (
          'being read'
        )}
      </Card>
      <Card
        icon={HardDrive}
        name="On disk"
        big={d.found ? `${bytes(d.found.bytes)} in ${count(d.found.files, 'file')}` : 'being counted'}
        title={exactBytes(d.found?.bytes ?? null)}
        way={<Link href={href('/files')}>Look at the files</Link>}
      >
        {[
          ...(d.found?.largest ?? []).map((f) => `${f.folder || 'root'} ${bytes(f.bytes)}`),
          `${bytes(d.free)} free`,
        ].join(' · ')}
      </Card>
    </Frame>
  );
}
