'use client';
// What is needed, with a tick each: by kind, by where it lies, by scene. A warning stands under the very tick that causes it.

import { ChevronRight, Library, TriangleAlert, Unlink } from '../kit/icons';
import Link from '../kit/Link';
import { useMemo, type ReactNode } from 'react';
import { Button as AriaButton, Tree, TreeItem, TreeItemContent, type Selection } from 'react-aria-components';
import type { LeftOut } from '@/core/collect/closure';
import { insideOf } from '@/core/files/treePath';
import { bytes, count, figure } from '@/core/text/figures';
import { Chip } from '../kit/buttons';
import { RowTick } from '../kit/fields';
import { Row, Sheet, Soft } from '../kit/layout';
import { Path } from '../kit/Path';
import { useStepHref } from '../kit/work';
import { groupsOf, linesOf, type Group, type Grouping, type Line, type Needs } from './needs';
import { TreeLook } from '../kit/tree';
import { useSome } from '../kit/some';

const groupings: readonly (readonly [Grouping, string])[] = [
  ['kind', 'by kind'],
  ['place', 'by where it lies'],
  ['scene', 'by scene'],
];

export function Candidates({
  all,
  kept,
  unticked,
  onTick,
  grouping,
  onGroup,
  children,
}: {
  all: Needs;
  /** What is left of it with ticks taken out. */
  kept: Pick<Needs, 'files' | 'left'>;
  unticked: ReadonlySet<string>;
  onTick: (unticked: Set<string>) => void;
  grouping: Grouping;
  onGroup: (grouping: Grouping) => void;
  /** Between its head and the lines. */
  children?: ReactNode;
}) {
  const lines = useMemo(() => linesOf(all, kept, unticked), [all, kept, unticked]);
  const groups = useMemo(() => groupsOf(all, lines, grouping), [all, lines, grouping]);
  const ticked = new Set(lines.filter((l) => l.is === 'in').map((l) => l.key));
  const groupKey = (g: Group) => `group ${g.id}`;
  const apart = (l: Line) => l.is === 'apart';
  const selected = [...ticked, ...groups.filter((g) => g.lines.every((l) => l.is === 'in')).map(groupKey)];
  const choose = (keys: Selection) => {
    if (keys === 'all') return onTick(new Set());
    const next = new Set(unticked);
    const before = new Set(selected);
    const set = (l: Line, on: boolean) => (on ? next.delete(l.key) : next.add(l.key));
    for (const g of groups) {
      const key = groupKey(g);
      // Its own tick was pressed; a group some of whose lines are out is ticked whole first.
      if (keys.has(key) !== before.has(key)) {
        for (const l of g.lines) if (!apart(l)) set(l, keys.has(key));
        continue;
      }
      for (const l of g.lines) if (keys.has(l.key) !== before.has(l.key)) set(l, keys.has(l.key));
    }
    onTick(next);
  };
  return (
    <Sheet
      aria-label="What is needed"
      style={{ display: 'flex', flexDirection: 'column', gap: 8, minHeight: 0 }}
    >
      <Row $wrap>
        <h2 style={{ flex: 1, whiteSpace: 'nowrap' }}>What is needed</h2>
        {groupings.map(([id, name]) => (
          <Chip key={id} isSelected={grouping === id} onChange={() => onGroup(id)}>
            {name}
          </Chip>
        ))}
      </Row>
      {children}
      <TreeLook>
        <Tree
          aria-label="What is needed"
          selectionMode="multiple"
          selectionBehavior="toggle"
          escapeKeyBehavior="none"
          selectedKeys={selected}
          disabledKeys={lines.filter(apart).map((l) => l.key)}
          disabledBehavior="selection"
          onSelectionChange={choose}
          defaultExpandedKeys={groups.filter((g) => g.lines.length <= 60).map(groupKey)}
          renderEmptyState={() => <Soft>Nothing is needed.</Soft>}
        >
          {groups.map((g) => (
            <GroupItem key={g.id} id={groupKey(g)} group={g} root={all.root} />
          ))}
        </Tree>
        <NotThere left={kept.left} root={all.root} />
      </TreeLook>
    </Sheet>
  );
}

function GroupItem({ id, group, root }: { id: string; group: Group; root: string }) {
  const some = group.files > 0 && !group.lines.every((l) => l.is === 'in');
  const [shown, rest] = useSome(group.lines, 'more line');
  return (
    <TreeItem id={id} textValue={group.name}>
      <TreeItemContent>
        <div className="line">
          <AriaButton slot="chevron" aria-label={`Open or close ${group.name}`}>
            <ChevronRight size={15} />
          </AriaButton>
          <RowTick some={some} />
          <span className="grow">
            <strong>{group.name}</strong>
          </span>
          <span className="figure">
            {count(group.files, 'file')} · {bytes(group.size)}
          </span>
        </div>
      </TreeItemContent>
      {shown.map((l) => (
        <LineItem key={l.key} line={l} root={root} />
      ))}
      {rest && (
        <TreeItem id={`more ${id}`} textValue="more">
          <TreeItemContent>
            <div className="line" style={{ paddingLeft: 44 }}>
              {rest}
            </div>
          </TreeItemContent>
        </TreeItem>
      )}
    </TreeItem>
  );
}

export const names = (all: readonly string[]) =>
  `${all.slice(0, 3).join(', ')}${all.length > 3 ? ` and ${all.length - 3} more` : ''}`;

function LineItem({ line: l, root }: { line: Line; root: string }) {
  const shown = insideOf(root, l.key) ?? l.key;
  return (
    <TreeItem id={l.key} textValue={shown}>
      <TreeItemContent>
        <div className="line">
          <span style={{ width: 18, flex: 'none' }} />
          <RowTick />
          <span className="grow">
            <Path path={shown} />
            {l.files > 1 && (
              <Soft className="told">
                {l.is === 'in' && l.kept.files < l.files
                  ? `${figure(l.kept.files)} of ${count(l.files, 'file')}`
                  : count(l.files, 'file')}
              </Soft>
            )}
            {l.library !== null && (
              <span className="told slate">
                <Library size={13} aria-hidden /> {l.library}
              </span>
            )}
            {l.is === 'apart' && <Soft className="told">only {names(l.neededBy)} needs it</Soft>}
          </span>
          <span className="figure">{bytes(l.is === 'in' ? l.kept.size : l.size)}</span>
        </div>
        {l.is === 'out' && l.neededBy.length > 0 && (
          <div className="under">
            <TriangleAlert size={14} aria-label="warning" />
            <span>
              {names(l.neededBy)} {l.neededBy.length === 1 ? 'needs' : 'need'} it
            </span>
          </div>
        )}
      </TreeItemContent>
    </TreeItem>
  );
}

const reasons: Partial<Record<LeftOut['why'], string>> = {
  missing: 'missing',
  offline: 'on a place that is not connected',
  remote: 'a web address, left as one',
  'not-allowed': 'in a folder you have not allowed',
  excluded: 'in an excluded folder',
};

/** What is needed and no tick can bring along. */
export function NotThere({ left, root }: { left: readonly LeftOut[]; root: string }) {
  const href = useStepHref();
  const shown = left.filter((l) => reasons[l.why]);
  const missing = shown.some((l) => l.why === 'missing');
  if (shown.length === 0) return null;
  return (
    <div style={{ padding: '8px 8px 0 22px' }}>
      <Row>
        <Unlink size={15} className="brick" aria-hidden />
        <strong className={missing ? 'brick' : 'amber'}>
          {count(shown.length, 'thing')} cannot come along
        </strong>
        {missing && (
          <Link href={href('/references', { state: 'missing' })}>Relink what is missing first</Link>
        )}
      </Row>
      <ul aria-label="What cannot come along" style={{ margin: '4px 0', paddingLeft: 22 }}>
        {shown.slice(0, 30).map((l, n) => (
          <li key={n} style={{ overflowWrap: 'anywhere' }}>
            <Path
              path={l.path === null ? l.neededBy[0]?.written || 'a file' : (insideOf(root, l.path) ?? l.path)}
            />{' '}
            <Soft>
              {reasons[l.why]}
              {l.via !== null && ` (${l.via})`}
              {l.neededBy.length > 0 &&
                `; ${names([...new Set(l.neededBy.map((n) => n.scene.slice(n.scene.lastIndexOf('/') + 1)))])} needs it`}
            </Soft>
          </li>
        ))}
        {shown.length > 30 && <li>and {shown.length - 30} more: the report names them all</li>}
      </ul>
    </div>
  );
}
