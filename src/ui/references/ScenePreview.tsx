'use client';
// A scene in space beside its references: an object picked shows what it is drawn with, a reference chosen shows where it is used.

import { readScene } from '@/wire/routes/references';
import { useQuery } from '@tanstack/react-query';
import { ArrowLeft, Grid3x3 } from '../kit/icons';
import dynamic from 'next/dynamic';
import { useCallback, useMemo, useState } from 'react';
import styled from 'styled-components';
import { lengthText } from '@/core/units/units';
import { count, figure } from '@/core/text/figures';
import type { ReferenceView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { Button, Chip } from '../kit/buttons';
import { Grow, Row, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { space } from '../theme/theme';
import { UseList } from './UseList';
import { keyOfRow } from '@/core/references/key';
import type { Picked } from '../preview/Stage';

// three.js comes only when a scene is looked at.
const Stage = dynamic(() => import('../preview/Stage'), {
  ssr: false,
  loading: () => <Soft>Loading …</Soft>,
});

const Side = styled.div`
  display: flex;
  gap: ${space(4)};
  flex: 1;
  min-height: 0;
`;
export function ScenePreview({
  workspace,
  scene,
  opened,
  onOpen,
  onClose,
}: {
  workspace: string;
  scene: string;
  opened: { scene: string; at: string } | null;
  onOpen: (r: ReferenceView) => void;
  onClose: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: ['scene', workspace, scene],
    staleTime: 30_000,
    queryFn: () => call(readScene, { id: workspace }, { scene }),
  });
  const [picked, setPicked] = useState<Picked | null>(null);
  const [hasGrid, setGrid] = useState(true);
  const [loaded, setLoaded] = useState<{
    objects: number;
    striped: number;
    keys: ReadonlySet<string>;
  } | null>(null);
  const onLoaded = useCallback((said: NonNullable<typeof loaded>) => setLoaded(said), []);
  const openedKey = opened ? keyOfRow(opened) : null;
  const marked = useMemo(
    () => (picked && picked.references.length > 0 ? picked.references : openedKey ? [openedKey] : []),
    [picked, openedKey],
  );
  const shown = useMemo(() => {
    const all = data?.references ?? [];
    return picked?.object == null ? all : all.filter((r) => picked.references.includes(keyOfRow(r)));
  }, [data, picked]);
  const lost = data?.references.filter((r) => !r.ready).length ?? 0;
  return (
    <>
      <Row $gap={4} $wrap>
        <Grow>
          <h1>{scene.split('/').pop()}</h1>
          <div style={{ fontSize: 15.5, marginTop: 6 }}>
            {!data ? (
              <Soft>Reading …</Soft>
            ) : (
              <>
                <strong>
                  {data.references.length === 0
                    ? 'It needs no other file.'
                    : loaded && loaded.striped > 0
                      ? `${count(loaded.striped, 'object')} of ${loaded.objects} ${loaded.striped === 1 ? 'lacks' : 'lack'} a texture.`
                      : lost > 0
                        ? `${count(lost, 'reference')} of ${figure(data.references.length)} would break on another machine.`
                        : `${data.references.length === 1 ? 'Its one reference' : `All ${figure(data.references.length)} references`} would open on another machine.`}
                </strong>{' '}
                <Soft>
                  {data.files.length > 1 && `With ${count(data.files.length - 1, 'file')} it leads to. `}
                  {`A line every ${lengthText(data.grid.grid.spacing, data.grid.unit, data.grid.display)}. `}
                  {data.format === 'mtlx'
                    ? 'Each on a ball of one metre.'
                    : data.units.metres === null && 'The file says no unit: shown as metres.'}
                </Soft>
              </>
            )}
          </div>
        </Grow>
        {data && (
          <Chip isSelected={hasGrid} onChange={setGrid}>
            <Grid3x3 size={15} aria-hidden /> Grid and box
          </Chip>
        )}
        <Button onPress={onClose}>
          <ArrowLeft size={15} /> Back to the table
        </Button>
      </Row>
      {error && <ErrorNotice error={shapeOf(error)} />}
      {data && (
        <Side>
          <Stage
            key={scene}
            workspace={workspace}
            view={data}
            marked={marked}
            hasGrid={hasGrid}
            onPick={setPicked}
            onLoaded={onLoaded}
          />
          {!opened && (
            <UseList
              shown={shown}
              picked={picked}
              isDrawn={(r) => loaded === null || loaded.keys.has(keyOfRow(r))}
              onAll={() => setPicked(null)}
              onOpen={onOpen}
            />
          )}
        </Side>
      )}
    </>
  );
}
