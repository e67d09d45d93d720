'use client';
// Any file for a reference, chosen by hand.

import { FileSearch } from '../kit/icons';
import { useState } from 'react';
import { useAttempt } from '../kit/attempt';
import { PlainButton } from '../kit/buttons';
import { FolderChooser } from '../kit/FolderChooser';
import { ErrorNotice } from '../kit/notices';
import { usePlan, useServerState } from '../kit/work';

export function ChooseFile({ workspace, of }: { workspace: string; of: { scene: string; at: string } }) {
  const { data: state } = useServerState();
  const root = state?.workspaces.find((w) => w.id === workspace)?.root;
  const plan = usePlan();
  const [isOpen, setOpen] = useState(false);
  const { attempt, problem } = useAttempt();
  const choose = (path: string) => {
    setOpen(false);
    const inside = root !== undefined && path.startsWith(`${root}/`);
    void attempt(() =>
      plan({ kind: 'relink', choices: [{ ...of, to: inside ? path.slice(root.length + 1) : path }] }),
    );
  };
  return (
    <>
      <PlainButton onPress={() => setOpen(true)}>
        <FileSearch size={15} /> Choose a file yourself…
      </PlainButton>
      <ErrorNotice error={problem} />
      {isOpen && (
        <FolderChooser
          title="Which file shall it be?"
          pick="files"
          start={root}
          action="Point it there"
          onClose={() => setOpen(false)}
          onChoose={([path]) => choose(path!)}
        />
      )}
    </>
  );
}
