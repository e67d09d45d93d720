'use client';
// Something arrived: recognised, taken into its place, paths written for here, and then the scene to open first. Where the same workspace lies there
// already, file by file.

import { useQuery } from '@tanstack/react-query';
import { CheckCircle2, Copy, PackageOpen, ShieldCheck } from '../kit/icons';
import { useState } from 'react';
import type { z } from 'zod';
import { count, bytes } from '@/core/text/figures';
import { verifyBag } from '@/wire/routes/bags';
import { arriveAgain, arriveRoute, recogniseRoute, settleRoute } from '@/wire/routes/travel';
import { openWorkspace } from '@/wire/routes/workspaces';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, PlainButton } from '../kit/buttons';
import { Form, FormFolder, FormText, Submit, type KeptForm } from '../kit/form';
import { Grow, Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { useGo } from '../kit/leaving';
import { ErrorNotice, Notice } from '../kit/notices';
import { FolderField } from '../kit/places';
import { useJob } from '../kit/work';
import { useTyped } from '../kit/kept';
import { Again } from './Again';

type Verified = z.output<NonNullable<typeof verifyBag.result>>;
type Arrived = z.output<NonNullable<typeof arriveRoute.result>>;
type Compared = z.output<NonNullable<typeof arriveAgain.result>>;

/** The fields of an arrival. */
export interface Arrival {
  path: string;
  folder: string;
  name: string;
  [more: string]: unknown;
}

/** What the folder of what arrived is called unless somebody says otherwise. */
export const folderNameOf = (at: string) =>
  at
    .replace(/[\\/]+$/, '')
    .split(/[\\/]/)
    .pop()!
    .replace(/\.zip$/i, '')
    .replace(/ \d+ of \d+$/, '');

const kinds = { bag: 'A bag', zip: 'A ZIP', workspace: 'A workspace', folder: 'A folder' } as const;
const shownAtMost = 30;

function VerifiedNotice({ verified }: { verified: Verified }) {
  const { problems } = verified;
  if (problems.length === 0)
    return (
      <Notice
        tone="green"
        title={`Valid: every byte of ${count(verified.files, 'file')} (${bytes(verified.bytes)}) is as it was packed.`}
      >
        Checked by {verified.algorithms.join(', ')}
        {verified.volumes.length > 1 ? `, all ${count(verified.volumes.length, 'volume')}` : ''}.
      </Notice>
    );
  return (
    <Notice tone="brick" title={`${count(problems.length, 'problem')} in this bag.`}>
      <ul>
        {problems.slice(0, shownAtMost).map((p, i) => (
          <li key={i}>{p.message}</li>
        ))}
        {problems.length > shownAtMost && <li>and {problems.length - shownAtMost} more</li>}
      </ul>
    </Notice>
  );
}

/** Folders of the sending machine, and where they are here: asked once. */
function Heads({ arrived, onSettled }: { arrived: Arrived; onSettled: (arrived: Arrived) => void }) {
  const run = useJob();
  const { attempt, problem, busy } = useAttempt();
  const [here, setHere] = useTyped<Record<string, string>>('heads here', {});
  const heads = Object.entries(here).flatMap(([from, to]) => (to.trim() ? [{ from, to: to.trim() }] : []));
  const settle = () =>
    attempt(async () => {
      const { id } = await call(openWorkspace, {}, { path: arrived.root });
      onSettled(await run(settleRoute, { id }, { heads }));
    });
  return (
    <Notice tone="amber" title="It knows folders that are not here.">
      <Stack>
        {arrived.unknownHeads.map((h) => (
          <FolderField
            key={h.path}
            label={`${h.name}, there ${h.path}, is here`}
            title={`Where is ${h.name} here?`}
            value={here[h.path] ?? ''}
            onChange={(to) => setHere({ ...here, [h.path]: to })}
          />
        ))}
        <ErrorNotice error={problem} />
        <Row>
          <Soft>It is remembered for what arrives later.</Soft>
          <Grow />
          <Button isDisabled={heads.length === 0} isPending={busy !== null} onPress={() => void settle()}>
            Read them so
          </Button>
        </Row>
      </Stack>
    </Notice>
  );
}

function ArrivedNotice({ arrived, onOpen }: { arrived: Arrived; onOpen: () => void }) {
  const isComplete = arrived.missing.length === 0;
  const first = arrived.scenes[0];
  return (
    <div data-testid="arrived">
      <Notice tone={isComplete ? 'green' : 'amber'} title={arrived.sentence}>
        <Stack $gap={2}>
          {first !== undefined && (
            <div>
              Open first, from this place:
              <Row>
                <CheckCircle2 size={15} aria-hidden />
                <Grow>
                  <Mono>
                    {arrived.root}/{first}
                  </Mono>
                </Grow>
                <PlainButton
                  aria-label="Copy the path of the scene to open"
                  onPress={() => void navigator.clipboard.writeText(`${arrived.root}/${first}`)}
                >
                  <Copy size={15} />
                </PlainButton>
              </Row>
            </div>
          )}
          {!isComplete && (
            <ul aria-label="Missing" style={{ margin: 0, paddingLeft: 18 }}>
              {arrived.missing.slice(0, 8).map((m, i) => (
                <li key={i} style={{ overflowWrap: 'anywhere' }}>
                  {m.state}: {m.written} <Soft>in {m.scene}</Soft>
                </li>
              ))}
              {arrived.missing.length > 8 && <li>and {arrived.missing.length - 8} more</li>}
            </ul>
          )}
          {arrived.bundles.whole.map((b) => (
            <div key={b.path}>
              <Mono>{b.path}</Mono> still holds many files in one{b.why === null ? '.' : `: ${b.why}`}
            </div>
          ))}
          {arrived.left.length > 0 && <Soft>{count(arrived.left.length, 'file')} could not come along.</Soft>}
          {arrived.isWorkspace ? (
            <Row>
              <Button onPress={onOpen}>Open the workspace</Button>
            </Row>
          ) : (
            <Soft>It is no workspace yet: take it over under Workspaces.</Soft>
          )}
        </Stack>
      </Notice>
    </div>
  );
}

export function Arrived({ form }: { form: KeptForm<Arrival> }) {
  const run = useJob();
  const go = useGo();
  const { attempt, problem, busy } = useAttempt();
  const [verified, setVerified] = useState<Verified | null>(null);
  const [arrived, setArrived] = useState<Arrived | null>(null);
  const [compared, setCompared] = useState<Compared | null>(null);
  const { path, folder, name } = form.values;
  const { data: what } = useQuery({
    queryKey: ['arrival', path, folder, name],
    enabled: path.trim() !== '',
    retry: false,
    queryFn: () => run(recogniseRoute, {}, { path, folder, name }),
  });
  const clear = () => {
    setVerified(null);
    setArrived(null);
    setCompared(null);
  };
  const takeIn = (values: Arrival) =>
    attempt(async () => {
      clear();
      const { path: from, folder: into, name: as } = values;
      if (what?.isAgain) setCompared(await run(arriveAgain, {}, { path: from, folder: into, name: as }));
      else setArrived(await run(arriveRoute, {}, { path: from, folder: into, name: as }));
    }, 'arrive');
  const open = (root: string) =>
    attempt(async () => go(`/overview?w=${(await call(openWorkspace, {}, { path: root })).id}`));
  return (
    <Sheet aria-label="Something arrived">
      <Form form={form} label="Something arrived" onSubmit={takeIn}>
        <Stack>
          <div>
            <h2>
              <Row>
                <PackageOpen size={15} aria-hidden /> Something arrived
              </Row>
            </h2>
            <Soft>
              A bag, a ZIP or a folder: checked, given its place, and its paths written for here before you
              open the first scene.
            </Soft>
          </div>
          <FormFolder
            name="path"
            label="What arrived"
            title="What arrived?"
            pick="bag"
            placeholder="a bag, a .zip or a folder"
            onTyped={(typed) => {
              clear();
              form.setValue('name', folderNameOf(typed), { shouldValidate: true });
            }}
          />
          {what && (
            <Soft data-testid="recognised">
              {kinds[what.kind]}, {count(what.files, 'file')}, {bytes(what.bytes)}
              {what.isAgain
                ? '. This workspace lies there already: it is compared file by file.'
                : what.isWorkspace || what.kind === 'workspace'
                  ? ', with its workspace.'
                  : '.'}
            </Soft>
          )}
          {path !== '' && (
            <>
              <FormFolder name="folder" label="Into the folder" title="Where shall it lie?" />
              <FormText name="name" label="As" />
            </>
          )}
          {what?.wrongPlace && (
            <Notice tone="amber" title="Not a good place.">
              {what.wrongPlace}
            </Notice>
          )}
          {path !== '' && (
            <Row>
              <Grow />
              {what?.kind === 'bag' && (
                <Button
                  isPending={busy === 'verify'}
                  onPress={() =>
                    void attempt(async () => {
                      clear();
                      setVerified(await run(verifyBag, {}, { bag: path }));
                    }, 'verify')
                  }
                >
                  <ShieldCheck size={15} /> {busy === 'verify' ? 'Verifying …' : 'Verify only'}
                </Button>
              )}
              <Submit unless={path === '' || busy !== null}>
                {busy === 'arrive' ? 'Taking in …' : what?.isAgain ? 'Compare…' : 'Take it in'}
              </Submit>
            </Row>
          )}
          <ErrorNotice error={problem} />
          {verified && <VerifiedNotice verified={verified} />}
          {arrived && <ArrivedNotice arrived={arrived} onOpen={() => void open(arrived.root)} />}
          {arrived && arrived.unknownHeads.length > 0 && (
            <Heads
              arrived={arrived}
              onSettled={(next) => setArrived({ ...next, files: arrived.files, bytes: arrived.bytes })}
            />
          )}
        </Stack>
      </Form>
      {compared && <Again compared={compared} onClose={() => setCompared(null)} />}
    </Sheet>
  );
}
