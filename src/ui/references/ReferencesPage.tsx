'use client';
// References: every external file of the workspace at once; choose, and make them travel.

import { readGroups, readKeys } from '@/wire/routes/references';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Briefcase, Check, Columns3, Link2, Rows3, Search } from 'lucide-react';
import Link from 'next/link';
import { useCallback, useEffect, useRef, useState } from 'react';
import { Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { states } from '@/core/references/states';
import { groupings, likenesses, sortings, type Grouping, type Likeness } from '@/core/references/sheet';
import { keyOfRow } from '@/core/references/key';
import type { ErrorShape } from '@/wire/jobs';
import type { GroupsView, ReferenceView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import {
  Button,
  Chip,
  Empty,
  ErrorNotice,
  Grow,
  MainButton,
  MenuFrame,
  Row,
  Soft,
  Split,
  StateMark,
} from '../kit/controls';
import { count } from '@/core/text/figures';
import { Needs } from '../kit/Page';
import { useAddress, usePlan, useStepHref, useWorkspaceId } from '../kit/work';
import { whatHoldsBack } from '../overview/OverviewPage';
import { color, font, radius, space } from '../theme/theme';
import { ChangePaths } from './ChangePaths';
import { ReferenceDrawer } from './ReferenceDrawer';
import { columns, useColumns } from './columns';
import { ReferenceTable, type TableQuery } from './ReferenceTable';
import { ScenePreview } from './ScenePreview';

const Left = styled.div`
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  gap: ${space(3)};
  padding: ${space(5)} ${space(6)} ${space(4)};
`;
const SearchBox = styled.label`
  display: flex;
  align-items: center;
  gap: ${space(2)};
  border: 1px solid ${color.lineStrong};
  border-radius: ${radius.small};
  background: ${color.sheet};
  padding: 0 ${space(2)};
  min-height: 32px;
  flex: 1 1 260px;
  min-width: 160px;
  color: ${color.soft};
  input {
    border: none;
    background: transparent;
    outline: none;
    color: ${color.ink};
    font: 400 14.5px ${font.text};
    width: 100%;
    min-width: 0;
  }
  input::placeholder {
    color: ${color.soft};
  }
  &:focus-within {
    outline: 2px solid ${color.saddle};
    outline-offset: 2px;
  }
  kbd {
    border: 1px solid ${color.line};
    border-radius: 4px;
    padding: 0 6px;
    font: 400 12.5px ${font.mono};
  }
`;
const Foot = styled.div`
  display: flex;
  align-items: center;
  gap: ${space(3)};
  background: ${color.raised};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  padding: ${space(2)} ${space(3)};
  min-height: 50px;
`;

const groupNames: Record<Grouping, string> = {
  scene: 'scene',
  state: 'state',
  kind: 'kind',
  folder: 'folder',
  target: 'target',
  none: 'nothing',
};
const likeNames: Record<Likeness, string> = {
  folder: 'All from the same folder',
  kind: 'All of the same kind',
  field: 'All of the same field',
  problem: 'All that share this problem',
  target: 'All that lead to the same file',
  scene: 'All of the same scene',
};
const manyStates = 20_000;

export function ReferencesPage() {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const group = groupings.find((g) => g === address.get('group')) ?? 'scene';
  const sort = sortings.find((s) => s === address.get('sort')) ?? 'need';
  // What is typed asks at once; the address follows when the typing rests, since changing it costs more than the search.
  const inAddress = address.get('q') ?? '';
  const [typed, setTyped] = useState(inAddress);
  const [known, setKnown] = useState(inAddress);
  const [written, setWritten] = useState(inAddress);
  if (known !== inAddress) {
    setKnown(inAddress);
    // What was written there by the typing itself is not typed again.
    if (inAddress !== written) setTyped(inAddress);
  }
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(rest.current), []);
  const search = useCallback(
    (q: string) => {
      setTyped(q);
      clearTimeout(rest.current);
      rest.current = setTimeout(() => {
        setWritten(q);
        change({ q });
      }, 250);
    },
    [change],
  );
  const filter: TableQuery = {
    q: typed,
    state: address.get('state') ?? '',
    group,
    sort,
    down: address.get('down') === 'yes' ? 'yes' : 'no',
  };
  const result = useQuery({
    queryKey: ['groups', id, filter],
    enabled: id !== null,
    placeholderData: keepPreviousData,
    queryFn: async () => ({
      groups: await call(readGroups, { id }, { ...filter }),
      answers: filter,
    }),
  });
  const [scene, at] = [address.get('scene'), address.get('at')];
  return (
    <Needs title="References" result={result}>
      {({ groups, answers }) => (
        <References
          id={id!}
          groups={groups}
          answers={answers}
          filter={filter}
          change={change}
          search={search}
          opened={scene !== null && at !== null ? { scene, at } : null}
          shown={address.get('see')}
        />
      )}
    </Needs>
  );
}

function References({
  id,
  groups,
  answers,
  filter,
  change,
  search,
  opened,
  shown,
}: {
  id: string;
  groups: GroupsView;
  answers: TableQuery;
  filter: TableQuery;
  search: (q: string) => void;
  change: (c: Record<string, string | undefined>) => void;
  opened: { scene: string; at: string } | null;
  shown: string | null;
}) {
  const [selected, setSelected] = useState<Map<string, { scene: string; at: string }>>(new Map());
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [changing, setChanging] = useState(false);
  const [room, setRoom] = useState(0);
  const shownColumns = useColumns(room);
  const href = useStepHref();
  const plan = usePlan();
  const lost = groups.references - groups.ready;
  const chosen = filter.state.split(',').filter(Boolean);
  const attempt = (work: Promise<unknown>) => {
    setProblem(null);
    work.catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  const mend = (only: { scene: string; at: string }[] | null) => attempt(plan({ kind: 'travel', only }));
  const relink = (only: { scene: string; at: string }[] | undefined) =>
    attempt(plan({ kind: 'relink', sure: true, ...(only ? { only } : {}) }));
  const onOpen = useCallback((r: ReferenceView) => change({ scene: r.scene, at: r.at }), [change]);
  const close = () => change({ scene: undefined, at: undefined });
  /** Adds to what is selected; all of it selected already: takes it out. */
  const select = (
    more: Record<string, string | number | undefined>,
    from: ReadonlyMap<string, { scene: string; at: string }> = selected,
  ) =>
    attempt(
      call(readKeys, { id }, { ...filter, ...more }).then((keys) => {
        const next = new Map(from);
        const isAll = 'in' in more && keys.every((k) => next.has(keyOfRow(k)));
        for (const k of keys)
          if (isAll) next.delete(keyOfRow(k));
          else next.set(keyOfRow(k), k);
        setSelected(next);
      }),
    );
  const like = (how: Likeness) => {
    const of = [...selected.values()].at(-1) ?? opened;
    if (of) select({ like: how, ...of });
  };
  if (changing)
    return (
      <ChangePaths
        id={id}
        filter={{
          q: filter.q,
          state: filter.state,
          group: filter.group,
          sort: filter.sort,
          down: filter.down,
        }}
        chosen={new Set(selected.keys())}
        onClose={() => setChanging(false)}
      />
    );
  const drawer = opened && (
    <ReferenceDrawer
      key={`${opened.scene} ${opened.at}`}
      workspace={id}
      of={opened}
      onClose={close}
      onMend={() => mend([opened])}
      onSee={shown === null ? (scene) => change({ see: scene }) : undefined}
    />
  );
  if (shown !== null)
    return (
      <Split>
        <Left>
          <ScenePreview
            workspace={id}
            scene={shown}
            opened={opened}
            onOpen={onOpen}
            onClose={() => change({ see: undefined })}
          />
        </Left>
        {drawer}
      </Split>
    );
  return (
    <Split>
      <Left>
        <Row $gap={5} style={{ alignItems: 'flex-end' }} $wrap>
          <Grow style={{ flexBasis: opened ? 200 : 380 }}>
            <h1>References</h1>
            <div style={{ fontSize: 15.5, marginTop: 6 }}>
              {groups.references === 0 ? (
                'No scene in this workspace references another file yet.'
              ) : lost === 0 ? (
                <strong>All {groups.references.toLocaleString('en')} would open on another machine.</strong>
              ) : (
                <>
                  <strong>{count(lost, 'reference')} would break on another machine.</strong>
                  {!opened && <Soft> {whatHoldsBack(groups.byState, groups.odd, groups.gapped)}</Soft>}
                </>
              )}
            </div>
          </Grow>
          {(groups.byState.missing ?? 0) + (groups.byState.case ?? 0) > 0 && (
            <Button onPress={() => relink(undefined)}>
              <Link2 size={16} /> Relink what is sure…
            </Button>
          )}
          {lost > 0 && (
            <MainButton onPress={() => mend(null)}>
              <Briefcase size={16} /> Make them travel…
            </MainButton>
          )}
        </Row>
        {problem && <ErrorNotice error={problem} />}
        <Row $wrap>
          {[
            ...states.filter((s) => groups.byState[s]).map((s) => [s, groups.byState[s]!] as const),
            ...(groups.odd > 0 ? [['odd', groups.odd] as const] : []),
          ].map(([s, n]) => (
            <Chip
              key={s}
              aria-pressed={chosen.includes(s)}
              onClick={() =>
                change({
                  state: (chosen.includes(s) ? chosen.filter((c) => c !== s) : [...chosen, s]).join(','),
                })
              }
            >
              {s === 'odd' ? <StateMark state="travels" odd /> : <StateMark state={s} />}
              <strong>{n.toLocaleString('en')}</strong>
            </Chip>
          ))}
        </Row>
        <Row $wrap>
          <SearchBox>
            <Search size={15} aria-hidden />
            <input
              data-search
              aria-label="Search references"
              placeholder="Search, or kind:texture in:folder scene:name field:normal -not"
              value={filter.q}
              onChange={(e) => search(e.target.value)}
              onKeyDown={(e) => {
                if (e.key === 'Escape') search('');
              }}
            />
            <kbd aria-hidden>/</kbd>
          </SearchBox>
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
                selectedKeys={shownColumns.chosen}
                onSelectionChange={(keys) =>
                  shownColumns.choose(keys === 'all' ? columns.map((c) => c.id) : [...keys].map(String))
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
        {groups.total === 0 ? (
          <Empty
            action={
              groups.references > 0 ? (
                <Button
                  onPress={() => {
                    search('');
                    change({ q: undefined, state: undefined });
                  }}
                >
                  Show all again
                </Button>
              ) : (
                <Link href={href('/files')}>Bring a scene in</Link>
              )
            }
          >
            {groups.references > 0
              ? 'No reference matches the search and the chosen states.'
              : 'Every external file of every scene shows here, with its state.'}
          </Empty>
        ) : (
          <ReferenceTable
            workspace={id}
            groups={groups}
            filter={answers}
            selected={selected}
            columns={shownColumns}
            onRoom={setRoom}
            onSort={(sort, down) =>
              change({ sort: sort === 'need' ? undefined : sort, down: down ? 'yes' : undefined })
            }
            onSelect={setSelected}
            onSelectGroup={(key) => select(key === null ? {} : { in: key })}
            onSelectRange={(offset, limit) => select({ offset, limit })}
            onOpen={onOpen}
            onSee={(scene) => change({ see: scene })}
          />
        )}
        {groups.total > 0 && (
          <Foot>
            {selected.size === 0 ? (
              <>
                <Grow>
                  <Soft>
                    {count(groups.total, 'reference')} in {count(groups.groups.length, 'group')}. Space
                    selects, Shift extends, Enter opens.
                  </Soft>
                </Grow>
                <Button onPress={() => setChanging(true)}>Change these paths…</Button>
              </>
            ) : (
              <>
                <strong>{selected.size.toLocaleString('en')} selected</strong>
                <MenuTrigger>
                  <Button>And all like it</Button>
                  <MenuFrame>
                    <Menu
                      aria-label="Select what is like the one selected last"
                      onAction={(key) => like(key as Likeness)}
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
                <Button onPress={() => setSelected(new Map())}>Clear</Button>
                <Button isDisabled={selected.size > manyStates} onPress={() => setChanging(true)}>
                  Change {selected.size.toLocaleString('en')} paths…
                </Button>
                <Button onPress={() => relink([...selected.values()])}>Relink what is sure…</Button>
                <MainButton onPress={() => mend([...selected.values()])}>
                  Make {selected.size.toLocaleString('en')} travel…
                </MainButton>
              </>
            )}
          </Foot>
        )}
      </Left>
      {drawer}
    </Split>
  );
}
