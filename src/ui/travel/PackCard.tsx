'use client';
// Packs the open workspace as a bag, and says what is not in it.

import { packBag } from '@/wire/routes/bags';
import { Briefcase } from 'lucide-react';
import { useState } from 'react';
import type { z } from 'zod';
import { bytes, count } from '@/core/text/figures';
import type { OverviewView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { asking, Form, FormChoice, FormFolder, FormText, Submit, useKeptForm } from '../kit/form';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { useJob } from '../kit/work';

type Packed = z.output<NonNullable<typeof packBag.result>>;

const leftShown = 20;

function LeftOut({ files }: { files: Packed['leftOut'] }) {
  return (
    <ul aria-label="Not in the bag" style={{ margin: '6px 0 0', paddingLeft: 18 }}>
      {files.map((l) => (
        <li key={l.path}>
          <Mono>{l.path}</Mono>: {l.why}
        </li>
      ))}
    </ul>
  );
}

/** A bag that was made: all of the workspace, or what it lacks. */
function PackedNotice({ packed }: { packed: Packed }) {
  const { files, leftOut } = packed;
  const made = `Packed ${count(files, 'file')} (${bytes(packed.bytes)})`;
  if (leftOut.length === 0)
    return (
      <Notice tone="green" title={`${made}.`}>
        <Mono>{packed.bag}</Mono>
      </Notice>
    );
  return (
    <Notice
      tone="amber"
      title={`${made}; ${leftOut.length} ${leftOut.length === 1 ? 'is' : 'are'} not in it.`}
    >
      <Mono>{packed.bag}</Mono>
      <LeftOut files={leftOut.slice(0, leftShown)} />
      {leftOut.length > leftShown && (
        <details>
          <summary>{leftOut.length - leftShown} more</summary>
          <LeftOut files={leftOut.slice(leftShown)} />
        </details>
      )}
    </Notice>
  );
}

export function PackCard({
  overview,
  folder,
  onPacked,
}: {
  overview: OverviewView;
  /** Where it is put unless another folder is chosen. */
  folder: string;
  onPacked: (bag: string) => void;
}) {
  const { workspace, found } = overview;
  const run = useJob();
  const { attempt, problem, busy } = useAttempt();
  const [packed, setPacked] = useState<Packed | null>(null);
  const request = (v: { folder: string; name: string; form: string }) => ({ ...v, workspace: workspace.id });
  const form = useKeptForm('pack', asking(packBag.input, request), {
    folder,
    name: workspace.root.split('/').pop()!,
    form: 'zip',
  });
  const pack = (values: typeof form.values) =>
    attempt(async () => {
      setPacked(null);
      const made = await run(packBag, {}, packBag.input.parse(request(values)));
      setPacked(made);
      onPacked(made.bag);
    });
  return (
    <Sheet aria-label="Pack">
      <Form form={form} label="Pack a bag" onSubmit={pack}>
        <Stack>
          <div>
            <h2>
              <Row>
                <Briefcase size={15} aria-hidden /> Pack a bag
              </Row>
            </h2>
            <Soft>
              All of {workspace.name}, hidden files too, with checksums:{' '}
              {found ? `${bytes(found.bytes)} in ${count(found.files, 'file')}` : '…'}.
            </Soft>
          </div>
          <FormFolder name="folder" label="Into the folder" title="Where shall the bag lie?" />
          <Row $gap={3} style={{ alignItems: 'flex-end' }}>
            <FormText name="name" label="Name" />
            <FormChoice
              name="form"
              label="As"
              options={[
                ['zip', 'one ZIP file'],
                ['folder', 'a folder'],
              ]}
            />
            <Submit unless={form.values.folder === ''}>{busy ? 'Packing …' : 'Pack it'}</Submit>
          </Row>
          <ErrorNotice error={problem} />
          {packed && <PackedNotice packed={packed} />}
        </Stack>
      </Form>
    </Sheet>
  );
}
