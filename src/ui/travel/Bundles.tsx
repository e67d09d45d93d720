'use client';
// Many small files as one: what could go into a bundle and what that saves where it goes to, and bundles that can be taken apart.

import { PackageOpen } from '../kit/icons';
import { useState } from 'react';
import type { BundleGroup } from '@/core/bags/bundles';
import { aboutTime, driveKinds, secondsFor } from '@/core/places/drives';
import { bytes, count } from '@/core/text/figures';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Tick } from '../kit/fields';
import { Grow, Mono, Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlan } from '../kit/work';
import type { Drive } from './drives';
import { FileList } from './FileList';

const shownAtMost = 300;

export function Bundles({
  groups,
  bundles,
  drives,
  drive,
  onClose,
}: {
  groups: readonly BundleGroup[];
  bundles: readonly { path: string; size: number }[];
  drives: readonly Drive[];
  /** The drive that is looked at: what is saved is said for it. */
  drive: string;
  onClose: () => void;
}) {
  const plan = usePlan();
  const { attempt, problem, busy } = useAttempt();
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const slow = drives.find((d) => d.id === drive && d.speed?.smallFiles != null);
  const at = slow ?? { ...driveKinds[0], isMeasured: false };
  const speed = at.speed!;
  const picked = groups.filter((g) => chosen.has(g.of));
  const sum = picked.reduce((s, g) => ({ files: s.files + g.files, bytes: s.bytes + g.bytes }), {
    files: 0,
    bytes: 0,
  });
  const [before, after] = [
    secondsFor(sum, speed),
    secondsFor({ bytes: sum.bytes, files: picked.length }, speed),
  ];
  const saved = () => {
    if (picked.length === 0) return 'Tick what shall become one file.';
    const [slowly, fast] = [aboutTime(before), aboutTime(after)];
    return slowly === fast
      ? `To ${at.name} it saves no time worth it.`
      : `To ${at.name}${at.isMeasured ? ', as described' : ', by its kind'}: ${slowly} one by one, ${fast} as ${picked.length === 1 ? 'one' : `${picked.length} files`}.`;
  };
  return (
    <Dialog title="Many small files as one" width={720} onClose={onClose}>
      <Soft>
        Sticks and synced folders are slow with many small files. Put into a bundle beside them they travel as
        one ZIP, unpacked when it arrives. What went in lies in the bin until you clear it.
      </Soft>
      {groups.length > 0 && (
        <>
          <FileList role="list" aria-label="What could become one file">
            {groups.slice(0, shownAtMost).map((g) => (
              <Row key={g.of} role="listitem">
                <Tick
                  checked={chosen.has(g.of)}
                  onChange={(isIn) => {
                    const next = new Set(chosen);
                    if (isIn) next.add(g.of);
                    else next.delete(g.of);
                    setChosen(next);
                  }}
                >
                  <Mono>{g.of}</Mono>
                </Tick>
                <Grow />
                <span className="number">
                  {count(g.files, 'file')} · {bytes(g.bytes)}
                </span>
              </Row>
            ))}
            {groups.length > shownAtMost && (
              <div>and {(groups.length - shownAtMost).toLocaleString('en')} with fewer files</div>
            )}
          </FileList>
          <Row $wrap>
            <span data-testid="saved">{saved()}</span>
            <Grow />
            <MainButton
              isDisabled={picked.length === 0}
              isPending={busy === 'bundle'}
              onPress={() =>
                void attempt(() => plan({ kind: 'bundle', of: picked.map((g) => g.of) }), 'bundle')
              }
            >
              Put into one…
            </MainButton>
          </Row>
        </>
      )}
      <ErrorNotice error={problem} />
      {bundles.length > 0 && (
        <Stack $gap={2}>
          <h3 style={{ margin: 0, fontSize: 14.5 }}>Bundles in this workspace</h3>
          <FileList role="list" aria-label="Bundles">
            {bundles.map((b) => (
              <Row key={b.path} role="listitem">
                <Grow>
                  <Mono>{b.path}</Mono>
                </Grow>
                <span className="number">{bytes(b.size)}</span>
                <Button
                  aria-label={`Take ${b.path} apart`}
                  isPending={busy === b.path}
                  onPress={() => void attempt(() => plan({ kind: 'apart', bundles: [b.path] }), b.path)}
                >
                  <PackageOpen size={14} /> Take apart…
                </Button>
              </Row>
            ))}
          </FileList>
        </Stack>
      )}
    </Dialog>
  );
}
