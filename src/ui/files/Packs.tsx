'use client';
// The packs that wait in the holding area, and the ways to take one in.

import { FolderInput, Inbox, PackageOpen } from '../kit/icons';
import { useState } from 'react';
import styled from 'styled-components';
import { bytes, count, exactBytes } from '@/core/text/figures';
import type { PackView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button, PlainButton } from '../kit/buttons';
import { FolderChooser } from '../kit/FolderChooser';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { Empty, ErrorNotice } from '../kit/notices';
import { usePlan } from '../kit/work';
import { color, space } from '../theme/theme';

const Line = styled.div`
  display: flex;
  align-items: center;
  gap: ${space(3)};
  padding: ${space(2)} 0;
  border-bottom: 1px solid ${color.line};
`;
export function Packs({
  home,
  packs,
  open,
}: {
  home: string;
  packs: PackView[];
  open: (pack: string) => void;
}) {
  const [chooser, setChooser] = useState<'folder' | 'bag' | null>(null);
  const { attempt, problem } = useAttempt();
  const plan = usePlan();
  const take = (from: string) => {
    setChooser(null);
    void attempt(() => plan({ kind: 'intake', from }));
  };
  const ways = (
    <Row $wrap>
      <Button onPress={() => setChooser('folder')}>
        <FolderInput size={15} /> A folder…
      </Button>
      <Button onPress={() => setChooser('bag')}>
        <PackageOpen size={15} /> A ZIP archive…
      </Button>
    </Row>
  );
  return (
    <Sheet aria-label="Packs in the holding area">
      <Stack>
        <ErrorNotice error={problem} />
        <Row $wrap>
          <Grow>
            <h2>Waiting in {home}/</h2>
          </Grow>
          {packs.length > 0 && ways}
        </Row>
        {packs.length === 0 ? (
          <Empty action={ways}>
            Packs and downloads wait here until they are filed. Drop a folder or a ZIP on the window, or take
            one from disk.
          </Empty>
        ) : (
          packs.map((p) => (
            <Line key={p.path}>
              <Inbox size={16} aria-hidden />
              <Grow>
                <PlainButton onPress={() => open(p.path)} style={{ color: color.ink }}>
                  <strong>{p.name}</strong>
                </PlainButton>
                <br />
                <Soft>
                  {[
                    count(p.files, 'file'),
                    p.scenes > 0 ? count(p.scenes, 'scene') : '',
                    p.textures > 0 ? count(p.textures, 'texture') : '',
                    p.used > 0 ? `${p.used} in use` : 'nothing in use',
                  ]
                    .filter(Boolean)
                    .join(' · ')}
                </Soft>
              </Grow>
              <span title={exactBytes(p.bytes)}>{bytes(p.bytes)}</span>
              <Button aria-label={`See what is in ${p.name}`} onPress={() => open(p.path)}>
                See what is in it
              </Button>
            </Line>
          ))
        )}
        {chooser && (
          <FolderChooser
            title={chooser === 'folder' ? 'Which folder is the pack?' : 'Which ZIP archive?'}
            pick={chooser}
            action="Plan it"
            onClose={() => setChooser(null)}
            onChoose={([from]) => take(from!)}
          />
        )}
      </Stack>
    </Sheet>
  );
}
