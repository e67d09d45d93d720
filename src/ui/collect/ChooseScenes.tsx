'use client';
// Which scenes are collected: all, ticked ones, or those that a list in a text file names.

import { Import } from '../kit/icons';
import { useState } from 'react';
import type { CollectNeeds, CollectScope } from '@/wire/collect';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { readSceneList } from '@/core/collect/rules';
import { insideOf, joinInside } from '@/core/files/treePath';
import { count, figure } from '@/core/text/figures';
import { Button, MainButton, PlainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { TextField, Tick } from '../kit/fields';
import { Grow, Row, Soft, Stack } from '../kit/layout';
import { Notice } from '../kit/notices';
import { Path } from '../kit/Path';
import { color, radius, space } from '../theme/theme';

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: ${space(2)};
  border: 1px solid ${color.line};
  border-radius: ${radius.small};
  max-height: 46vh;
  overflow: auto;
`;
const most = 500;

export function ChooseScenes({
  scenes,
  root,
  chosen,
  onChoose,
  onClose,
}: {
  scenes: CollectNeeds['scenes'];
  root: string;
  chosen: CollectScope;
  onChoose: (scenes: CollectScope) => void;
  onClose: () => void;
}) {
  const all = scenes.map((s) => s.path);
  const latest = scenes.filter((s) => s.isLatest).map((s) => s.path);
  const [ticked, setTicked] = useState(
    () => new Set(Array.isArray(chosen) ? chosen : chosen === 'all' ? all : latest),
  );
  const [search, setSearch] = useState('');
  const [unknown, setUnknown] = useState<string[]>([]);
  const shown = all.filter((s) => s.toLowerCase().includes(search.toLowerCase()));
  const isLatest = ticked.size === latest.length && latest.every((s) => ticked.has(s));
  const isAll = ticked.size === all.length;
  const read = async (file: File) => {
    const lines = readSceneList(await file.text(), '');
    const known = new Set(all);
    const found: string[] = [];
    const strange: string[] = [];
    for (const line of lines) {
      // A list lies beside the work it names: paths that are not whole are measured from the root.
      const clean = line.replaceAll('\\', '/');
      const scene = insideOf(root, clean) ?? joinInside('', clean.replace(/^\/+/, ''));
      if (scene !== null && known.has(scene)) found.push(scene);
      else strange.push(line);
    }
    setTicked(new Set(found));
    setUnknown(strange);
  };
  const set = (scenes: readonly string[], on: boolean) => {
    const next = new Set(ticked);
    for (const s of scenes)
      if (on) next.add(s);
      else next.delete(s);
    setTicked(next);
  };
  return (
    <Dialog title="Which scenes are collected?" width={680} onClose={onClose}>
      <Row style={{ alignItems: 'flex-end' }}>
        <TextField label="Search" value={search} onChange={setSearch} autoFocus />
        <FileTrigger
          acceptedFileTypes={['.txt', '.csv', 'text/plain']}
          onSelect={(files) => {
            const [file] = files ?? [];
            if (file) void read(file);
          }}
        >
          <Button>
            <Import size={15} /> From a list…
          </Button>
        </FileTrigger>
      </Row>
      {unknown.length > 0 && (
        <Notice
          tone="amber"
          title={`${count(unknown.length, 'line')} of the list ${unknown.length === 1 ? 'names' : 'name'} no scene here.`}
        >
          {unknown.slice(0, 5).join(', ')}
          {unknown.length > 5 && ` and ${unknown.length - 5} more`}
        </Notice>
      )}
      <Row $gap={4}>
        <Tick
          checked={shown.length > 0 && shown.every((s) => ticked.has(s))}
          onChange={(on) => set(shown, on)}
        >
          {search === '' ? 'All of them' : `All ${figure(shown.length)} that are found`}
        </Tick>
        {latest.length < all.length && (
          <PlainButton isDisabled={isLatest} onPress={() => setTicked(new Set(latest))}>
            The latest version of each
          </PlainButton>
        )}
      </Row>
      <List aria-label="Scenes">
        {shown.slice(0, most).map((s) => (
          <li key={s}>
            <Tick label={s} checked={ticked.has(s)} onChange={(on) => set([s], on)}>
              <Path path={s} />
            </Tick>
          </li>
        ))}
        {shown.length > most && (
          <li>
            <Soft>and {shown.length - most} more: search for them, or take a list</Soft>
          </li>
        )}
      </List>
      <Row>
        <Grow>
          <Stack $gap={1}>
            <Soft>
              {count(ticked.size, 'scene')} of {figure(all.length)}. A list is a text file: a path a line,
              from the root.
            </Soft>
          </Stack>
        </Grow>
        <Button onPress={onClose}>Cancel</Button>
        <MainButton
          isDisabled={ticked.size === 0}
          onPress={() => onChoose(isLatest ? 'latest' : isAll ? 'all' : all.filter((s) => ticked.has(s)))}
        >
          Take {count(ticked.size, 'scene')}
        </MainButton>
      </Row>
    </Dialog>
  );
}
