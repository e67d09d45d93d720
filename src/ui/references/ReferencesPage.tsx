'use client';
// References: every external file of the workspace at once; choose, and make them travel.

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Briefcase, Link2, Search } from 'lucide-react';
import Link from 'next/link';
import { useCallback, useState } from 'react';
import styled from 'styled-components';
import { states } from '@/core/references/resolve';
import type { ErrorShape } from '@/wire/jobs';
import type { GroupsView, ReferenceView } from '@/wire/views';
import { get, query, shapeOf } from '../kit/api';
import { Button, Chip, Empty, ErrorNotice, Grow, MainButton, Row, Soft, Split, StateMark } from '../kit/controls';
import { count } from '@/core/text/figures';
import { Needs } from '../kit/Page';
import { useAddress, usePlan, useStepHref, useWorkspaceId } from '../kit/work';
import { whatHoldsBack } from '../overview/OverviewPage';
import { color, font, radius, space } from '../theme/theme';
import { ChangePaths } from './ChangePaths';
import { ReferenceDrawer } from './ReferenceDrawer';
import { ReferenceTable } from './ReferenceTable';

const Left = styled.div`flex: 1; min-width: 0; display: flex; flex-direction: column; gap: ${space(3)}; padding: ${space(5)} ${space(6)} ${space(4)};`;
const SearchBox = styled.label`
  display: flex; align-items: center; gap: ${space(2)}; border: 1px solid ${color.lineStrong}; border-radius: ${radius.small}; background: ${color.sheet}; padding: 0 ${space(2)}; min-height: 32px; flex: 0 1 150px; min-width: 120px; color: ${color.soft};
  input { border: none; background: transparent; outline: none; color: ${color.ink}; font: 400 14.5px ${font.text}; width: 100%; min-width: 0; }
  input::placeholder { color: ${color.soft}; }
  &:focus-within { outline: 2px solid ${color.saddle}; outline-offset: 2px; }
  kbd { border: 1px solid ${color.line}; border-radius: 4px; padding: 0 6px; font: 400 12.5px ${font.mono}; }
`;
const Foot = styled.div`display: flex; align-items: center; gap: ${space(3)}; background: ${color.raised}; border: 1px solid ${color.line}; border-radius: ${radius.medium}; padding: ${space(2)} ${space(3)}; min-height: 50px;`;

export function ReferencesPage() {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const filter = { q: address.get('q') ?? '', state: address.get('state') ?? '', kind: '' };
  const result = useQuery({ queryKey: ['groups', id, filter], enabled: id !== null, placeholderData: keepPreviousData, queryFn: () => get<GroupsView>(`/api/workspaces/${id}/references${query(filter)}`) });
  return <Needs title="References" result={result}>{(groups) => <References id={id!} groups={groups} filter={filter} change={change} open={address.get('at')} />}</Needs>;
}

function References({ id, groups, filter, change, open }: { id: string; groups: GroupsView; filter: { q: string; state: string; kind: string }; change: (c: Record<string, string | undefined>) => void; open: string | null }) {
  const [selected, setSelected] = useState<Map<string, { scene: string; at: string }>>(new Map());
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const [changing, setChanging] = useState(false);
  const [typed, setTyped] = useState(filter.q);
  const href = useStepHref();
  const plan = usePlan();
  const lost = groups.references - groups.ready;
  const chosen = filter.state.split(',').filter(Boolean);
  const mend = (only: { scene: string; at: string }[] | null) => void plan({ kind: 'travel', only }).catch((cause: unknown) => setProblem(shapeOf(cause)));
  const relink = (only: { scene: string; at: string }[] | undefined) => void plan({ kind: 'relink', sure: true, ...(only ? { only } : {}) }).catch((cause: unknown) => setProblem(shapeOf(cause)));
  const onOpen = useCallback((r: ReferenceView) => change({ at: `${r.scene} ${r.at}` }), [change]);
  const opened = open === null ? null : splitAddress(open, groups);
  if (changing) return <ChangePaths id={id} filter={filter} chosen={new Set([...selected.values()].map((r) => `${r.scene}\n${r.at}`))} onClose={() => setChanging(false)} />;
  return (
    <Split>
      <Left>
        <Row $gap={5} style={{ alignItems: 'flex-end' }} $wrap>
          <Grow style={{ flexBasis: 380 }}>
            <h1>References</h1>
            <div style={{ fontSize: 15.5, marginTop: 6 }}>{groups.references === 0 ? 'No scene in this workspace references another file yet.' : lost === 0 ? <strong>All {groups.references.toLocaleString('en')} would open on another machine.</strong>
              : <><strong>{count(lost, 'reference')} would break on another machine.</strong> <Soft>{whatHoldsBack(groups.byState, groups.odd)}</Soft></>}</div>
          </Grow>
          {(groups.byState.missing ?? 0) + (groups.byState.case ?? 0) > 0 && <Button onPress={() => relink(undefined)}><Link2 size={16} /> Relink what is sure…</Button>}
          {lost > 0 && <MainButton onPress={() => mend(null)}><Briefcase size={16} /> Make them travel…</MainButton>}
        </Row>
        {problem && <ErrorNotice error={problem} />}
        <Row $wrap>
          {[...states.filter((s) => groups.byState[s]).map((s) => [s, groups.byState[s]!] as const), ...(groups.odd > 0 ? [['odd', groups.odd] as const] : [])].map(([s, n]) => (
            <Chip key={s} aria-pressed={chosen.includes(s)} onClick={() => change({ state: (chosen.includes(s) ? chosen.filter((c) => c !== s) : [...chosen, s]).join(',') })}>
              {s === 'odd' ? <StateMark state="travels" odd /> : <StateMark state={s} />}<strong>{n.toLocaleString('en')}</strong>
            </Chip>
          ))}
          <SearchBox style={{ marginLeft: 'auto' }}><Search size={15} aria-hidden /><input data-search aria-label="Search references" placeholder="Search" value={typed} onChange={(e) => { setTyped(e.target.value); change({ q: e.target.value }); }} onKeyDown={(e) => { if (e.key === 'Escape') { setTyped(''); change({ q: undefined }); } }} /><kbd aria-hidden>/</kbd></SearchBox>
        </Row>
        {groups.total === 0 ? <Empty action={groups.references > 0 ? <Button onPress={() => { setTyped(''); change({ q: undefined, state: undefined }); }}>Show all again</Button> : <Link href={href('/files')}>Bring a scene in</Link>}>{groups.references > 0 ? 'No reference matches the search and the chosen states.' : 'Every external file of every scene shows here, with its state.'}</Empty>
          : <ReferenceTable key={`${filter.q} ${filter.state}`} workspace={id} groups={groups} filter={filter} selected={selected} onSelect={setSelected} onOpen={onOpen} />}
        {groups.total > 0 && (
          <Foot>
            {selected.size === 0 ? <><Grow><Soft>{count(groups.total, 'reference')} in {count(groups.groups.length, 'file')}. Space selects, Shift extends, Enter opens.</Soft></Grow><Button onPress={() => setChanging(true)}>Change these paths…</Button></> : <>
              <strong>{selected.size} selected</strong><Grow /><Button onPress={() => setSelected(new Map())}>Clear</Button>
              <Button onPress={() => setChanging(true)}>Change {selected.size} paths…</Button>
              <Button onPress={() => relink([...selected.values()])}>Relink what is sure…</Button>
              <MainButton onPress={() => mend([...selected.values()])}>Make {selected.size} travel…</MainButton>
            </>}
          </Foot>
        )}
      </Left>
      {opened && <ReferenceDrawer key={open} workspace={id} of={opened} onClose={() => change({ at: undefined })} onMend={() => mend([opened])} />}
    </Split>
  );
}

/** 'scenes/a b.gltf /images/0/uri' → scene and place: the scene is one of those listed, else the text up to the first ' /' or ' '. */
function splitAddress(text: string, groups: GroupsView): { scene: string; at: string } | null {
  const known = groups.groups.filter((g) => text.startsWith(`${g.scene} `)).sort((a, b) => b.scene.length - a.scene.length)[0];
  const scene = known?.scene ?? /^(.*?\.\w+) /.exec(text)?.[1];
  return scene === undefined ? null : { scene, at: text.slice(scene.length + 1) };
}
