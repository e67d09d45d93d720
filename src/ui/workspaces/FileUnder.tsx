'use client';
// Files a workspace under a category: a word that groups the list, noted in the workspace.

import { makePlan } from '@/wire/routes/plans';
import { planRequest } from '@/wire/jobs';
import type { WorkspaceView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { asking, Form, FormText, Submit, useKeptForm } from '../kit/form';
import { Grow, Row } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlanOf } from '../kit/work';

export function FileUnder({
  workspace,
  known,
  onClose,
}: {
  workspace: WorkspaceView;
  known: string[];
  onClose: () => void;
}) {
  const planOf = usePlanOf();
  const { attempt, problem } = useAttempt();
  const request = (v: { category: string }) => ({
    kind: 'settings' as const,
    change: { category: v.category.trim() || null },
  });
  const form = useKeptForm(`category of ${workspace.id}`, asking(planRequest, request), {
    category: workspace.category ?? '',
  });
  const close = () => {
    form.takeBack();
    onClose();
  };
  return (
    <Dialog title={`File ${workspace.name} under`} width={460} onClose={close}>
      <Form
        form={form}
        label="File under"
        onSubmit={(v) => attempt(() => planOf(makePlan, { id: workspace.id }, request(v), { back: '/' }))}
      >
        <FormText
          name="category"
          label="Category"
          autoFocus
          placeholder="client"
          description="A word that groups the list. It is noted in the workspace; no folder moves. Left empty, it has none."
        />
        {known.length > 0 && (
          <Row $wrap>
            {known.map((k) => (
              <Button key={k} onPress={() => form.setValue('category', k, { shouldValidate: true })}>
                {k}
              </Button>
            ))}
          </Row>
        )}
        <ErrorNotice error={problem} />
        <Row>
          <Grow />
          <Button onPress={close}>Cancel</Button>
          <Submit>Plan it…</Submit>
        </Row>
      </Form>
    </Dialog>
  );
}
