'use client';
// What a scene can go back to: which kinds are shown, what is chosen, and what can be done with that.

import { Archive, FileClock, History, Waypoints } from '../kit/icons';
import { z } from 'zod';
import { plainName } from '@/core/names/counters';
import { count } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import type { NetView, VersionsView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button, Chip } from '../kit/buttons';
import { useKept } from '../kit/kept';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useAddress, usePlan } from '../kit/work';
import { historyOf, kinds, type Entry } from './history';
import { HistoryTable } from './HistoryTable';

const names = { version: 'Versions', kept: 'Kept by the net', other: 'Of other programs' } as const;
const icons = { version: History, kept: Waypoints, other: FileClock } as const;

export function HistoryCard({
  versions,
  net,
  now,
  onBring,
  onCompare,
  problem: failed,
}: {
  versions: VersionsView;
  net: NetView;
  now: number;
  onBring: (entry: Entry) => void;
  onCompare: (entry: Entry) => void;
  problem: ErrorShape | null;
}) {
  const [address, change] = useAddress();
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const [picked, pick] = useKept(`picked of ${plainName(versions.scene)}`, z.array(z.string()), []);
  const hidden = new Set((address.get('hide') ?? '').split(' ').filter(Boolean));
  const all = historyOf(versions, net);
  const shown = all.filter((e) => !hidden.has(e.what));
  const toggle = (kind: string, on: boolean) => {
    const next = kinds.filter((k) => (k === kind ? !on : hidden.has(k)));
    change({ hide: next.join(' ') || undefined });
  };
  const { scene } = versions;
  return (
    <Sheet aria-label="What there is to go back to">
      <Stack $gap={3}>
        <ErrorNotice error={problem ?? failed} />
        <Row $gap={2} $wrap>
          {kinds.map((kind) => {
            const Icon = icons[kind];
            const n = all.filter((e) => e.what === kind).length;
            return (
              <Chip key={kind} isSelected={!hidden.has(kind)} onChange={(on) => toggle(kind, on)}>
                <Icon size={15} aria-hidden /> {names[kind]} <strong>{n}</strong>
              </Chip>
            );
          })}
          <CompactButton
            versions={versions}
            picked={picked}
            onPlan={(kind, paths) => void attempt(() => plan({ kind, versions: paths }))}
          />
        </Row>
        {shown.length === 0 ? (
          <Soft>Nothing to go back to yet. Save a version, or let the net keep what changes.</Soft>
        ) : (
          <HistoryTable
            entries={shown}
            scene={scene}
            now={now}
            onBring={onBring}
            onCompare={onCompare}
            picked={picked}
            onPick={(path, wanted) => pick(wanted ? [...picked, path] : picked.filter((p) => p !== path))}
          />
        )}
      </Stack>
    </Sheet>
  );
}

/** What can be done with the versions that are chosen: kept compact, or made files again. */
function CompactButton({
  versions,
  picked,
  onPlan,
}: {
  versions: VersionsView;
  picked: readonly string[];
  onPlan: (kind: 'compact' | 'spread', paths: string[]) => void;
}) {
  const chosen = versions.versions.filter((v) => picked.includes(v.path));
  if (chosen.length === 0) return null;
  const files = chosen.filter((v) => !v.compact).map((v) => v.path);
  const compact = chosen.filter((v) => v.compact).map((v) => v.path);
  return (
    <>
      {files.length > 0 && (
        <Button onPress={() => onPlan('compact', files)}>
          <Archive size={15} /> Keep {count(files.length, 'version')} compact…
        </Button>
      )}
      {compact.length > 0 && (
        <Button onPress={() => onPlan('spread', compact)}>
          <FileClock size={15} /> Make {count(compact.length, 'file')} of them again…
        </Button>
      )}
    </>
  );
}
