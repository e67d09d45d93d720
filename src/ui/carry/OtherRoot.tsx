'use client';
// Another place that something is taken from: a known workspace, or any folder.

import { FolderSearch } from '../kit/icons';
import { useState } from 'react';
import { nameOf } from '@/core/files/treePath';
import { Button } from '../kit/buttons';
import { Choose } from '../kit/fields';
import { FolderChooser } from '../kit/FolderChooser';
import { Row } from '../kit/layout';
import { useServerState } from '../kit/work';

export function OtherRoot({
  label,
  value,
  onChange,
  without,
  purpose,
}: {
  label: string;
  value: string;
  onChange: (root: string) => void;
  /** A workspace that is not offered; null: all are. */
  without: string | null;
  /** 'Carry over' */
  purpose: string;
}) {
  const { data: state } = useServerState();
  const [isChoosing, setChoosing] = useState(false);
  const others = (state?.workspaces ?? []).filter((w) => w.root !== without);
  const isKnown = others.some((w) => w.root === value);
  return (
    <Row $wrap style={{ alignItems: 'flex-end' }}>
      <div style={{ flex: '1 1 150px', minWidth: 0 }}>
        <Choose
          label={label}
          value={value}
          onChange={onChange}
          options={[
            ...(value === ''
              ? [['', 'choose a workspace'] as const]
              : isKnown
                ? []
                : [[value, nameOf(value)] as const]),
            ...others.map((w) => [w.root, w.name] as const),
          ]}
        />
      </div>
      <Button aria-label={`${purpose} from any folder`} onPress={() => setChoosing(true)}>
        <FolderSearch size={15} /> Folder…
      </Button>
      {isChoosing && (
        <FolderChooser
          title={`${purpose} from which folder?`}
          pick="folder"
          action="Look into it"
          onClose={() => setChoosing(false)}
          onChoose={([path]) => {
            onChange(path!);
            setChoosing(false);
          }}
        />
      )}
    </Row>
  );
}
