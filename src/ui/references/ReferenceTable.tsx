'use client';
// The table of references: grouped by scene, rows fetched in pages as they come into sight, so that a hundred thousand scroll
// like ten. One focus for the whole grid; arrows move, space selects, shift extends, letters jump, Enter opens the drawer.

import { keepPreviousData, useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import styled from 'styled-components';
import type { GroupsView, ReferenceView } from '@/wire/views';
import { get, query } from '../kit/api';
import { Soft, StateMark } from '../kit/controls';
import { bytes, count, exactBytes } from '@/core/text/figures';
import { Path } from '../kit/Path';
import { color, radius, space } from '../theme/theme';

const pageSize = 200;
const rowHeight = 33;

const Frame = styled.div`
  background: ${color.sheet}; border: 1px solid ${color.line}; border-radius: ${radius.medium}; overflow: auto; flex: 1; min-height: 220px; position: relative;
  outline-offset: -2px; container-type: inline-size;
`;
const template = '40px 108px minmax(180px, 1.5fr) minmax(120px, 1fr) 84px';
// Beside an open drawer there is no room for where it is used: the drawer says that.
const narrow = `@container (max-width: 620px) { grid-template-columns: 40px 100px minmax(120px, 1fr) 0 76px; .uses { visibility: hidden; } }`;
const Head = styled.div`
  display: grid; grid-template-columns: ${template}; align-items: center; position: sticky; top: 0; z-index: 2; background: ${color.sheet}; border-bottom: 1px solid ${color.line};
  height: 32px; font-weight: 600; font-size: 13.5px; color: ${color.soft}; padding-right: ${space(3)};
  > :first-child { text-align: center; } > :last-child { text-align: right; }
  ${narrow}
`;
const Line = styled.div`
  position: absolute; left: 0; right: 0; height: ${rowHeight}px; display: grid; grid-template-columns: ${template}; align-items: center; border-bottom: 1px solid ${color.line}; padding-right: ${space(3)}; cursor: default;
  > * { min-width: 0; overflow: hidden; padding-right: ${space(3)}; } > :last-child { padding-right: 0; }
  .uses { text-overflow: ellipsis; white-space: nowrap; }
  .path { display: flex; gap: ${space(2)}; align-items: baseline; }
  .size { text-align: right; font-variant-numeric: tabular-nums; color: ${color.soft}; }
  .mark { text-align: center; }
  &[aria-selected='true'] { background: ${color.greenTint}; }
  &[data-active] { box-shadow: inset 0 0 0 2px ${color.greenText}; }
  ${narrow}
`;
// For ears, not for eyes.
const Unseen = styled.span`position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); white-space: nowrap;`;
const Group = styled.div`
  position: absolute; left: 0; right: 0; height: ${rowHeight}px; display: flex; align-items: center; gap: 6px; padding-left: ${space(10)}; background: ${color.raised}; border-bottom: 1px solid ${color.line}; color: ${color.soft};
  strong { color: ${color.ink}; }
`;

/** What a sequence or a set of tiles stands for. */
function Many({ r }: { r: ReferenceView }) {
  return <Soft style={{ flex: 'none', fontSize: 13 }}>{r.targets.toLocaleString('en')} files{r.gaps.length > 0 && <strong>, {count(r.gaps.length, 'gap')}</strong>}</Soft>;
}

export const keyOf = (r: { scene: string; at: string }) => `${r.scene}\n${r.at}`;

interface Props {
  workspace: string;
  groups: GroupsView;
  filter: { q: string; state: string; kind: string };
  selected: ReadonlyMap<string, { scene: string; at: string }>;
  onSelect: (selected: Map<string, { scene: string; at: string }>) => void;
  onOpen: (r: ReferenceView) => void;
}

type Slot = { group: number } | { row: number };

export function ReferenceTable({ workspace, groups, filter, selected, onSelect, onOpen }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const [active, setActive] = useState(1); // line 0 is a scene's heading
  const anchor = useRef(1);
  const typed = useRef({ text: '', at: 0 });

  // Where each group begins, so that a line of the table is found without a list of all lines.
  const starts = useMemo(() => {
    const out: number[] = [];
    let at = 0;
    for (const g of groups.groups) {
      out.push(at);
      at += g.rows + 1;
    }
    return out;
  }, [groups]);
  const lines = groups.total + groups.groups.length;
  const slotAt = useCallback((line: number): Slot => {
    let low = 0;
    let high = starts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (starts[middle]! <= line) low = middle;
      else high = middle - 1;
    }
    return line === starts[low] ? { group: low } : { row: line - low - 1 };
  }, [starts]);

  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions change with every scroll, as they must
  const virtual = useVirtualizer({ count: lines, getScrollElement: () => frame.current, estimateSize: () => rowHeight, overscan: 12, paddingStart: 32 });
  const items = virtual.getVirtualItems();
  const pages = useMemo(() => {
    const wanted = new Set<number>();
    for (const item of items) {
      const slot = slotAt(item.index);
      if ('row' in slot) wanted.add(Math.floor(slot.row / pageSize));
    }
    const here = slotAt(Math.min(active, Math.max(0, lines - 1)));
    if (lines > 0 && 'row' in here) wanted.add(Math.floor(here.row / pageSize));
    return [...wanted].sort((a, b) => a - b);
  }, [items, slotAt, active, lines]);
  const fetched = useQueries({
    queries: pages.map((page) => ({
      queryKey: ['rows', workspace, filter, groups.scanned, page], staleTime: 60_000, placeholderData: keepPreviousData,
      queryFn: () => get<ReferenceView[]>(`/api/workspaces/${workspace}/references/rows${query({ ...filter, offset: page * pageSize, limit: pageSize })}`),
    })),
  });
  const rowAt = useCallback((row: number): ReferenceView | undefined => fetched[pages.indexOf(Math.floor(row / pageSize))]?.data?.[row % pageSize], [fetched, pages]);
  const lineRow = (line: number) => {
    const slot = slotAt(line);
    return 'row' in slot ? rowAt(slot.row) : undefined;
  };

  useEffect(() => {
    if (lines > 0) virtual.scrollToIndex(Math.min(active, lines - 1), { align: 'auto' });
  }, [active, lines, virtual]);

  const rangeTo = (line: number) => {
    const next = new Map(selected);
    for (let i = Math.min(anchor.current, line); i <= Math.max(anchor.current, line); i++) {
      const r = lineRow(i);
      if (r) next.set(keyOf(r), { scene: r.scene, at: r.at });
    }
    return next;
  };
  const toggle = (line: number) => {
    const r = lineRow(line);
    if (!r) return;
    const next = new Map(selected);
    if (!next.delete(keyOf(r))) next.set(keyOf(r), { scene: r.scene, at: r.at });
    anchor.current = line;
    onSelect(next);
  };
  const move = (to: number, extend: boolean) => {
    const step = to >= active ? 1 : -1;
    let line = Math.max(0, Math.min(lines - 1, to));
    if ('group' in slotAt(line)) line += step;
    if (line < 0 || line >= lines) return;
    setActive(line);
    if (extend) onSelect(rangeTo(line));
    else anchor.current = line;
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (lines === 0) return;
    const page = Math.max(1, Math.floor((frame.current?.clientHeight ?? 300) / rowHeight) - 2);
    const moves: Record<string, number> = { ArrowDown: active + 1, ArrowUp: active - 1, PageDown: active + page, PageUp: active - page, Home: 1, End: lines - 1 };
    const r = lineRow(active);
    if (event.key in moves) move(moves[event.key]!, event.shiftKey);
    else if (event.key === ' ') toggle(active);
    else if (event.key === 'Enter' && r) onOpen(r);
    else if (event.key === 'Escape') onSelect(new Map());
    else if (event.key.toLowerCase() === 'a' && (event.ctrlKey || event.metaKey)) {
      anchor.current = 0;
      onSelect(rangeTo(lines - 1));
    } else if (event.key.toLowerCase() === 'c' && (event.ctrlKey || event.metaKey) && r) void navigator.clipboard.writeText(r.written);
    else if (event.key.length === 1 && /[\w.-]/.test(event.key) && !event.ctrlKey && !event.metaKey && !event.altKey) {
      const now = Date.now();
      typed.current = { text: now - typed.current.at < 800 ? typed.current.text + event.key.toLowerCase() : event.key.toLowerCase(), at: now };
      const name = (line: number) => lineRow(line)?.written.split(/[\\/]/).pop()?.toLowerCase() ?? '';
      for (let i = 1; i <= Math.min(lines, 2000); i++) {
        const line = (active + i - (typed.current.text.length > 1 ? 1 : 0)) % lines;
        if (name(line).startsWith(typed.current.text)) {
          move(line, false);
          break;
        }
      }
    } else return;
    event.preventDefault();
  };

  return (
    <Frame ref={frame} role="grid" aria-label="References" aria-rowcount={lines + 1} aria-colcount={5} aria-multiselectable tabIndex={0} onKeyDown={onKeyDown} aria-activedescendant={lines > 0 && 'row' in slotAt(active) && items.some((i) => i.index === active) ? `line-${active}` : undefined}>
      <Head role="row" aria-rowindex={1}><span role="columnheader"><Unseen>Selected</Unseen></span><span role="columnheader">State</span><span role="columnheader">Written path</span><span role="columnheader" className="uses">Used by</span><span role="columnheader">Size</span></Head>
      <div role="rowgroup" style={{ height: virtual.getTotalSize() - 32 }}>
        {items.map((item) => {
          const slot = slotAt(item.index);
          const style = { top: item.start };
          if ('group' in slot) {
            const g = groups.groups[slot.group]!;
            return <Group key={item.key} role="row" aria-rowindex={item.index + 2} style={style}><span role="gridcell" aria-colspan={5}><strong>{g.scene.split('/').pop()}</strong> · {g.scene.includes('/') ? g.scene.slice(0, g.scene.lastIndexOf('/')) : 'root'} · {g.attention > 0 ? `${g.attention} of ${g.rows} need attention` : `all ${g.rows} travel`}</span></Group>;
          }
          const r = rowAt(slot.row);
          const isSelected = r !== undefined && selected.has(keyOf(r));
          return (
            <Line key={item.key} id={`line-${item.index}`} role="row" aria-rowindex={item.index + 2} aria-selected={isSelected} data-active={item.index === active || undefined} style={style}
              onClick={(event) => {
                setActive(item.index);
                if ((event.target as HTMLElement).closest('.mark') || event.ctrlKey || event.metaKey) toggle(item.index);
                else if (event.shiftKey) onSelect(rangeTo(item.index));
                else if (r) {
                  anchor.current = item.index;
                  onOpen(r);
                }
              }}>
              <span role="gridcell" className="mark"><input type="checkbox" tabIndex={-1} checked={isSelected} readOnly aria-label={r ? `Select ${r.written}` : 'Select'} /></span>
              {r ? <>
                <span role="gridcell"><StateMark state={r.state} odd={r.oddities.length > 0} /></span>
                <span role="gridcell" className="path"><Path path={r.written} />{r.targets > 1 && <Many r={r} />}</span>
                <span role="gridcell" className="uses" title={r.uses.join('\n')}>{r.uses[0]}{r.uses.length > 1 && <Soft> and {r.uses.length - 1} more</Soft>}</span>
                <span role="gridcell" className="size" title={exactBytes(r.size)}>{bytes(r.size)}</span>
              </> : <span role="gridcell" aria-colspan={4}><Soft>…</Soft></span>}
            </Line>
          );
        })}
      </div>
    </Frame>
  );
}
