'use client';
// What each workspace needs, the most pressing first, with the way there.

import { Archive, CheckCircle2, CircleSlash, Unlink, type IconType } from '../kit/icons';
import Link from '../kit/Link';
import styled from 'styled-components';
import { ago, count, exactTime } from '@/core/text/figures';
import type { WorkspaceView } from '@/wire/views';
import { Grow, Row, Sheet, Soft } from '../kit/layout';
import { Some } from '../kit/some';
import { color, space } from '../theme/theme';

interface Need {
  workspace: WorkspaceView;
  icon: IconType;
  tone: string;
  said: string;
  title?: string;
  way: { href: string; name: string } | null;
}

const day = 86_400_000; // ms

/** What is to be said of one workspace; nothing of one in the archive. */
function needsOf(w: WorkspaceView, now: number): Need[] {
  if (w.archived !== null) return [];
  const needs: Need[] = [];
  const say = (icon: IconType, tone: string, said: string, way: Need['way'], title?: string) =>
    needs.push({ workspace: w, icon, tone, said, way, ...(title ? { title } : {}) });
  const seen = w.seen;
  if (!w.there) {
    say(
      CircleSlash,
      color.brick,
      'Its drive or folder is not there just now; what waits for it goes on when it is back.',
      null,
    );
    return needs;
  }
  const lost = seen ? seen.references - seen.ready : 0;
  if (lost > 0)
    say(Unlink, color.brick, `${count(lost, 'reference')} would not open on another machine.`, {
      href: `/overview?w=${w.id}`,
      name: 'See what holds it back',
    });
  const last = seen?.lastVersion ?? null;
  const backUp = { href: `/travel?w=${w.id}`, name: 'Back it up' };
  if (w.backedUp === null) say(Archive, color.amber, 'It was never backed up.', backUp);
  else if (last && last.modified > w.backedUp && now - w.backedUp > day)
    say(
      Archive,
      color.amber,
      `${last.path.split('/').pop()!} was saved after the last backup, ${ago(w.backedUp, now)}.`,
      backUp,
      exactTime(w.backedUp),
    );
  return needs;
}

const Line = styled(Row)`
  padding: ${space(2)} 0;
  border-bottom: 1px solid ${color.line};
  align-items: baseline;
  svg {
    flex: none;
    align-self: center;
  }
  a {
    white-space: nowrap;
  }
`;

export function Attention({ workspaces, now }: { workspaces: readonly WorkspaceView[]; now: number }) {
  const all = workspaces.map((w) => needsOf(w, now));
  // One of each workspace before the second of any.
  const needs = [0, 1, 2].flatMap((n) => all.flatMap((of) => of[n] ?? []));
  return (
    <Sheet aria-label="What needs attention">
      <h2>What needs attention</h2>
      {needs.length === 0 ? (
        <Line>
          <CheckCircle2 size={16} color={color.greenText} aria-hidden />
          <Soft>Nothing: all would open elsewhere, and are backed up.</Soft>
        </Line>
      ) : (
        <Some of={needs} more="more" atOnce={12}>
          {(n) => (
            <Line key={`${n.workspace.id} ${n.said}`}>
              <n.icon size={16} color={n.tone} aria-hidden />
              <Grow title={n.title}>
                <strong>{n.workspace.name}</strong> {n.said}
              </Grow>
              {n.way && (
                <Link href={n.way.href} aria-label={`${n.way.name}: ${n.workspace.name}`}>
                  {n.way.name}
                </Link>
              )}
            </Line>
          )}
        </Some>
      )}
    </Sheet>
  );
}
