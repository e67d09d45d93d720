'use client';
// From a file of this workspace to the page that carries it into another.

import { ArrowLeftRight } from '../kit/icons';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { Button, MainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Radios } from '../kit/fields';
import { Row, Soft } from '../kit/layout';
import { useServerState, useWorkspaceId } from '../kit/work';

/** `path`: a file or a folder, as a path in the tree. */
export function CarryTo({ path }: { path: string }) {
  const id = useWorkspaceId();
  const router = useRouter();
  const { data: state } = useServerState();
  const [isOpen, setOpen] = useState(false);
  const own = state?.workspaces.find((w) => w.id === id);
  const others = (state?.workspaces ?? []).filter((w) => w.id !== id);
  const [chosen, setChosen] = useState<string | null>(null);
  const into = chosen ?? others[0]?.id ?? '';
  if (!own) return null;
  const go = () => router.push(`/carry?${new URLSearchParams({ w: into, from: own.root, asset: path })}`);
  return (
    <>
      <Button onPress={() => setOpen(true)}>
        <ArrowLeftRight size={15} /> Carry into another workspace…
      </Button>
      {isOpen && (
        <Dialog title="Carry into which workspace?" width={520} onClose={() => setOpen(false)}>
          {others.length === 0 ? (
            <Soft>No other workspace is known here. Open it under Workspaces first.</Soft>
          ) : (
            <Radios
              label="Workspace"
              value={into}
              onChange={setChosen}
              options={others.map((w) => ({
                id: w.id,
                name: w.name,
                content: (
                  <>
                    <strong>{w.name}</strong> <Soft>{w.root}</Soft>
                  </>
                ),
              }))}
            />
          )}
          <Row style={{ justifyContent: 'flex-end' }}>
            <Button onPress={() => setOpen(false)}>Cancel</Button>
            <MainButton isDisabled={into === ''} onPress={go}>
              See what comes along
            </MainButton>
          </Row>
        </Dialog>
      )}
    </>
  );
}
