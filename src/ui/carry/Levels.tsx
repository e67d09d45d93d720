'use client';
// What is carried over, level by level, each with a tick: what pulls it in, and what the target has of it.

import { TriangleAlert } from '../kit/icons';
import { useMemo } from 'react';
import styled from 'styled-components';
import { insideOf, nameOf } from '@/core/files/treePath';
import { bytes, count } from '@/core/text/figures';
import type { CarryLook } from '@/wire/collect';
import { NotThere, names } from '../collect/Candidates';
import type { Line, Needs } from '../collect/needs';
import { useSome } from '../kit/some';
import { TreeLook } from '../kit/tree';
import { Tick } from '../kit/fields';
import { Soft } from '../kit/layout';
import { Path } from '../kit/Path';
import { color, space } from '../theme/theme';
import { levelsOf, type Level } from './levels';

export const LevelHead = styled.div`
  display: flex;
  align-items: center;
  gap: ${space(2)};
  padding: ${space(2)} 0 ${space(1)};
  &::before {
    content: '';
    width: 22px;
    border-top: 3px dashed ${color.greenText};
  }
  strong {
    flex: 1;
  }
`;

export function Levels({
  all,
  kept,
  look,
  unticked,
  onTick,
}: {
  all: Needs;
  kept: Pick<Needs, 'files' | 'left'>;
  look: CarryLook;
  unticked: ReadonlySet<string>;
  onTick: (unticked: Set<string>) => void;
}) {
  const levels = useMemo(() => levelsOf(all, kept, unticked), [all, kept, unticked]);
  /** What the target has of a file or a set. */
  const meets = useMemo(() => {
    const met = new Map<string, string>();
    for (const [n, f] of look.files.entries()) {
      const carried = look.carried[n];
      if (!carried) met.set(f.set ?? f.from, 'in a library that is known here');
      else if (carried.how === 'there')
        met.set(
          f.set ?? f.from,
          nameOf(carried.to) === nameOf(f.from) ? 'the same is there' : `there as ${carried.to}`,
        );
    }
    for (const c of look.clashes) met.set(c.from, 'another file is there');
    return met;
  }, [look]);
  const tick = (key: string, on: boolean) => {
    const next = new Set(unticked);
    if (on) next.delete(key);
    else next.add(key);
    onTick(next);
  };
  return (
    <TreeLook>
      {levels.map((level) => (
        <LevelList key={level.number} level={level} root={all.root} all={all} meets={meets} onTick={tick} />
      ))}
      <NotThere left={kept.left} root={all.root} />
    </TreeLook>
  );
}

const titles = ['What you picked', 'What that needs', 'What those need'];

function LevelList({
  level,
  root,
  all,
  meets,
  onTick,
}: {
  level: Level;
  root: string;
  all: Needs;
  meets: ReadonlyMap<string, string>;
  onTick: (key: string, on: boolean) => void;
}) {
  const [lines, rest] = useSome(level.lines, 'more line');
  return (
    <section aria-label={`Level ${level.number + 1}`}>
      <LevelHead>
        <strong>
          Level {level.number + 1}: {titles[level.number] ?? 'and what those need'}
        </strong>
        <Soft className="figure">
          {count(level.files, 'file')} · {bytes(level.size)}
        </Soft>
      </LevelHead>
      {lines.map((line) => (
        <LineRow
          key={line.key}
          line={line}
          root={root}
          by={byOf(all, line.key)}
          meets={meets.get(line.key)}
          onTick={onTick}
        />
      ))}
      {rest}
    </section>
  );
}

/** Names of what pulls it in. */
function byOf(all: Needs, key: string): string[] {
  const file = all.files.get(key) ?? all.files.get(all.sets.get(key)?.[0] ?? '');
  return [...new Set((file?.neededBy ?? []).map((n) => nameOf(n.scene)))];
}

function LineRow({
  line: l,
  root,
  by,
  meets,
  onTick,
}: {
  line: Line;
  root: string;
  by: readonly string[];
  meets: string | undefined;
  onTick: (key: string, on: boolean) => void;
}) {
  const shown = insideOf(root, l.key) ?? l.key;
  const about = [
    l.files > 1 ? count(l.files, 'file') : '',
    l.is === 'apart' ? `only ${names(l.neededBy)} needs it` : by.length > 0 ? `for ${names(by)}` : '',
  ]
    .filter(Boolean)
    .join(' · ');
  return (
    <div style={{ paddingLeft: 30 }}>
      <div className="line">
        <Tick
          label={shown}
          checked={l.is === 'in'}
          disabled={l.is === 'apart'}
          onChange={(on) => onTick(l.key, on)}
        />
        <span className="grow">
          <Path path={shown} />
        </span>
        <span className="figure">{bytes(l.size)}</span>
      </div>
      {(about !== '' || meets !== undefined) && (
        <div className="line" style={{ paddingLeft: 26, minHeight: 0, marginTop: -5, paddingBottom: 3 }}>
          {about !== '' && <Soft className="told">{about}</Soft>}
          {meets !== undefined && (
            <strong className={meets.startsWith('another') ? 'told amber' : 'told slate'}>{meets}</strong>
          )}
        </div>
      )}
      {l.is === 'out' && l.neededBy.length > 0 && (
        <div className="under" style={{ paddingLeft: 26 }}>
          <TriangleAlert size={14} aria-label="warning" />
          <span>
            {names(l.neededBy)} {l.neededBy.length === 1 ? 'needs' : 'need'} it
          </span>
        </div>
      )}
    </div>
  );
}
