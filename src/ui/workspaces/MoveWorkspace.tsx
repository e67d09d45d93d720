'use client';
// Moves or renames a workspace on disk: its new place, its category; then the plan, with every path that follows.

import { relocate } from '@/wire/routes/shelf';
import { useState } from 'react';
import { Dialog, Heading } from 'react-aria-components';
import { checkNewName } from '@/core/names/portable';
import type { ErrorShape } from '@/wire/jobs';
import type { WorkspaceView } from '@/wire/views';
import { shapeOf } from '../kit/api';
import { Button, ErrorNotice, Grow, MainButton, Mono, Row, Soft, Stack, TextField } from '../kit/controls';
import { FolderField, PlaceAdvice } from '../kit/fields';
import { usePlanOf } from '../kit/work';
import { Card, Veil } from '../shell/Commands';
import { font } from '../theme/theme';

export function MoveWorkspace({ workspace, onClose }: { workspace: WorkspaceView; onClose: () => void }) {
  const cut = workspace.root.lastIndexOf('/');
  const [parent, setParent] = useState(workspace.root.slice(0, cut) || '/');
  const [name, setName] = useState(workspace.root.slice(cut + 1));
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const planOf = usePlanOf();
  const to = `${parent === '/' ? '' : parent.replace(/\/+$/, '')}/${name}`;
  const wrong = checkNewName(name)[0]?.message;
  const plan = () => {
    setProblem(null);
    planOf(relocate, {}, { moves: [{ from: workspace.root, to }] }, '/').catch((cause: unknown) =>
      setProblem(shapeOf(cause)),
    );
  };
  return (
    <Veil isOpen onOpenChange={(open) => !open && onClose()} isDismissable>
      <Card style={{ maxWidth: 640 }}>
        <Dialog>
          <Stack style={{ padding: 20 }}>
            <Heading slot="title" style={{ font: `600 19px ${font.title}`, margin: 0 }}>
              Move or rename {workspace.name}
            </Heading>
            <FolderField
              label="Folder that holds it"
              title="Where shall it lie?"
              value={parent}
              onChange={setParent}
              description="A folder that is not there yet is made: a new category, a client."
            />
            <TextField label="Folder name" value={name} onChange={setName} error={wrong} />
            <div>
              <Soft>It will lie at</Soft>
              <br />
              <Mono>{to}</Mono>
            </div>
            <PlaceAdvice path={parent} quiet />
            {problem && <ErrorNotice error={problem} />}
            <Row>
              <Grow>
                <Soft>Paths out of it, and from other known workspaces into it, follow.</Soft>
              </Grow>
              <Button onPress={onClose}>Cancel</Button>
              <MainButton isDisabled={wrong !== undefined || to === workspace.root} onPress={plan}>
                Plan the move…
              </MainButton>
            </Row>
          </Stack>
        </Dialog>
      </Card>
    </Veil>
  );
}
