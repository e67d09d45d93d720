'use client';
// What is said of the folder that is chosen in the tree: its name, what lives in it, how it sorts.

import styled from 'styled-components';
import { fileKinds } from '@/core/layouts/homes';
import { Chip } from '../kit/buttons';
import { Choose, DraftField, Tick } from '../kit/fields';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { space } from '../theme/theme';
import type { LayoutEditor } from './editor';

const Halves = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: ${space(3)};
`;
const wrongPrefix = (p: string) =>
  /[<>:"/\\|?*\s]/.test(p) ? 'This cannot stand before a name.' : undefined;

export function ChosenFolder({ editor: e }: { editor: LayoutEditor }) {
  const { folder, tree } = e;
  if (!folder) return null;
  return (
    <Sheet aria-label="The chosen folder">
      <Stack>
        <DraftField
          key={e.chosen}
          label="Folder name"
          mono
          value={folder.name}
          check={e.wrongName}
          onChange={(n) => e.say({ name: n })}
        />
        <div>
          <strong style={{ fontSize: 13.5 }}>Home of</strong>
          <Row $wrap $gap={1} role="group" aria-label="Kinds that live here" style={{ marginTop: 4 }}>
            {fileKinds.map((k) => (
              <Chip
                key={k}
                isSelected={folder.kinds.includes(k)}
                onChange={(on) =>
                  e.say({ kinds: fileKinds.filter((x) => (x === k ? on : folder.kinds.includes(x))) })
                }
              >
                {k}
              </Chip>
            ))}
          </Row>
        </div>
        <Halves>
          <Choose
            label="Its files"
            value={folder.flow ?? ''}
            onChange={(v) => e.say({ flow: v === '' ? null : v })}
            options={
              [
                ['', 'as their kinds tell'],
                ['input', 'go into the work'],
                ['output', 'come out of it'],
              ] as const
            }
          />
          <Choose
            label="Sorts"
            value={folder.pin ?? ''}
            onChange={(v) => e.say({ pin: v === '' ? null : v })}
            options={
              [
                ['', 'by its name'],
                ['top', `first, as ${tree.top}${folder.name}`],
                ['bottom', `last, as ${tree.bottom}${folder.name}`],
              ] as const
            }
          />
        </Halves>
        <Tick checked={folder.keep} onChange={(k) => e.say({ keep: k })}>
          Keep it though it is empty <Soft>(a file .keep lies in it)</Soft>
        </Tick>
        {folder.pin !== null && (
          <Row>
            <DraftField
              label="Prefix for the top"
              mono
              value={tree.top}
              check={wrongPrefix}
              onChange={(t) => e.put({ tree: { ...tree, top: t } })}
            />
            <DraftField
              label="Prefix for the bottom"
              mono
              value={tree.bottom}
              check={wrongPrefix}
              onChange={(b) => e.put({ tree: { ...tree, bottom: b } })}
            />
          </Row>
        )}
      </Stack>
    </Sheet>
  );
}
