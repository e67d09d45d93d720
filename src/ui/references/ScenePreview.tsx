'use client';
// A scene in space beside its references: an object picked shows what it is drawn with, a reference chosen shows where it is used.

import { readScene } from '@/wire/routes/references';
import { useQuery } from '@tanstack/react-query';
import { ArrowLeft, Grid3x3 } from 'lucide-react';
import dynamic from 'next/dynamic';
import { useCallback, useMemo, useState } from 'react';
import styled from 'styled-components';
import { lengthText } from '@/core/units/units';
import { count } from '@/core/text/figures';
import type { ReferenceView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { Button, Chip, ErrorNotice, Grow, PlainButton, Row, Soft, StateMark } from '../kit/controls';
import { Path } from '../kit/Path';
import { color, radius, space } from '../theme/theme';
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
const List = styled.div`
  width: 320px;
  flex: none;
  overflow: auto;
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  padding: ${space(1)};
  button.line {
    display: grid;
    grid-template-columns: 96px minmax(0, 1fr);
    gap: ${space(2)};
    width: 100%;
    text-align: left;
    border: none;
    background: none;
    color: ${color.ink};
    padding: 5px ${space(2)};
    border-radius: ${radius.small};
    cursor: pointer;
    align-items: baseline;
  }
  button.line[aria-pressed='true'] {
    background: ${color.greenTint};
  }
  button.line:hover {
    background: ${color.raised};
  }
  .use {
    grid-column: 2;
    font-size: 13px;
    color: ${color.soft};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
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
                  {loaded && loaded.striped > 0
                    ? `${count(loaded.striped, 'object')} of ${loaded.objects} ${loaded.striped === 1 ? 'lacks' : 'lack'} a texture.`
                    : lost > 0
                      ? `${count(lost, 'reference')} of ${data.references.length} would break on another machine.`
                      : `All ${data.references.length} references would open on another machine.`}
                </strong>{' '}
                <Soft>
                  {data.files.length > 1 && `With ${count(data.files.length - 1, 'file')} it leads to. `}
                  {`A line every ${lengthText(data.grid.grid.spacing, data.grid.unit, data.grid.display)}. `}
                  {data.units.metres === null && 'The file says no unit: shown as metres.'}
                </Soft>
              </>
            )}
          </div>
        </Grow>
        {data && (
          <Chip type="button" aria-pressed={hasGrid} onClick={() => setGrid(!hasGrid)}>
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
            <List role="group" aria-label="References of this scene">
              <Row style={{ padding: '4px 8px', minHeight: 34 }}>
                {picked?.object != null ? (
                  <>
                    <Grow>
                      <strong>{picked.object || 'An object without a name'}</strong>
                      {picked.references.length === 0 && <Soft> uses no file</Soft>}
                    </Grow>
                    <PlainButton onPress={() => setPicked(null)}>all of them</PlainButton>
                  </>
                ) : (
                  <Soft>Pick an object to see what it is drawn with; double-click comes nearer.</Soft>
                )}
              </Row>
              {shown.map((r) => (
                <button
                  key={keyOfRow(r)}
                  type="button"
                  className="line"
                  aria-pressed={keyOfRow(r) === openedKey}
                  onClick={() => onOpen(r)}
                >
                  <StateMark state={r.state} odd={r.oddities.length > 0} />
                  <Path path={r.written} />
                  <span className="use">
                    {r.uses[0] ?? r.at}
                    {loaded &&
                      !loaded.keys.has(keyOfRow(r)) &&
                      r.kind === 'texture' &&
                      ' · not on what is shown'}
                  </span>
                </button>
              ))}
            </List>
          )}
        </Side>
      )}
    </>
  );
}
