'use client';
// Presets: how a folder is laid out and which folders never come along; kept under a name, shared as files.

import { dropPreset, keepPreset, listPresets } from '@/wire/routes/collect';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Download, FolderX, Import, Save, Trash2 } from '../kit/icons';
import { useState } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import type { Rule } from '@/core/collect/placement';
import { collectPreset, readPreset, type CollectPreset } from '@/wire/collect';
import { call } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, IconButton, LineButton, MainButton, PlainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { download } from '../kit/download';
import { TextField } from '../kit/fields';
import { EnterForm } from '../kit/form';
import { FolderChooser } from '../kit/FolderChooser';
import { Grow, Mono, Row, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { useTyped } from '../kit/kept';

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  li {
    display: flex;
    align-items: center;
    gap: 4px;
    min-width: 0;
  }
`;

const layoutWords = (rule: Rule | undefined) =>
  rule === undefined
    ? 'any layout'
    : rule.by === 'kind'
      ? 'by kind'
      : rule.by === 'tail'
        ? `the last ${rule.folders} folders kept`
        : 'as it lies';

export function Presets({
  rule,
  excluded,
  onUse,
  onExclude,
  onClose,
}: {
  rule: Rule;
  excluded: readonly string[];
  /** Takes a preset's layout, where it has one, and its folders. */
  onUse: (rule: Rule | null, excluded: string[]) => void;
  onExclude: (folders: string[]) => void;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const { attempt, problem } = useAttempt();
  const [name, setName] = useTyped('preset', '');
  const [isChoosing, setChoosing] = useState(false);
  const { data } = useQuery({ queryKey: ['presets'], queryFn: () => call(listPresets, {}) });
  const now = { format: 1 as const, layout: rule as CollectPreset['layout'], exclude: [...excluded] };
  const anew = () => client.invalidateQueries({ queryKey: ['presets'] });
  const keep = () =>
    void attempt(async () => {
      if (name.trim() === '') return;
      await call(keepPreset, {}, { ...now, name: name.trim() });
      setName('');
      await anew();
    });
  const share = (preset: CollectPreset) =>
    download(
      `${(preset.name ?? 'preset').replace(/[^\p{L}\p{N} _-]+/gu, '_')}.json`,
      'application/json',
      `${JSON.stringify(preset, null, 2)}\n`,
    );
  const take = (file: File) =>
    void attempt(async () => {
      const read = readPreset(await file.text(), file.name);
      onUse(read.rule, read.exclude);
      const preset = { ...now, layout: read.rule ?? undefined, exclude: read.exclude };
      await call(
        keepPreset,
        {},
        { ...collectPreset.parse(preset), name: read.name ?? file.name.replace(/\.json$/i, '') },
      );
      await anew();
    });
  return (
    <Dialog title="Presets" width={680} onClose={onClose}>
      <ErrorNotice error={problem} />
      <Stack $gap={2}>
        <Row>
          <Grow>
            <h3>Folders of which nothing comes along</h3>
            <Soft>Installed software, shared libraries: what is there wherever the folder is opened.</Soft>
          </Grow>
          <Button onPress={() => setChoosing(true)}>
            <FolderX size={15} /> Exclude a folder…
          </Button>
        </Row>
        <List aria-label="Excluded folders">
          {excluded.map((folder) => (
            <li key={folder}>
              <Grow>
                <Mono>{folder}</Mono>
              </Grow>
              <PlainButton
                aria-label={`Take ${folder} along again`}
                onPress={() => onExclude(excluded.filter((f) => f !== folder))}
              >
                Take along again
              </PlainButton>
            </li>
          ))}
          {excluded.length === 0 && <Soft>None: everything that is needed comes along.</Soft>}
        </List>
      </Stack>
      <Stack $gap={2}>
        <h3>Kept presets</h3>
        <List aria-label="Kept presets">
          {(data ?? []).map(({ id, preset }) => (
            <li key={id}>
              <Grow>
                <LineButton
                  onPress={() => onUse((preset.layout as Rule | undefined) ?? null, preset.exclude ?? [])}
                >
                  <strong>{preset.name ?? id}</strong>{' '}
                  <Soft>
                    {layoutWords(preset.layout as Rule | undefined)}
                    {preset.exclude?.length ? `, without ${preset.exclude.length} folders` : ''}
                  </Soft>
                </LineButton>
              </Grow>
              <IconButton aria-label={`Save ${preset.name ?? id} as a file`} onPress={() => share(preset)}>
                <Download size={15} />
              </IconButton>
              <IconButton
                aria-label={`Take ${preset.name ?? id} out`}
                onPress={() =>
                  void attempt(async () => {
                    await call(dropPreset, {}, { id });
                    await anew();
                  })
                }
              >
                <Trash2 size={15} />
              </IconButton>
            </li>
          ))}
          {data?.length === 0 && <Soft>None yet. Keep the layout and the folders above under a name.</Soft>}
        </List>
        <EnterForm onEnter={keep}>
          <Row style={{ alignItems: 'flex-end' }}>
            <TextField label="Keep what is chosen now as" value={name} onChange={setName} />
            <Button isDisabled={name.trim() === ''} onPress={keep}>
              <Save size={15} /> Keep
            </Button>
          </Row>
        </EnterForm>
      </Stack>
      <Row>
        <Grow>
          <FileTrigger
            acceptedFileTypes={['.json', 'application/json']}
            onSelect={(files) => {
              const [file] = files ?? [];
              if (file) take(file);
            }}
          >
            <Button>
              <Import size={15} /> From a file…
            </Button>
          </FileTrigger>
        </Grow>
        <MainButton onPress={onClose}>Done</MainButton>
      </Row>
      {isChoosing && (
        <FolderChooser
          title="Nothing of which folder comes along?"
          pick="folder"
          action="Exclude this folder"
          onClose={() => setChoosing(false)}
          onChoose={([path]) => {
            setChoosing(false);
            if (!excluded.includes(path!)) onExclude([...excluded, path!]);
          }}
        />
      )}
    </Dialog>
  );
}
