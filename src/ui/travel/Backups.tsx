'use client';
// Backups as a chain: what was kept when, where, and what came of it; one button for the end of the day.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Archive, Plus, Undo2, X } from '../kit/icons';
import { useState } from 'react';
import styled from 'styled-components';
import { nameOf } from '@/core/files/treePath';
import { bytes, count, exactTime, when } from '@/core/text/figures';
import type { BackupTarget } from '@/wire/backups';
import { backUp, bringBackRoute, readTargets, writeTargets } from '@/wire/routes/travel';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, IconButton, MainButton, PlainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Choose, Tick } from '../kit/fields';
import { Grow, Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { FolderField } from '../kit/places';
import { useJob } from '../kit/work';
import { useTyped } from '../kit/kept';
import { color } from '../theme/theme';

const Knot = styled.li`
  list-style: none;
  position: relative;
  padding: 4px 0 10px 22px;
  min-width: 0;
  &::before {
    content: '';
    position: absolute;
    left: 2px;
    top: 9px;
    width: 9px;
    height: 9px;
    border-radius: 50%;
    border: 2px solid ${color.greenText};
    background: ${color.sheet};
  }
  &[data-failed='true']::before {
    border-color: ${color.brick};
  }
  &[data-never='true']::before {
    border-color: ${color.lineStrong};
    border-style: dashed;
  }
  &:not(:last-child)::after {
    content: '';
    position: absolute;
    left: 7px;
    top: 24px;
    bottom: -6px;
    border-left: 2px dashed ${color.line};
  }
`;

export function useTargets(id: string) {
  return useQuery({ queryKey: ['backup targets', id], queryFn: () => call(readTargets, { id }) });
}

export function Backups({
  id,
  usual,
  onOpen,
}: {
  id: string;
  /** A folder to begin with, where none is known. */
  usual: string;
  onOpen: (folder: string) => void;
}) {
  const run = useJob();
  const client = useQueryClient();
  const { attempt, problem, busy } = useAttempt();
  const [adds, setAdds] = useState(false);
  const [drawn] = useState(() => Date.now());
  const { data } = useTargets(id);
  const targets = [...(data?.targets ?? [])].sort((a, b) =>
    (b.last?.time ?? '').localeCompare(a.last?.time ?? ''),
  );
  const anew = () => client.invalidateQueries({ queryKey: ['backup targets', id] });
  const now = (t: Pick<BackupTarget, 'folder' | 'as'>) =>
    attempt(async () => {
      await run(backUp, { id }, { folder: t.folder, as: t.as });
      await client.invalidateQueries({ queryKey: ['backups', t.folder] });
      await anew();
    }, t.folder);
  const keep = (next: readonly Pick<BackupTarget, 'folder' | 'as' | 'auto'>[]) =>
    attempt(async () => {
      await call(
        writeTargets,
        { id },
        { targets: next.map(({ folder, as, auto }) => ({ folder, as, auto })) },
      );
      await anew();
    }, 'keep');
  if (data?.movedOff) return <MovedOff id={id} movedOff={data.movedOff} />;
  const [first] = targets.filter((t) => t.there);
  return (
    <Sheet aria-label="Backups">
      <Stack $gap={2}>
        <h2>Backups</h2>
        {targets.length === 0 ? (
          <Soft>
            Dated snapshots on another drive or share: only what changed is written, each can be given back
            whole or file by file.
          </Soft>
        ) : (
          <ul style={{ margin: 0, padding: 0 }} aria-label="Where it is backed up to">
            {targets.map((t) => (
              <Knot
                key={`${t.folder} ${t.as}`}
                data-failed={t.last?.ok === false}
                data-never={t.last === null}
              >
                <Row $wrap>
                  <Grow style={{ overflowWrap: 'anywhere', flexBasis: 190 }}>
                    {t.last ? (
                      <strong title={exactTime(Date.parse(t.last.time))}>
                        {when(Date.parse(t.last.time), Math.max(drawn, Date.parse(t.last.time)))}
                      </strong>
                    ) : (
                      <strong>not yet</strong>
                    )}{' '}
                    <span title={t.folder}>{nameOf(t.folder)}</span>{' '}
                    <Soft>
                      · {t.last ? t.last.message : t.there ? 'ready' : ''}
                      {t.as === 'mirror' ? ' · plain copy' : ''}
                      {t.auto ? ' · by itself' : ''}
                      {!t.there && ' · not connected'}
                      {t.proof?.due != null &&
                        t.proof.spoilt === 0 &&
                        Date.parse(t.proof.due) < drawn &&
                        ' · to be proven again'}
                    </Soft>
                    {t.proof && t.proof.spoilt > 0 && (
                      <strong style={{ color: color.brick }}>
                        {' '}
                        · {count(t.proof.spoilt, 'content')} not right any more: look in to heal
                      </strong>
                    )}
                  </Grow>
                  {t.there && (
                    <PlainButton
                      aria-label={`Back up to ${nameOf(t.folder)}`}
                      isPending={busy === t.folder}
                      onPress={() => void now(t)}
                    >
                      {busy === t.folder ? 'Backing up …' : 'Back up'}
                    </PlainButton>
                  )}
                  {t.there && t.as === 'snapshots' && (
                    <PlainButton
                      aria-label={`Look into ${nameOf(t.folder)}`}
                      onPress={() => onOpen(t.folder)}
                    >
                      Look in…
                    </PlainButton>
                  )}
                  <IconButton
                    aria-label={`No more to ${nameOf(t.folder)}`}
                    onPress={() => void keep(targets.filter((o) => o !== t))}
                  >
                    <X size={14} />
                  </IconButton>
                </Row>
              </Knot>
            ))}
          </ul>
        )}
        <ErrorNotice error={problem} />
        <Row>
          {first && (
            <MainButton isPending={busy !== null} onPress={() => void now(first)}>
              <Archive size={15} /> {busy ? 'Backing up …' : 'Back up now'}
            </MainButton>
          )}
          <Button onPress={() => setAdds(true)}>
            <Plus size={15} /> {targets.length === 0 ? 'Back up to…' : 'Another drive…'}
          </Button>
        </Row>
      </Stack>
      {adds && (
        <AddTarget
          usual={usual}
          onClose={() => setAdds(false)}
          onAdd={async (t) => {
            await keep([...targets, t]);
            setAdds(false);
            await now(t);
          }}
        />
      )}
    </Sheet>
  );
}

function AddTarget({
  usual,
  onAdd,
  onClose,
}: {
  usual: string;
  onAdd: (target: Pick<BackupTarget, 'folder' | 'as' | 'auto'>) => void;
  onClose: () => void;
}) {
  const [typed, keep] = useTyped('another drive', {
    folder: usual,
    as: 'snapshots' as BackupTarget['as'],
    auto: false,
  });
  const { folder, as, auto } = typed;
  const set = (more: Partial<typeof typed>) => keep({ ...typed, ...more });
  return (
    <Dialog title="Back up to a drive or a share" onClose={onClose}>
      <Soft>
        A folder of its own, new or empty, on another drive than the work: several workspaces can share it.
      </Soft>
      <FolderField
        label="The folder"
        title="Where shall backups lie?"
        value={folder}
        onChange={(to) => set({ folder: to })}
      />
      <Choose
        label="As"
        value={as}
        onChange={(to) => set({ as: to })}
        options={[
          ['snapshots', 'dated snapshots; only what changed is written'],
          ['mirror', 'a plain copy of the files; what was changed lies beside it'],
        ]}
      />
      <Tick checked={auto} onChange={(on) => set({ auto: on })}>
        By itself when the drive is there, at most every six hours
      </Tick>
      <Row>
        <Grow />
        <MainButton
          isDisabled={folder.trim() === ''}
          onPress={() => {
            onAdd({ folder: folder.trim(), as, auto });
            keep(undefined);
          }}
        >
          Back up now
        </MainButton>
      </Row>
    </Dialog>
  );
}

function MovedOff({
  id,
  movedOff,
}: {
  id: string;
  movedOff: { folder: string; snapshot: string; time: string; files: number; bytes: number };
}) {
  const run = useJob();
  const client = useQueryClient();
  const { attempt, problem, busy } = useAttempt();
  const back = () =>
    attempt(async () => {
      await run(bringBackRoute, { id }, {});
      await client.invalidateQueries();
    });
  return (
    <Sheet aria-label="Backups">
      <Stack>
        <h2>Moved off</h2>
        <Notice tone="slate" title={`This work was moved off on ${movedOff.time.slice(0, 10)}.`}>
          It lies in <Mono>{movedOff.folder}</Mono>, {bytes(movedOff.bytes)}, every byte proven then. Here a
          stub is left.
        </Notice>
        <ErrorNotice error={problem} />
        <Row>
          <MainButton isPending={busy !== null} onPress={() => void back()}>
            <Undo2 size={15} /> {busy ? 'Bringing back …' : 'Bring it back'}
          </MainButton>
        </Row>
      </Stack>
    </Sheet>
  );
}
