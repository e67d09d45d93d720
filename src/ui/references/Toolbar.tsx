'use client';
// Above the table: which states, what is searched, how it is grouped, which columns.

import { figure } from '@/core/text/figures';
import { Check, Columns3, Rows3 } from '../kit/icons';
import { Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import { groupings, type Grouping } from '@/core/references/sheet';
import { states } from '@/core/references/states';
import type { GroupsView } from '@/wire/views';
import { Button, Chip, MenuFrame } from '../kit/buttons';
import { SearchField } from '../kit/fields';
import { Row } from '../kit/layout';
import { StateMark } from '../kit/marks';
import { columns, type useReferenceColumns } from './columns';
import type { TableQuery } from './lines';

const groupNames: Record<Grouping, string> = {
  scene: 'scene',
  state: 'state',
  kind: 'kind',
  folder: 'folder',
  target: 'target',
  none: 'nothing',
};
type Change = (changes: Record<string, string | undefined>) => void;

/** A chip for each state there is, with how many are of it. */
export function StateChips({
  groups,
  filter,
  change,
}: {
  groups: GroupsView;
  filter: TableQuery;
  change: Change;
}) {
  const chosen = filter.state.split(',').filter(Boolean);
  const there = [
    ...states.filter((s) => groups.byState[s]).map((s) => [s, groups.byState[s]!] as const),
    ...(groups.odd > 0 ? [['odd', groups.odd] as const] : []),
  ];
  return (
    <Row $wrap>
      {there.map(([s, n]) => (
        <Chip
          key={s}
          isSelected={chosen.includes(s)}
          onChange={(on) =>
            change({ state: (on ? [...chosen, s] : chosen.filter((c) => c !== s)).join(',') })
          }
        >
          {s === 'odd' ? <StateMark state="travels" odd /> : <StateMark state={s} />}
          <strong>{figure(n)}</strong>
        </Chip>
      ))}
    </Row>
  );
}

export function Toolbar({
  filter,
  search,
  change,
  shown,
}: {
  filter: TableQuery;
  search: (q: string) => void;
  change: Change;
  shown: ReturnType<typeof useReferenceColumns>;
}) {
  return (
    <Row $wrap>
      <SearchField
        label="Search references"
        placeholder="Search, or kind:texture in:folder scene:name field:normal -not"
        value={filter.q}
        onChange={search}
      />
      <MenuTrigger>
        <Button aria-label={`Grouped by ${groupNames[filter.group]}`}>
          <Rows3 size={15} /> By {groupNames[filter.group]}
        </Button>
        <MenuFrame>
          <Menu
            aria-label="Group by"
            selectionMode="single"
            disallowEmptySelection
            selectedKeys={[filter.group]}
            onSelectionChange={(keys) => change({ group: String([...(keys as Set<string>)][0]) })}
          >
            {groupings.map((g) => (
              <MenuItem key={g} id={g}>
                {groupNames[g]}
              </MenuItem>
            ))}
          </Menu>
        </MenuFrame>
      </MenuTrigger>
      <MenuTrigger>
        <Button>
          <Columns3 size={15} /> Columns
        </Button>
        <MenuFrame>
          <Menu
            aria-label="Columns"
            selectionMode="multiple"
            selectedKeys={shown.chosen}
            onSelectionChange={(keys) =>
              shown.choose(keys === 'all' ? columns.map((c) => c.id) : [...keys].map(String))
            }
          >
            {columns
              .filter((c) => c.id !== 'path')
              .map((c) => (
                <MenuItem key={c.id} id={c.id}>
                  {({ isSelected }) => (
                    <Row>
                      {isSelected ? <Check size={15} aria-hidden /> : <span style={{ width: 15 }} />}
                      {c.label}
                    </Row>
                  )}
                </MenuItem>
              ))}
          </Menu>
        </MenuFrame>
      </MenuTrigger>
    </Row>
  );
}
