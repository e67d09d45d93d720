'use client';
// Below the table: what is selected, and what can be done with it.

import { Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { likenesses, type Likeness } from '@/core/references/sheet';
import { count, figure } from '@/core/text/figures';
import type { GroupsView } from '@/wire/views';
import { Button, MainButton, MenuFrame } from '../kit/buttons';
import { FootLine, Grow, Soft } from '../kit/layout';
import { space } from '../theme/theme';

const Frame = styled(FootLine)`
  padding: ${space(2)} ${space(3)};
  min-height: 50px;
`;

const likeNames: Record<Likeness, string> = {
  folder: 'All from the same folder',
  kind: 'All of the same kind',
  field: 'All of the same field',
  problem: 'All that share this problem',
  target: 'All that lead to the same file',
  scene: 'All of the same scene',
};
const changedAtMost = 20_000;

export function Foot({
  groups,
  selected,
  onLike,
  onClear,
  onChange,
  onRelink,
  onMend,
}: {
  groups: GroupsView;
  /** How many are. */
  selected: number;
  onLike: (how: Likeness) => void;
  onClear: () => void;
  onChange: () => void;
  onRelink: () => void;
  onMend: () => void;
}) {
  if (selected === 0)
    return (
      <Frame>
        <Grow>
          <Soft>
            {count(groups.total, 'reference')} in {count(groups.groups.length, 'group')}. Space selects, Shift
            extends, Enter opens.
          </Soft>
        </Grow>
        <Button onPress={onChange}>Change these paths…</Button>
      </Frame>
    );
  const howMany = figure(selected);
  return (
    <Frame>
      <strong>{howMany} selected</strong>
      <MenuTrigger>
        <Button>And all like it</Button>
        <MenuFrame>
          <Menu
            aria-label="Select what is like the one selected last"
            onAction={(key) => onLike(key as Likeness)}
          >
            {likenesses.map((l) => (
              <MenuItem key={l} id={l}>
                {likeNames[l]}
              </MenuItem>
            ))}
          </Menu>
        </MenuFrame>
      </MenuTrigger>
      <Grow />
      <Button onPress={onClear}>Clear</Button>
      <Button isDisabled={selected > changedAtMost} onPress={onChange}>
        Change {howMany} paths…
      </Button>
      <Button onPress={onRelink}>Relink what is sure…</Button>
      <MainButton onPress={onMend}>Make {howMany} travel…</MainButton>
    </Frame>
  );
}
