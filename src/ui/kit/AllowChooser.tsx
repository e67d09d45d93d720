'use client';
// Chooses a folder that may be allowed: folders by their names only, from the home and the drives on.

import { listToAllow } from '@/wire/routes/state';
import { useQuery } from '@tanstack/react-query';
import { CornerLeftUp, Folder, FolderCheck } from './icons';
import { useState } from 'react';
import { ListBox, ListBoxItem, Text } from 'react-aria-components';
import { call, shapeOf } from './api';
import { Button, MainButton } from './buttons';
import { Dialog } from './dialog';
import { FolderList } from './FolderChooser';
import { Grow, Mono, Row, Soft } from './layout';
import { ErrorNotice } from './notices';

export function AllowChooser({
  start,
  onChoose,
  onClose,
}: {
  start: string;
  onChoose: (path: string) => void;
  onClose: () => void;
}) {
  const [path, setPath] = useState(start);
  const [chosen, setChosen] = useState<string | null>(null);
  const { data, error } = useQuery({
    queryKey: ['to-allow', path],
    queryFn: () => call(listToAllow, {}, { path }),
    placeholderData: (before) => before,
  });
  const go = (to: string) => {
    setPath(to);
    setChosen(null);
  };
  const items = [
    ...(data?.parent != null ? [{ name: '..', path: data.parent, isAllowed: false }] : []),
    ...(data?.folders ?? []),
  ];
  const result = chosen ?? data?.path;
  return (
    <Dialog title="Allow which folder, and all below it?" width={680} onClose={onClose}>
      <Row $wrap>
        {(data?.starts ?? []).map((p, n) => (
          <Button key={p} onPress={() => go(p)}>
            {n === 0 ? 'Home' : p.split('/').filter(Boolean).pop()}
          </Button>
        ))}
      </Row>
      {data && <Mono>{data.path}</Mono>}
      {error && <ErrorNotice error={shapeOf(error)} />}
      <FolderList>
        <ListBox
          aria-label="Folders"
          items={items}
          selectionMode="single"
          selectionBehavior="replace"
          selectedKeys={chosen === null ? [] : [chosen]}
          onSelectionChange={(keys) => {
            const key = keys === 'all' ? undefined : [...keys][0];
            const item = items.find((i) => i.path === key);
            setChosen(item && item.name !== '..' ? item.path : null);
          }}
          onAction={(key) => go(String(key))}
          renderEmptyState={() => <Soft>No folder in here.</Soft>}
        >
          {(item) => (
            <ListBoxItem id={item.path} textValue={item.name}>
              {item.name === '..' ? (
                <CornerLeftUp size={15} aria-hidden />
              ) : item.isAllowed ? (
                <FolderCheck size={15} aria-hidden />
              ) : (
                <Folder size={15} aria-hidden />
              )}
              <Text slot="label">{item.name === '..' ? '.. (one folder up)' : item.name}</Text>
              <span className="size">{item.isAllowed ? 'allowed' : ''}</span>
            </ListBoxItem>
          )}
        </ListBox>
      </FolderList>
      <Row>
        <Grow>
          <Soft>Enter or a double click opens a folder. Only names are looked at until it is allowed.</Soft>
        </Grow>
        <Button onPress={onClose}>Cancel</Button>
        <MainButton
          isDisabled={result === undefined}
          onPress={() => result !== undefined && onChoose(result)}
        >
          Take {result === undefined ? 'it' : (result.split('/').filter(Boolean).pop() ?? result)}
        </MainButton>
      </Row>
    </Dialog>
  );
}
