'use client';
// Moves or renames a workspace on disk: its new place, its category; then the plan, with every path that follows.

import { relocate } from '@/wire/routes/shelf';
import { checkNewName } from '@/core/names/portable';
import type { WorkspaceView } from '@/wire/views';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { asking, Form, FormFolder, FormText, Submit, useKeptForm } from '../kit/form';
import { Grow, Mono, Row, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { PlaceAdvice } from '../kit/places';
import { usePlanOf } from '../kit/work';

const pathOf = (v: { parent: string; name: string }) =>
  `${v.parent === '/' ? '' : v.parent.replace(/\/+$/, '')}/${v.name}`;
const wrongName = (name: string) => checkNewName(name)[0]?.message;

export function MoveWorkspace({ workspace, onClose }: { workspace: WorkspaceView; onClose: () => void }) {
  const planOf = usePlanOf();
  const { attempt, problem } = useAttempt();
  const cut = workspace.root.lastIndexOf('/');
  const request = (v: { parent: string; name: string }) => ({
    moves: [{ from: workspace.root, to: pathOf(v) }],
  });
  const form = useKeptForm(`move of ${workspace.id}`, asking(relocate.input, request), {
    parent: workspace.root.slice(0, cut) || '/',
    name: workspace.root.slice(cut + 1),
  });
  const { parent, name } = form.values;
  const to = pathOf(form.values);
  const close = () => {
    form.takeBack();
    onClose();
  };
  return (
    <Dialog title={`Move or rename ${workspace.name}`} onClose={close}>
      <Form
        form={form}
        label="Where it will lie"
        onSubmit={(v) => attempt(() => planOf(relocate, {}, request(v), { back: '/' }))}
      >
        <FormFolder
          name="parent"
          label="Folder that holds it"
          title="Where shall it lie?"
          description="A folder that is not there yet is made: a new category, a client."
        />
        <FormText name="name" label="Folder name" check={wrongName} />
        <div>
          <Soft>It will lie at</Soft>
          <br />
          <Mono>{to}</Mono>
        </div>
        <PlaceAdvice path={parent} quiet />
        <ErrorNotice error={problem} />
        <Row>
          <Grow>
            <Soft>Paths out of it, and from other known workspaces into it, follow.</Soft>
          </Grow>
          <Button onPress={close}>Cancel</Button>
          <Submit unless={wrongName(name) !== undefined || to === workspace.root}>Plan the move…</Submit>
        </Row>
      </Form>
    </Dialog>
  );
}
