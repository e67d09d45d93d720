'use client';
// Packs what was chosen as a bag: where to, as what, in one piece or in volumes; then what is in it and what is not.

import { packBag } from '@/wire/routes/bags';
import { useState } from 'react';
import type { HandInListWire } from '@/wire/handIn';
import type { z } from 'zod';
import { brokenScenes, classNames, type TravelChoice, type Travelling } from '@/core/bags/travelling';
import { bytes, count, figure } from '@/core/text/figures';
import type { WorkspaceView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Dialog } from '../kit/dialog';
import { asking, Form, FormChoice, FormFolder, FormText, FormTick, Submit, useKeptForm } from '../kit/form';
import { Grow, Mono, Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { useJob } from '../kit/work';

type Packed = z.output<NonNullable<typeof packBag.result>>;

const volumes = [
  ['none', 'one bag'],
  ['fat32', 'volumes for FAT32 (4 GiB)'],
  ['4700000000', 'volumes of 4.7 GB'],
  ['25000000000', 'volumes of 25 GB'],
  ['own', 'volumes of …'],
] as const;
const shownAtMost = 12;

interface Values {
  folder: string;
  name: string;
  form: string;
  volume: string;
  own: string;
  withHandIn: boolean;
  [more: string]: unknown;
}

/** Bytes of a volume; undefined: one bag. */
function volumeOf({ volume, own }: Values): number | undefined {
  if (volume === 'none') return undefined;
  if (volume === 'fat32') return 4 * 1024 ** 3 - 1;
  return volume === 'own' ? Math.round(Number(own.replace(',', '.')) * 1e9) : Number(volume);
}

function PackedNotice({ packed }: { packed: Packed }) {
  const isWhole = packed.broken.length + packed.leftOut.length === 0;
  const where = packed.volumes.length === 1 ? '' : ` in ${count(packed.volumes.length, 'volume')}`;
  const lines = [
    ...packed.without.map((w) => `Not taken: ${classNames[w.class].toLowerCase()} (${bytes(w.bytes)}).`),
    ...brokenScenes(packed.broken).map(
      (b) =>
        `Needed by ${b.scene} and not taken: ${b.targets[0]!}${b.targets.length > 1 ? ` and ${b.targets.length - 1} more` : ''}.`,
    ),
    ...packed.leftOut.map((l) => `${l.path}: ${l.why}`),
  ];
  const lost = packed.references - packed.ready;
  return (
    <Notice
      tone={isWhole && lost === 0 ? 'green' : 'amber'}
      title={`Packed ${count(packed.files, 'file')} (${bytes(packed.bytes)})${where}${lost > 0 ? `; ${figure(lost)} of ${figure(packed.references)} references would not open from it` : ''}.`}
    >
      <Mono>{packed.bag}</Mono>
      {lines.length > 0 && (
        <ul aria-label="Not in the bag" style={{ margin: '6px 0 0', paddingLeft: 18 }}>
          {lines.slice(0, shownAtMost).map((l) => (
            <li key={l} style={{ overflowWrap: 'anywhere' }}>
              {l}
            </li>
          ))}
          {lines.length > shownAtMost && <li>and {lines.length - shownAtMost} more</li>}
        </ul>
      )}
    </Notice>
  );
}

export function PackDialog({
  workspace,
  choice,
  travelling,
  handIn,
  folder,
  onPacked,
  onClose,
}: {
  workspace: WorkspaceView;
  choice: TravelChoice;
  travelling: Travelling;
  handIn: HandInListWire | null;
  /** Where it is put unless another folder is chosen. */
  folder: string;
  onPacked: (bag: string) => void;
  onClose: () => void;
}) {
  const run = useJob();
  const { attempt, problem, busy } = useAttempt();
  const [packed, setPacked] = useState<Packed | null>(null);
  const request = (v: Values) => ({
    folder: v.folder,
    name: v.name,
    form: v.form,
    workspace: workspace.id,
    choice,
    volume: volumeOf(v),
    ...(handIn && v.withHandIn ? { handIn } : {}),
  });
  const form = useKeptForm<Values>('pack', asking(packBag.input, request), {
    folder,
    name: workspace.root.split('/').pop()!,
    form: 'zip',
    volume: 'none',
    own: '4',
    withHandIn: true,
  });
  const pack = (values: Values) =>
    attempt(async () => {
      setPacked(null);
      const made = await run(packBag, {}, packBag.input.parse(request(values)));
      setPacked(made);
      onPacked(made.bag);
    });
  return (
    <Dialog title="Pack the bag" width={680} onClose={onClose}>
      <Form form={form} label="Pack the bag" onSubmit={pack}>
        <Stack>
          <Soft>
            {bytes(travelling.bytes)} in {count(travelling.files, 'file')}, every one with its checksum, and a
            page that says what to do with it. The workspace stays as it is.
          </Soft>
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
            <FormChoice name="volume" label="In" options={volumes} />
            {form.values.volume === 'own' && <FormText name="own" label="GB each" />}
          </Row>
          {handIn && (
            <FormTick name="withHandIn">
              Checked against “{handIn.name}”, the result goes into the bag
            </FormTick>
          )}
          <ErrorNotice error={problem} />
          {packed && <PackedNotice packed={packed} />}
          <Row>
            <Grow />
            <Submit unless={form.values.folder === ''}>{busy ? 'Packing …' : 'Pack it'}</Submit>
          </Row>
        </Stack>
      </Form>
    </Dialog>
  );
}
