'use client';
// What comes along with picked nodes, level by level: what pulls each thing in, and its bytes.

import { bytes, count } from '@/core/text/figures';
import type { CarryNodesLook } from '@/wire/nodes';
import { Soft } from '../kit/layout';
import { Notice } from '../kit/notices';
import { useSome } from '../kit/some';
import { TreeLook } from '../kit/tree';
import { LevelHead } from './Levels';

const titles = ['What you picked', 'What that stands on', 'What those stand on'];

export function Comes({ look }: { look: CarryNodesLook }) {
  const levels = [...new Set(look.things.map((t) => t.level))].sort((a, b) => a - b);
  const said = look.notes.filter((n) => n.level !== 'info');
  return (
    // What scrolls and holds nothing to press can be reached by keyboard itself.
    <TreeLook role="group" aria-label="What comes along" tabIndex={0}>
      {said.map((n) => (
        <Notice key={n.message} tone={n.level === 'blocker' ? 'brick' : 'amber'} title={n.message} />
      ))}
      {levels.map((level, n) => (
        <Level key={level} level={n} things={look.things.filter((t) => t.level === level)} />
      ))}
    </TreeLook>
  );
}

function Level({ level, things }: { level: number; things: CarryNodesLook['things'] }) {
  const [shown, rest] = useSome(things, 'more thing');
  const size = things.reduce((sum, t) => sum + t.bytes, 0);
  return (
    <section aria-label={`Level ${level + 1}`}>
      <LevelHead>
        <strong>
          Level {level + 1}: {titles[level] ?? 'and what those stand on'}
        </strong>
        <Soft className="figure">
          {count(things.length, 'thing')}
          {size > 0 && ` · ${bytes(size)}`}
        </Soft>
      </LevelHead>
      {shown.map((t) => (
        <div key={t.key} style={{ paddingLeft: 30 }}>
          <div className="line">
            <span className="grow">
              <span className="node" title={t.name}>
                {t.name}
              </span>{' '}
              <Soft>{t.kind}</Soft>
            </span>
            <span className="figure">{t.bytes > 0 ? bytes(t.bytes) : ''}</span>
          </div>
          {t.neededBy.length > 0 && level > 0 && (
            <div className="line" style={{ minHeight: 0, marginTop: -5, paddingBottom: 3 }}>
              <Soft className="told">
                for {t.neededBy.slice(0, 3).join(', ')}
                {t.neededBy.length > 3 && ` and ${t.neededBy.length - 3} more`}
              </Soft>
            </div>
          )}
        </div>
      ))}
      {rest}
    </section>
  );
}
