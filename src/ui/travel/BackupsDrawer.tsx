'use client';
// A folder of backups: its snapshots, whether every byte was proven, damage and what heals it, what is cleared by rule, and finished work moved off.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { ArchiveRestore, HeartPulse, PackageMinus, ShieldCheck, Trash2 } from '../kit/icons';
import { useState } from 'react';
import styled from 'styled-components';
import { usualRule, writeRule } from '@/core/backups/thinning';
import { nameOf } from '@/core/files/treePath';
import { bytes, count, exactTime, when } from '@/core/text/figures';
import type { BackupsView } from '@/wire/backups';
import {
  archiveRoute,
  clearRoute,
  healRoute,
  lookAtBackups,
  lookAtClearing,
  proveRoute,
} from '@/wire/routes/travel';
import type { WorkspaceView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, LineButton, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Drawer, FullPath } from '../kit/Drawer';
import { TextField } from '../kit/fields';
import { Grow, Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { useJob } from '../kit/work';
import { color } from '../theme/theme';
import { SnapshotDialog } from './SnapshotDialog';

const Lines = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  li {
    border-bottom: 1px solid ${color.line};
  }
`;

type Made = BackupsView['snapshots'][number];
const shownAtMost = 100;

function Proven({ view }: { view: BackupsView }) {
  const [now] = useState(() => Date.now());
  const [last] = view.proofs;
  const isDue = view.proofDue !== null && Date.parse(view.proofDue) < now;
  const due =
    view.proofDue === null ? '' : isDue ? 'It is due again.' : `Next due ${view.proofDue.slice(0, 10)}.`;
  if (!last) return <Soft>Not proven yet. {due}</Soft>;
  const wrong = last.spoilt.length + last.records.length;
  if (wrong === 0)
    return (
      <Notice
        tone={isDue ? 'amber' : 'green'}
        title={`Every byte proven ${when(Date.parse(last.ended), now)}.`}
      >
        {count(last.contents, 'content')}, {bytes(last.bytes)}. {due}
      </Notice>
    );
  return (
    <Notice
      tone="brick"
      title={`${count(wrong, 'content')} ${wrong === 1 ? 'is' : 'are'} not right any more.`}
    >
      <ul style={{ margin: 0, paddingLeft: 18 }}>
        {last.spoilt.slice(0, 10).map((s) => (
          <li key={s.digest} style={{ overflowWrap: 'anywhere' }}>
            {s.files.map((f) => f.path).join(', ')}
            {s.count > s.files.length && ` and ${s.count - s.files.length} more`} <Soft>({s.how})</Soft>
          </li>
        ))}
        {last.records.map((r) => (
          <li key={r}>{r}</li>
        ))}
      </ul>
    </Notice>
  );
}

export function BackupsDrawer({
  folder,
  workspace,
  onClose,
}: {
  folder: string;
  workspace: WorkspaceView;
  onClose: () => void;
}) {
  const run = useJob();
  const client = useQueryClient();
  const { attempt, problem, busy } = useAttempt();
  const [open, setOpen] = useState<{ snapshot: Made } | 'clear' | 'move' | null>(null);
  const [now] = useState(() => Date.now());
  const [healed, setHealed] = useState<string | null>(null);
  const { data: view, error } = useQuery({
    queryKey: ['backups', folder],
    queryFn: () => run(lookAtBackups, {}, { folder }),
  });
  const anew = () => client.invalidateQueries({ queryKey: ['backups', folder] });
  const [unkept, setUnkept] = useState<string | null>(null);
  const prove = () =>
    attempt(async () => {
      setHealed(null);
      setUnkept(null);
      const { proof, unkept: why } = await run(proveRoute, {}, { folder });
      if (why !== null && proof !== null)
        setUnkept(
          `${proof.spoilt.length === 0 ? 'Every byte was right' : `${count(proof.spoilt.length, 'content')} not right any more`} just now; that could not be kept there. ${why}`,
        );
      await anew();
    }, 'prove');
  const heal = () =>
    attempt(async () => {
      const done = await run(healRoute, {}, { folder, from: [workspace.root] });
      await run(proveRoute, {}, { folder, anew: true });
      setHealed(
        `${count(done.healed.length, 'content')} healed${done.healed[0] ? ` from ${nameOf(done.healed[0].from)}` : ''}${done.left.length > 0 ? `; ${done.left.length} nobody has right` : ''}${done.records > 0 ? `; ${count(done.records, 'record')} written anew` : ''}.`,
      );
      await anew();
    }, 'heal');
  const needsHealing = view && ((view.proofs[0]?.spoilt.length ?? 0) > 0 || view.halves > 0);
  return (
    <Drawer title={nameOf(folder)} label={`Backups in ${nameOf(folder)}`} onClose={onClose}>
      <Stack>
        <FullPath path={folder} />
        <ErrorNotice error={problem ?? (error ? shapeOf(error) : null)} />
        {!view && !error && <Soft>Looking …</Soft>}
        {view && (
          <>
            <Soft>
              {count(view.snapshots.length, 'snapshot')} in {bytes(view.size)}, {bytes(view.free)} free.
            </Soft>
            <Proven view={view} />
            {unkept && <Notice tone="amber" title={unkept} />}
            {healed && <Notice tone="green" title={healed} />}
            {view.damaged.length > 0 && (
              <Notice
                tone="brick"
                title={`${count(view.damaged.length, 'record')} cannot be read, in neither copy.`}
              />
            )}
            <Row $wrap>
              <Button isPending={busy === 'prove'} onPress={() => void prove()}>
                <ShieldCheck size={15} /> {busy === 'prove' ? 'Proving …' : 'Prove every byte'}
              </Button>
              {needsHealing && (
                <MainButton isPending={busy === 'heal'} onPress={() => void heal()}>
                  <HeartPulse size={15} /> {busy === 'heal' ? 'Healing …' : 'Heal'}
                </MainButton>
              )}
            </Row>
            <h3 style={{ margin: '6px 0 0', fontSize: 14.5 }}>Snapshots</h3>
            <Lines aria-label="Snapshots">
              {view.snapshots.slice(0, shownAtMost).map((s) => (
                <li key={s.id}>
                  <LineButton onPress={() => setOpen({ snapshot: s })}>
                    <Row>
                      <Grow>
                        <strong title={exactTime(Date.parse(s.time))}>{when(Date.parse(s.time), now)}</strong>{' '}
                        {s.name}
                      </Grow>
                      <Soft>
                        {bytes(s.added)} new of {bytes(s.bytes)}
                        {s.unread > 0 ? ` · ${s.unread} not read` : ''}
                      </Soft>
                    </Row>
                  </LineButton>
                </li>
              ))}
            </Lines>
            {view.snapshots.length > shownAtMost && (
              <Soft>and {view.snapshots.length - shownAtMost} older ones</Soft>
            )}
            <Row $wrap>
              <Button isDisabled={view.snapshots.length < 2} onPress={() => setOpen('clear')}>
                <Trash2 size={15} /> Clear by rule…
              </Button>
              <Button onPress={() => setOpen('move')}>
                <PackageMinus size={15} /> Move the work off…
              </Button>
            </Row>
          </>
        )}
      </Stack>
      {open === 'clear' && (
        <ClearDialog folder={folder} onClose={() => setOpen(null)} onDone={() => void anew()} />
      )}
      {open === 'move' && (
        <MoveOffDialog folder={folder} workspace={workspace} onClose={() => setOpen(null)} />
      )}
      {open !== null && typeof open === 'object' && (
        <SnapshotDialog
          folder={folder}
          made={open.snapshot}
          workspace={workspace}
          onClose={() => setOpen(null)}
        />
      )}
    </Drawer>
  );
}

function ClearDialog({
  folder,
  onClose,
  onDone,
}: {
  folder: string;
  onClose: () => void;
  onDone: () => void;
}) {
  const run = useJob();
  const { attempt, problem, busy } = useAttempt();
  const [rule, setRule] = useState({
    all: String(usualRule.all),
    days: String(usualRule.days),
    weeks: String(usualRule.weeks),
    months: String(usualRule.months),
  });
  const number = (text: string) => (/^\d{1,4}$/.test(text.trim()) ? Number(text) : null);
  const numbers = Object.values(rule).map(number);
  const isRule = numbers.every((n) => n !== null);
  const keep = isRule
    ? writeRule({ all: numbers[0]!, days: numbers[1]!, weeks: numbers[2]!, months: numbers[3]! })
    : '';
  const { data, error } = useQuery({
    queryKey: ['clearing', folder, keep],
    enabled: isRule,
    retry: false,
    queryFn: () => run(lookAtClearing, {}, { folder, which: { keep } }),
  });
  const clear = () =>
    attempt(async () => {
      await run(clearRoute, {}, { folder, ids: data!.going.map((s) => s.id) });
      onDone();
      onClose();
    });
  const field = (key: keyof typeof rule, label: string) => (
    <TextField label={label} value={rule[key]} onChange={(v) => setRule({ ...rule, [key]: v })} />
  );
  return (
    <Dialog title="Clear snapshots by rule" width={680} onClose={onClose}>
      <Row $gap={3} style={{ alignItems: 'flex-start' }}>
        {field('all', 'All of so many days')}
        {field('days', 'then one a day, days')}
        {field('weeks', 'one a week, weeks')}
        {field('months', 'one a month, months')}
      </Row>
      <ErrorNotice error={problem ?? (error ? shapeOf(error) : null)} />
      {data && (
        <>
          <strong>
            {data.going.length === 0
              ? `None of ${count(data.staying, 'snapshot')} goes by that.`
              : `${count(data.going.length, 'snapshot')} would go, ${data.staying} stay; about ${bytes(data.frees)} are freed.`}
          </strong>
          {data.archived.length > 0 && (
            <Soft>
              Kept although the rule would clear them, as the only copies of archived work:{' '}
              {[...new Set(data.archived.map((s) => s.name))].join(', ')}.
            </Soft>
          )}
          <div style={{ maxHeight: '34vh', overflow: 'auto' }}>
            {data.going.map((s) => (
              <div key={s.id}>
                {exactTime(Date.parse(s.time))} {s.name}
              </div>
            ))}
          </div>
        </>
      )}
      <Row>
        <Soft>What goes cannot be brought back.</Soft>
        <Grow />
        <MainButton
          isDisabled={!data || data.going.length === 0}
          isPending={busy !== null}
          onPress={() => void clear()}
        >
          {busy ? 'Clearing …' : data ? `Clear ${count(data.going.length, 'snapshot')}` : 'Clear'}
        </MainButton>
      </Row>
    </Dialog>
  );
}

function MoveOffDialog({
  folder,
  workspace,
  onClose,
}: {
  folder: string;
  workspace: WorkspaceView;
  onClose: () => void;
}) {
  const run = useJob();
  const client = useQueryClient();
  const { attempt, problem, busy } = useAttempt();
  const move = () =>
    attempt(async () => {
      await run(archiveRoute, { id: workspace.id }, { folder });
      await client.invalidateQueries();
      onClose();
    });
  return (
    <Dialog title={`Move ${workspace.name} off`} onClose={onClose}>
      <Stack>
        <span>
          All of it is read and kept in <strong>{nameOf(folder)}</strong>, then read back there byte by byte.
          Only when every byte is right, what lies here is removed. A stub stays that says where it is; it can
          be brought back at any time.
        </span>
        <Soft>What is saved here meanwhile ends it: then nothing is removed.</Soft>
        <ErrorNotice error={problem} />
        <Row>
          <Grow />
          <MainButton isPending={busy !== null} onPress={() => void move()}>
            <ArchiveRestore size={15} /> {busy ? 'Keeping and proving …' : 'Keep, prove, remove here'}
          </MainButton>
        </Row>
      </Stack>
    </Dialog>
  );
}
