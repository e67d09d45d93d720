'use client';
// A bag that arrived: verified where it lies, or unpacked, with every byte checked on its way.

import { unpackBag, verifyBag } from '@/wire/routes/bags';
import { openWorkspace } from '@/wire/routes/workspaces';
import { CheckCircle2, PackageOpen, ShieldCheck } from 'lucide-react';
import { useState } from 'react';
import type { z } from 'zod';
import { bytes, count } from '@/core/text/figures';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, PlainButton } from '../kit/buttons';
import { Form, FormFolder, FormText, Submit, type KeptForm } from '../kit/form';
import { Grow, Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { useGo } from '../kit/leaving';
import { ErrorNotice, Notice } from '../kit/notices';
import { useJob } from '../kit/work';

type Verified = z.output<NonNullable<typeof verifyBag.result>>;
type Unpacked = z.output<NonNullable<typeof unpackBag.result>>;
type Outcome = { verified: Verified } | { unpacked: Unpacked };

/** The fields of an arrival. */
export type Arrival = z.input<typeof unpackBag.input>;

/** What the folder of a bag is called unless somebody says otherwise. */
export const folderNameOf = (bag: string) =>
  bag
    .split('/')
    .pop()!
    .replace(/\.zip$/i, '');

const shownAtMost = 40;

function VerifiedNotice({ verified }: { verified: Verified }) {
  const { problems } = verified;
  if (problems.length === 0)
    return (
      <Notice
        tone="green"
        title={`Valid: every byte of ${count(verified.files, 'file')} (${bytes(verified.bytes)}) is as it was packed.`}
      >
        Checked by {verified.algorithms.join(', ')}.
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

function UnpackedNotice({ unpacked, onOpen }: { unpacked: Unpacked; onOpen: () => void }) {
  return (
    <Notice
      tone="green"
      title={`Unpacked ${count(unpacked.files, 'file')} (${bytes(unpacked.bytes)}); every checksum matches.`}
    >
      <Row>
        <CheckCircle2 size={15} aria-hidden />
        <Mono>{unpacked.root}</Mono>
        {unpacked.isWorkspace && <PlainButton onPress={onOpen}>Open it</PlainButton>}
      </Row>
    </Notice>
  );
}

export function ArrivedCard({ form }: { form: KeptForm<Arrival> }) {
  const run = useJob();
  const go = useGo();
  const { attempt, problem, busy } = useAttempt();
  const [outcome, setOutcome] = useState<Outcome | null>(null);
  const { bag } = form.values;
  const act = (what: string, work: () => Promise<Outcome>) =>
    attempt(async () => {
      setOutcome(null);
      setOutcome(await work());
    }, what);
  const open = (root: string) =>
    attempt(async () => go(`/overview?w=${(await call(openWorkspace, {}, { path: root })).id}`));
  return (
    <Sheet aria-label="Verify and unpack">
      <Form
        form={form}
        label="A bag that arrived"
        onSubmit={(values) =>
          act('unpack', async () => ({ unpacked: await run(unpackBag, {}, unpackBag.input.parse(values)) }))
        }
      >
        <Stack>
          <div>
            <h2>
              <Row>
                <PackageOpen size={15} aria-hidden /> A bag that arrived
              </Row>
            </h2>
            <Soft>
              Unpacking checks every byte on its way; the folder appears only when all of it is right.
            </Soft>
          </div>
          <FormFolder
            name="bag"
            label="The bag"
            title="Which bag?"
            pick="bag"
            placeholder="a .zip or a folder"
            onTyped={(typed) => form.setValue('name', folderNameOf(typed), { shouldValidate: true })}
          />
          <FormFolder name="folder" label="Unpack into the folder" title="Where shall it be unpacked?" />
          <FormText name="name" label="As" />
          <Row>
            <Grow />
            <Button
              isDisabled={bag === ''}
              isPending={busy === 'verify'}
              onPress={() =>
                void act('verify', async () => ({ verified: await run(verifyBag, {}, { bag }) }))
              }
            >
              <ShieldCheck size={15} /> {busy === 'verify' ? 'Verifying …' : 'Verify'}
            </Button>
            <Submit unless={bag === '' || busy === 'verify'}>
              {busy === 'unpack' ? 'Unpacking …' : 'Unpack'}
            </Submit>
          </Row>
          <ErrorNotice error={problem} />
          {outcome && 'verified' in outcome && <VerifiedNotice verified={outcome.verified} />}
          {outcome && 'unpacked' in outcome && (
            <UnpackedNotice unpacked={outcome.unpacked} onOpen={() => void open(outcome.unpacked.root)} />
          )}
        </Stack>
      </Form>
    </Sheet>
  );
}
