'use client';
// Browses the server's disk inside the allowed folders: by typing a path, by arrow keys and Enter, by clicking.

import { listFolder } from '@/wire/routes/state';
import { useQuery } from '@tanstack/react-query';
import { CornerLeftUp, File, Folder, FolderCheck } from './icons';
import { useState } from 'react';
import { ListBox, ListBoxItem, Text } from 'react-aria-components';
import styled from 'styled-components';
import { Button, MainButton } from './buttons';
import { Dialog } from './dialog';
import { EnterForm } from './form';
import { TextField } from './fields';
import { Grow, Mono, Row, Soft } from './layout';
import { Empty, ErrorNotice } from './notices';
import { color, font, radius, space } from '../theme/theme';
import { call, shapeOf } from './api';
import { bytes } from '@/core/text/figures';
import { useServerState } from './work';

/** The look of a list of folders. */
export const FolderList = styled.div`
  [role='listbox'] {
    border: 1px solid ${color.line};
    border-radius: ${radius.small};
    height: 320px;
    overflow: auto;
    padding: ${space(1)};
    outline-offset: -2px;
  }
  [role='option'] {
    display: flex;
    align-items: center;
    gap: ${space(2)};
    padding: 6px ${space(2)};
    border-radius: ${radius.small};
    cursor: pointer;
    font-family: ${font.mono};
    font-size: 13.5px;
    outline-offset: -2px;
  }
  [data-focused] {
    background: ${color.raised};
  }
  [data-selected] {
    background: ${color.greenTint};
  }
  .size {
    margin-left: auto;
    color: ${color.soft};
    font-variant-numeric: tabular-nums;
  }
`;

export interface ChooserProps {
  title: string;
  /** What is chosen: a folder, or one or many files. */
  pick: 'folder' | 'files' | 'bag';
  /** What the button says where the folder lies inside a workspace, whose root is then what is meant. */
  insideAction?: string;
  start?: string | undefined;
  action: string;
  onChoose: (paths: string[]) => void;
  onClose: () => void;
}

export function FolderChooser({ title, pick, start, action, insideAction, onChoose, onClose }: ChooserProps) {
  const { data: state } = useServerState();
  // Where somebody went; before that, where it starts, which may be known a moment later.
  const [path, setPath] = useState<string | null>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const [chosen, setChosen] = useState<string[]>([]);
  const allowed = state?.allowed ?? [];
  const at = path ?? (start || allowed[0]?.path || '');
  const { data, error } = useQuery({
    queryKey: ['folder', at, pick],
    enabled: at !== '',
    queryFn: () => call(listFolder, {}, { path: at, files: pick === 'folder' ? 'no' : 'yes' }),
  });
  const go = (to: string) => {
    setPath(to);
    setTyped(null);
    setChosen([]);
  };
  const result = chosen.length > 0 ? chosen : pick !== 'files' && data ? [data.path] : [];
  const items = [
    ...(data?.parent
      ? [{ name: '..', path: data.parent, kind: 'folder' as const, size: null, isWorkspace: false }]
      : []),
    ...(data?.entries ?? []),
  ];
  return (
    <Dialog title={title} width={680} onClose={onClose}>
      {allowed.length === 0 && (
        <Empty>No folder is allowed yet. Close this and add one under Workspaces, Allowed folders.</Empty>
      )}
      {allowed.length > 0 && (
        <>
          <Row $wrap>
            {allowed.map((p) => (
              <Button key={p.path} onPress={() => go(p.path)}>
                {p.path.split('/').pop() || '/'}
              </Button>
            ))}
          </Row>
          <EnterForm onEnter={() => typed !== null && go(typed)}>
            <TextField
              label="Path"
              mono
              value={typed ?? data?.path ?? at}
              onChange={setTyped}
              description="Type a path and press Enter, or choose below."
            />
          </EnterForm>
          {error && <ErrorNotice error={shapeOf(error)} />}
          <FolderList>
            <ListBox
              aria-label="Folder content"
              items={items}
              selectionMode={pick === 'files' ? 'multiple' : 'single'}
              selectionBehavior="replace"
              selectedKeys={chosen}
              onSelectionChange={(keys) =>
                setChosen(
                  (keys === 'all' ? items : items.filter((i) => keys.has(i.path)))
                    .filter((i) => i.name !== '..' && (pick === 'folder' || i.kind === 'file'))
                    .map((i) => i.path),
                )
              }
              onAction={(key) => {
                const item = items.find((i) => i.path === key);
                if (item?.kind === 'folder') go(item.path);
                else if (item) onChoose([item.path]);
              }}
              renderEmptyState={() => <Soft>Nothing in here.</Soft>}
            >
              {(item) => (
                <ListBoxItem id={item.path} textValue={item.name}>
                  {item.name === '..' ? (
                    <CornerLeftUp size={15} aria-hidden />
                  ) : item.isWorkspace ? (
                    <FolderCheck size={15} aria-hidden />
                  ) : item.kind === 'folder' ? (
                    <Folder size={15} aria-hidden />
                  ) : (
                    <File size={15} aria-hidden />
                  )}
                  <Text slot="label">{item.name === '..' ? '.. (one folder up)' : item.name}</Text>
                  <span className="size">
                    {item.isWorkspace ? 'workspace' : item.kind === 'file' ? bytes(item.size) : ''}
                  </span>
                </ListBoxItem>
              )}
            </ListBox>
          </FolderList>
          <Row>
            <Grow>
              <Soft>
                {data?.root && data.root !== data.path ? (
                  <>
                    Inside the workspace <Mono>{data.root}</Mono>, from its root:{' '}
                    <Mono>{data.path.slice(data.root.length + 1)}</Mono>
                  </>
                ) : data?.root ? (
                  'This is the root of a workspace.'
                ) : pick === 'files' ? (
                  'Ctrl or Shift chooses several. Enter opens a folder.'
                ) : (
                  'Enter or a double click opens a folder.'
                )}
              </Soft>
            </Grow>
            <Button onPress={onClose}>Cancel</Button>
            <MainButton isDisabled={result.length === 0} onPress={() => onChoose(result)}>
              {insideAction && data?.root && data.root !== data.path && chosen.length === 0
                ? insideAction
                : action}
            </MainButton>
          </Row>
        </>
      )}
    </Dialog>
  );
}
