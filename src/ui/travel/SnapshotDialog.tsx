'use client';
// One snapshot: what is other now, and its files, given back whole into a folder, or chosen ones into the workspace as a plan.

import { useQuery } from '@tanstack/react-query';
import { Download } from '../kit/icons';
import { useState } from 'react';
import { nameOf } from '@/core/files/treePath';
import { bytes, count, exactTime, figure } from '@/core/text/figures';
import type { BackupsView } from '@/wire/backups';
import { giveBackRoute, judgeInside, lookInside, readInside } from '@/wire/routes/travel';
import type { WorkspaceView } from '@/wire/views';
import { addressOf, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, Chip, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { TextField, Tick } from '../kit/fields';
import { Grow, Mono, Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { Path } from '../kit/Path';
import { FolderField } from '../kit/places';
import { useJob, usePlan } from '../kit/work';
import { Some } from '../kit/some';

const shownAtMost = 300;

export function SnapshotDialog({
  folder,
  made,
  workspace,
  onClose,
}: {
  folder: string;
  made: BackupsView['snapshots'][number];
  workspace: WorkspaceView;
  onClose: () => void;
}) {
  const run = useJob();
  const plan = usePlan();
  const { attempt, problem, busy } = useAttempt();
  const [search, setSearch] = useState('');
  const [isOther, setOther] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [into, setInto] = useState(workspace.root.slice(0, workspace.root.lastIndexOf('/')));
  const [name, setName] = useState(`${made.name} ${made.time.slice(0, 10)}`);
  const [given, setGiven] = useState<string | null>(null);
  const isOwn = made.root === workspace.root;
  const { data, error } = useQuery({
    queryKey: ['snapshot', folder, made.id],
    queryFn: () =>
      run(lookInside, {}, { folder, snapshot: made.id, ...(isOwn ? { workspace: workspace.id } : {}) }),
  });
  const { data: judged } = useQuery({
    queryKey: ['snapshot judged', folder, made.id],
    queryFn: () => run(judgeInside, {}, { folder, snapshot: made.id }),
  });
  const other = new Set([...(data?.against?.changed ?? []), ...(data?.against?.gone ?? [])]);
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = (data?.files ?? []).filter(
    ([path]) => (!isOther || other.has(path)) && words.every((w) => path.toLowerCase().includes(w)),
  );
  const tick = (path: string, is: boolean) => {
    const next = new Set(chosen);
    if (is) next.add(path);
    else next.delete(path);
    setChosen(next);
  };
  const giveBack = () =>
    attempt(async () => {
      const done = await run(
        giveBackRoute,
        {},
        { folder, snapshot: made.id, paths: [...chosen], into, name },
      );
      setGiven(
        `${count(done.files, 'file')} (${bytes(done.bytes)}) in ${done.root}${done.lost.length > 0 ? `; ${done.lost.length} could not be given back` : ''}.`,
      );
    }, 'give');
  return (
    <Dialog title={`${made.name}, ${exactTime(Date.parse(made.time))}`} width={860} onClose={onClose}>
      <Stack>
        <span>
          {count(made.files, 'file')}, {bytes(made.bytes)}, from <Mono>{made.root}</Mono> on {made.host}.
          {data?.against && (
            <>
              {' '}
              Since then <strong>{count(data.against.changed.length, 'file')}</strong> changed,{' '}
              {figure(data.against.gone.length)} went, {figure(data.against.fresh.length)} came;{' '}
              {figure(data.against.same)} are the same.
            </>
          )}
          {judged && judged.references > 0 && (
            <>
              {' '}
              Of its references{' '}
              <strong>
                {figure(judged.ready)} of {figure(judged.references)}
              </strong>{' '}
              would have opened elsewhere.
            </>
          )}
        </span>
        <Row $wrap>
          <TextField
            label="Search"
            value={search}
            onChange={setSearch}
            placeholder="part of a name or a folder"
          />
          {other.size > 0 && (
            <Chip isSelected={isOther} onChange={setOther}>
              other now <strong>{other.size}</strong>
            </Chip>
          )}
          <Button onPress={() => setChosen(new Set(shown.map(([p]) => p)))}>Tick all shown</Button>
          {chosen.size > 0 && <Button onPress={() => setChosen(new Set())}>None</Button>}
        </Row>
        <div style={{ maxHeight: '36vh', overflow: 'auto' }} role="list" aria-label="Files of the snapshot">
          {!data && !error && <Soft>Looking …</Soft>}
          <Some isList of={shown} more="more file" atOnce={shownAtMost}>
            {([path, size]) => (
              <Row key={path} role="listitem">
                <Tick checked={chosen.has(path)} onChange={(is) => tick(path, is)}>
                  <Path path={path} />
                </Tick>
                <Grow />
                {other.has(path) && <Soft>other now</Soft>}
                <Soft>{bytes(size)}</Soft>
                <a
                  href={addressOf(readInside, {}, { folder, snapshot: made.id, path })}
                  download={nameOf(path)}
                  aria-label={`Look at ${path} as it was then`}
                >
                  <Download size={15} aria-hidden />
                </a>
              </Row>
            )}
          </Some>
        </div>
        {data && data.unread.length > 0 && (
          <Notice
            tone="amber"
            title={`${count(data.unread.length, 'file')} could not be read then and are not in it.`}
          />
        )}
        <ErrorNotice error={problem ?? (error ? shapeOf(error) : null)} />
        {given && <Notice tone="green" title={`Given back: ${given}`} />}
        <Row $gap={3} style={{ alignItems: 'flex-end' }}>
          <FolderField
            label="Give back into the folder"
            title="Where shall it lie?"
            value={into}
            onChange={setInto}
          />
          <TextField label="As" value={name} onChange={setName} />
        </Row>
        <Row>
          {isOwn && (
            <Button
              isDisabled={chosen.size === 0}
              isPending={busy === 'plan'}
              onPress={() =>
                void attempt(
                  () => plan({ kind: 'give-back', folder, snapshot: made.id, paths: [...chosen] }),
                  'plan',
                )
              }
            >
              Back into the workspace…
            </Button>
          )}
          <Grow />
          <MainButton
            isDisabled={into === '' || name.trim() === ''}
            isPending={busy === 'give'}
            onPress={() => void giveBack()}
          >
            {busy === 'give'
              ? 'Giving back …'
              : chosen.size === 0
                ? 'Give all of it back'
                : `Give ${count(chosen.size, 'file')} back`}
          </MainButton>
        </Row>
      </Stack>
    </Dialog>
  );
}
