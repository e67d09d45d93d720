'use client';
// The table with what stands around it, or one scene in space, and the drawer of the reference that is open.

import { readKeys } from '@/wire/routes/references';
import { useCallback, useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { z } from 'zod';
import { keyOfRow } from '@/core/references/key';
import type { Likeness } from '@/core/references/sheet';
import type { GroupsView, ReferenceView } from '@/wire/views';
import { call } from '../kit/api';
import { useAttempt, type Attempt } from '../kit/attempt';
import { useKept, useTyped } from '../kit/kept';
import { Split } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useAddress, usePlan } from '../kit/work';
import { space } from '../theme/theme';
import { ChangePaths } from './ChangePaths';
import { useReferenceColumns } from './columns';
import { Foot } from './Foot';
import { Head, Nothing } from './Head';
import type { TableQuery } from './lines';
import { ReferenceDrawer } from './ReferenceDrawer';
import { ReferenceTable, type Selected } from './ReferenceTable';
import { ScenePreview } from './ScenePreview';
import { StateChips, Toolbar } from './Toolbar';

const Left = styled.div`
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  gap: ${space(3)};
  padding: ${space(5)} ${space(6)} ${space(4)};
`;
type Of = { scene: string; at: string };
const keys = z.array(z.string());
const mostKept = 2000;

/** The selection, and the ways to add to it by what the server knows. */
function useSelected(id: string, filter: TableQuery, attempt: Attempt['attempt']) {
  // What is selected waits, too, while a plan or another page is looked at; a great many only as long as this page is open.
  const [few, keepFew] = useTyped<Of[]>('selected', []);
  const [many, setMany] = useState<Selected | null>(null);
  const selected = useMemo<Selected>(() => many ?? new Map(few.map((o) => [keyOfRow(o), o])), [many, few]);
  const setSelected = (to: Selected) => {
    const isMany = to.size > mostKept;
    setMany(isMany ? to : null);
    keepFew(isMany ? undefined : [...to.values()]);
  };
  /** Adds to what is selected; all of a group selected already: takes it out. */
  const select = (more: Record<string, string | number | undefined>) =>
    void attempt(async () => {
      const keys = await call(readKeys, { id }, { ...filter, ...more });
      const next = new Map(selected);
      const isAll = 'in' in more && keys.every((k) => next.has(keyOfRow(k)));
      for (const k of keys)
        if (isAll) next.delete(keyOfRow(k));
        else next.set(keyOfRow(k), k);
      setSelected(next);
    });
  return { selected, setSelected, select };
}

export function References({
  id,
  groups,
  answers,
  filter,
  search,
}: {
  id: string;
  groups: GroupsView;
  answers: TableQuery;
  filter: TableQuery;
  search: (q: string) => void;
}) {
  const [address, change] = useAddress();
  const [scene, at] = [address.get('scene'), address.get('at')];
  const opened = scene !== null && at !== null ? { scene, at } : null;
  const seen = address.get('see');
  const { attempt, problem } = useAttempt();
  const { selected, setSelected, select } = useSelected(id, filter, attempt);
  const [chosen, keepChosen] = useKept('chosen paths', keys, []);
  const plan = usePlan();
  const columns = useReferenceColumns(filter.sort, filter.down === 'yes', (sort, down) =>
    change({ sort: sort === 'need' ? undefined : sort, down: down ? 'yes' : undefined }),
  );
  const onOpen = useCallback((r: ReferenceView) => change({ scene: r.scene, at: r.at }), [change]);
  const mend = (only: Of[] | null) => void attempt(() => plan({ kind: 'travel', only }));
  const relink = (only?: Of[]) =>
    void attempt(() => plan({ kind: 'relink', sure: true, ...(only ? { only } : {}) }));
  const like = (how: Likeness) => {
    const of = [...selected.values()].at(-1) ?? opened;
    if (of) select({ like: how, ...of });
  };
  if (address.get('change'))
    return (
      <ChangePaths
        id={id}
        filter={{ ...filter }}
        chosen={new Set(chosen)}
        onClose={() => {
          keepChosen(undefined);
          change({ change: undefined });
        }}
      />
    );
  const beside = (content: ReactNode) => (
    <Split>
      <Left>{content}</Left>
      {opened && (
        <ReferenceDrawer
          key={`${opened.scene} ${opened.at}`}
          workspace={id}
          of={opened}
          onClose={() => change({ scene: undefined, at: undefined })}
          onMend={() => mend([opened])}
          onSee={seen === null ? (of) => change({ see: of }) : undefined}
        />
      )}
    </Split>
  );
  if (seen !== null)
    return beside(
      <ScenePreview
        workspace={id}
        scene={seen}
        opened={opened}
        onOpen={onOpen}
        onClose={() => change({ see: undefined })}
      />,
    );
  return beside(
    <>
      <Head groups={groups} isNarrow={opened !== null} onRelink={() => relink()} onMend={() => mend(null)} />
      <ErrorNotice error={problem} />
      <StateChips groups={groups} filter={filter} change={change} />
      <Toolbar filter={filter} search={search} change={change} shown={columns} />
      {groups.total === 0 ? (
        <Nothing
          groups={groups}
          onAll={() => {
            search('');
            change({ q: undefined, state: undefined });
          }}
        />
      ) : (
        <>
          <ReferenceTable
            workspace={id}
            groups={groups}
            filter={answers}
            selected={selected}
            columns={columns}
            onSelect={setSelected}
            onSelectGroup={(key) => select(key === null ? {} : { in: key })}
            onSelectRange={(offset, limit) => select({ offset, limit })}
            onOpen={onOpen}
            onSee={(of) => change({ see: of })}
          />
          <Foot
            groups={groups}
            selected={selected.size}
            onLike={like}
            onClear={() => setSelected(new Map())}
            onChange={() => {
              keepChosen([...selected.keys()]);
              change({ change: 'yes' });
            }}
            onRelink={() => relink([...selected.values()])}
            onMend={() => mend([...selected.values()])}
          />
        </>
      )}
    </>,
  );
}
