'use client';
// The new folder: where it is made, what it is, and the rule by which things lie in it.

import { listFolder } from '@/wire/routes/state';
import { listLayouts } from '@/wire/routes/layouts';
import { useQuery } from '@tanstack/react-query';
import { CheckCircle2, CircleX, FolderInput } from '../kit/icons';
import { useState } from 'react';
import styled from 'styled-components';
import type { Rule } from '@/core/collect/placement';
import { byKind } from '@/core/collect/rules';
import { readLayout } from '@/core/layouts/layout';
import type { Homes } from '@/core/layouts/homes';
import { checkNewName } from '@/core/names/portable';
import { call } from '../kit/api';
import { Chip, IconButton } from '../kit/buttons';
import { Choose, TextField } from '../kit/fields';
import { FolderChooser } from '../kit/FolderChooser';
import { Mono, Row, Soft, Stack } from '../kit/layout';
import { layoutOptions } from '../kit/places';
import { useRested } from '../kit/rested';
import { color } from '../theme/theme';
import type { Choices } from './CollectPage';

const kinds = [
  ['files', 'a folder of files'],
  ['workspace', 'a workspace of its own'],
  ['report', 'the report alone'],
] as const;

const most = 8;

export function Target({ choices: c, homes }: { choices: Choices; homes: Homes }) {
  const [isChoosing, setChoosing] = useState(false);
  const { data: layouts } = useQuery({ queryKey: ['layouts'], queryFn: () => call(listLayouts, {}) });
  const own = JSON.stringify(byKind(homes));
  const isOwn = JSON.stringify(c.rule) === own;
  const fromLayout = layouts?.find((l) => JSON.stringify(ruleOf(l.text)) === JSON.stringify(c.rule));
  const shape = c.rule.by === 'kind' ? (isOwn ? 'kind' : 'layout') : c.rule.by;
  return (
    <Stack $gap={2}>
      <Row $wrap>
        <h2 style={{ flex: 1, whiteSpace: 'nowrap' }}>Where it will lie</h2>
        <Chip isSelected={shape === 'kind'} onChange={() => c.setRule(byKind(homes))}>
          by kind
        </Chip>
        <Chip isSelected={shape === 'mirror'} onChange={() => c.setRule({ by: 'mirror' })}>
          as it lies
        </Chip>
        <Chip isSelected={shape === 'tail'} onChange={() => c.setRule({ by: 'tail', folders: 2 })}>
          last folders
        </Chip>
        <Chip
          isSelected={shape === 'layout'}
          isDisabled={!layouts?.length}
          onChange={() => layouts?.[0] && c.setRule(ruleOf(layouts[0].text))}
        >
          by layout
        </Chip>
      </Row>
      {c.rule.by === 'tail' && (
        <Choose
          label="How many folders of each path are kept"
          value={String(c.rule.folders)}
          onChange={(n) => c.setRule({ by: 'tail', folders: Number(n) })}
          options={Array.from({ length: most + 1 }, (_, n) => [
            String(n),
            n === 0 ? 'none: all in one folder' : n === 1 ? 'the last folder' : `the last ${n} folders`,
          ])}
        />
      )}
      {shape === 'layout' && layouts && (
        <Choose
          label="Layout"
          value={fromLayout?.id ?? ''}
          onChange={(id) => c.setRule(ruleOf(layouts.find((l) => l.id === id)!.text))}
          options={[...(fromLayout ? [] : [['', 'homes of a preset'] as const]), ...layoutOptions(layouts)]}
        />
      )}
      <Row style={{ alignItems: 'flex-end' }} $wrap>
        <div style={{ flex: '2 1 220px', minWidth: 0 }}>
          <TextField
            label="New folder"
            mono
            value={c.name}
            onChange={c.setName}
            error={c.name === '' ? 'A name is missing.' : checkNewName(c.name)[0]?.message}
          />
        </div>
        <div style={{ flex: '1 1 170px' }}>
          <Choose label="As" value={c.as} onChange={c.setAs} options={kinds} />
        </div>
      </Row>
      <Row>
        <Soft>in</Soft>
        <Mono style={{ flex: '0 1 auto', minWidth: 0 }}>{c.folder}</Mono>
        <IconButton aria-label="Choose where the new folder is made" onPress={() => setChoosing(true)}>
          <FolderInput size={16} />
        </IconButton>
        <IsEmpty folder={c.folder} name={c.name} />
      </Row>
      {isChoosing && (
        <FolderChooser
          title="In which folder shall the new one be made?"
          pick="folder"
          start={c.folder}
          action="Make it in here"
          onClose={() => setChoosing(false)}
          onChoose={([path]) => {
            c.setFolder(path!);
            setChoosing(false);
          }}
        />
      )}
    </Stack>
  );
}

const ruleOf = (text: string): Rule => byKind(readLayout(text, '', '').homes);

/** Whether the folder can be filled, as it is typed. */
function IsEmpty({ folder, name }: { folder: string; name: string }) {
  const path = useRested(`${folder === '/' ? '' : folder}/${name}`);
  const { data } = useQuery({
    queryKey: ['is empty', folder, path],
    retry: false,
    queryFn: async () => {
      const above = await call(listFolder, {}, { path: folder, files: 'yes' });
      const there = above.entries.find((e) => e.path === path);
      if (!there) return 'is made';
      if (there.kind === 'file') return 'is a file';
      const [first] = (await call(listFolder, {}, { path, files: 'yes' })).entries;
      return first ? `not empty: ${first.name} lies there` : 'empty';
    },
  });
  if (data === undefined) return null;
  const canBe = data === 'is made' || data === 'empty';
  return canBe ? (
    <Soft>
      <CheckCircle2 size={14} aria-hidden /> {data}
    </Soft>
  ) : (
    <Wrong role="alert">
      <CircleX size={14} aria-hidden /> {data}
    </Wrong>
  );
}

const Wrong = styled.strong`
  color: ${color.brick};
  font-size: 13.5px;
`;
