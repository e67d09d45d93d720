'use client';
// Every delivery in a folder, held against one list: a table, and the same as a file.

import { CheckCircle2, Download, TriangleAlert } from '../kit/icons';
import { useState } from 'react';
import type { HandInListWire } from '@/wire/handIn';
import type { z } from 'zod';
import { count } from '@/core/text/figures';
import { checkHandIns } from '@/wire/routes/travel';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { download } from '../kit/download';
import { EnterForm } from '../kit/form';
import { Grow, Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { FolderField } from '../kit/places';
import { SmallTable } from '../kit/SmallTable';
import { useJob } from '../kit/work';
import { useTyped } from '../kit/kept';
import { color } from '../theme/theme';

type Checked = z.output<NonNullable<typeof checkHandIns.result>>;

export function CheckMany({ list, onClose }: { list: HandInListWire; onClose: () => void }) {
  const run = useJob();
  const { attempt, problem, busy } = useAttempt();
  const [folder, setFolder] = useTyped('handed in', '');
  const [checked, setChecked] = useState<Checked | null>(null);
  const check = () => attempt(async () => setChecked(await run(checkHandIns, {}, { folder, list })));
  const met = checked?.deliveries.filter((d) => d.ok).length ?? 0;
  return (
    <Dialog title={`What was handed in for “${list.name}”`} width={820} onClose={onClose}>
      <EnterForm onEnter={() => folder !== '' && void check()}>
        <Stack>
          <Soft>Each ZIP and each folder in it is one delivery. Nothing in them is changed.</Soft>
          <FolderField
            label="The folder"
            title="Where do the deliveries lie?"
            value={folder}
            onChange={setFolder}
          />
          <Row>
            {checked && (
              <strong>
                {met} of {count(checked.deliveries.length, 'delivery', 'deliveries')} meet the list.
              </strong>
            )}
            <Grow />
            {checked && (
              <Button onPress={() => download('handed in.csv', 'text/csv', checked.table)}>
                <Download size={15} /> As a table (CSV)
              </Button>
            )}
            <MainButton type="submit" isDisabled={folder === ''} isPending={busy !== null}>
              {busy ? 'Checking …' : 'Check them'}
            </MainButton>
          </Row>
          <ErrorNotice error={problem} />
          {checked && (
            <div style={{ maxHeight: '46vh', overflow: 'auto' }}>
              <SmallTable aria-label="Deliveries">
                <thead>
                  <tr>
                    <th>Delivery</th>
                    <th>Meets it</th>
                    <th>What is not met</th>
                  </tr>
                </thead>
                <tbody>
                  {checked.deliveries.map((d) => (
                    <tr key={d.path}>
                      <td>{d.name}</td>
                      <td style={{ whiteSpace: 'nowrap' }}>
                        {d.ok ? (
                          <CheckCircle2 size={15} color={color.greenText} aria-hidden />
                        ) : (
                          <TriangleAlert size={15} color={color.amber} aria-hidden />
                        )}{' '}
                        {d.ok ? 'yes' : 'no'}
                      </td>
                      <td>
                        {d.error ??
                          d.points
                            .filter((p) => !p.ok)
                            .map((p) => p.asked)
                            .join(' · ')}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </SmallTable>
            </div>
          )}
        </Stack>
      </EnterForm>
    </Dialog>
  );
}
