'use client';
// The paths that a plan changes, before and after, scene by scene.

import styled from 'styled-components';
import { count } from '@/core/text/figures';
import type { PlanView } from '@/wire/views';
import { Sheet, Soft } from '../kit/layout';
import { PathDiff } from '../kit/Path';
import { useSome } from '../kit/some';
import { color, space } from '../theme/theme';

const Group = styled.div`
  margin-top: ${space(3)};
  .edge {
    border-left: 2px dashed ${color.line};
    padding-left: ${space(3)};
    margin-left: 1px;
    display: flex;
    flex-direction: column;
    gap: ${space(2)};
  }
`;
const shownAtMost = 300;

/** Changes by the scene they stand in, so many of them at most. */
function byScene(paths: readonly PlanView['paths'][number][]): [string, PlanView['paths']][] {
  const scenes = new Map<string, PlanView['paths'][number][]>();
  for (const c of paths) scenes.set(c.scene, [...(scenes.get(c.scene) ?? []), c]);
  return [...scenes];
}

export function ChangedPaths({ plan: p }: { plan: PlanView }) {
  const [paths, rest] = useSome(p.paths, 'more path', shownAtMost);
  const all = new Map<string, number>();
  for (const c of p.paths) all.set(c.scene, (all.get(c.scene) ?? 0) + 1);
  return (
    <Sheet aria-label="Paths, before and after">
      <h2>Paths, before and after</h2>
      {p.paths.length === 0 && (
        <Soft>
          {p.moves.length > 0
            ? 'No path needs to change: what belongs together moves together.'
            : 'No path changes.'}
        </Soft>
      )}
      {byScene(paths).map(([scene, changes]) => (
        <Group key={scene}>
          <div style={{ marginBottom: 6 }}>
            <strong>{scene.split('/').pop()}</strong> <Soft>· {count(all.get(scene)!, 'path')}</Soft>
          </div>
          <div className="edge">
            {changes.map((c) => (
              <PathDiff key={c.at} before={c.before} after={c.after} />
            ))}
          </div>
        </Group>
      ))}
      {rest}
    </Sheet>
  );
}
