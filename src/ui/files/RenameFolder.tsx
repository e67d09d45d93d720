'use client';
// A folder under another name or elsewhere: all that is in it, every path to it, and a home that it is, follow.

import { checkNewName } from '@/core/names/portable';
import { planRequest } from '@/wire/jobs';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { asking, Form, FormText, Submit, useKeptForm } from '../kit/form';
import { Row, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlan } from '../kit/work';

/** What is wrong with a path from the root, in words. */
export const wrongPath = (path: string) => path.split('/').flatMap((part) => checkNewName(part))[0]?.message;

export function RenameFolder({ folder, onClose }: { folder: string; onClose: () => void }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const request = (v: { to: string }) => ({ kind: 'move' as const, moves: [{ path: folder, to: v.to }] });
  const form = useKeptForm('folder to', asking(planRequest, request), { to: folder });
  return (
    <Form form={form} label="Rename this folder" onSubmit={(v) => attempt(() => plan(request(v)))}>
      <Stack $gap={2}>
        <ErrorNotice error={problem} />
        <Row style={{ alignItems: 'flex-end' }}>
          <FormText name="to" label="The folder’s path from the root" mono check={wrongPath} />
          <Button
            onPress={() => {
              form.takeBack();
              onClose();
            }}
          >
            Cancel
          </Button>
          <Submit unless={form.values.to === folder || wrongPath(form.values.to) !== undefined}>
            Plan it…
          </Submit>
        </Row>
      </Stack>
    </Form>
  );
}
