'use client';
// The layouts there are; and the ways in and out of the library.

import { convertLayout, dropLayout, layoutFromFolder } from '@/wire/routes/layouts';
import { useQueryClient } from '@tanstack/react-query';
import { Download, FolderInput, Import, LayoutList, Trash2 } from '../kit/icons';
import { useState } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { readLayoutText } from '@/core/layouts/layout';
import type { LayoutView } from '@/wire/views';
import { call } from '../kit/api';
import { download } from '../kit/download';
import type { Attempt } from '../kit/attempt';
import { Button, LineButton, PlainButton } from '../kit/buttons';
import { FolderChooser } from '../kit/FolderChooser';
import { Sheet, Soft, Stack } from '../kit/layout';
import { useJob } from '../kit/work';
import type { LayoutEditor } from './editor';

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
`;

/** The text of a layout in a file: plain, or as JSON; named after the file where it has no name. */
async function textOfFile(file: File): Promise<string> {
  const content = await file.text();
  const isJson = file.name.endsWith('.json') || content.trimStart().startsWith('{');
  const text = isJson ? (await call(convertLayout, {}, { json: content })).text : content;
  return readLayoutText(text).name === '' ? `:name ${file.name.replace(/\.[^.]*$/, '')}\n${text}` : text;
}

export function Library({
  layouts,
  layout,
  editor: e,
  attempt,
  choose,
}: {
  layouts: LayoutView[];
  layout: LayoutView;
  editor: LayoutEditor;
  attempt: Attempt['attempt'];
  choose: (id: string) => void;
}) {
  return (
    <Sheet>
      <Stack>
        <h2>Library</h2>
        <List aria-label="Layouts">
          {layouts.map((l) => (
            <li key={l.id}>
              <LineButton aria-current={l.id === layout.id} onPress={() => choose(l.id)}>
                <LayoutList size={14} aria-hidden /> {l.name}
                <br />
                <Soft style={{ fontSize: 13, fontWeight: 400 }}>
                  {l.own ? 'my own' : 'ships with Loyal Satchel'}
                </Soft>
              </LineButton>
            </li>
          ))}
        </List>
        <InAndOut layout={layout} editor={e} attempt={attempt} choose={choose} />
      </Stack>
    </Sheet>
  );
}

function InAndOut({
  layout,
  editor: e,
  attempt,
  choose,
}: {
  layout: LayoutView;
  editor: LayoutEditor;
  attempt: Attempt['attempt'];
  choose: (id: string) => void;
}) {
  const [isChoosing, setChoosing] = useState(false);
  const client = useQueryClient();
  const run = useJob();
  const cannot = e.problems.length > 0;
  const fileName = (e.name || 'layout').replace(/[^\w -]+/g, '_');
  const exportJson = async () => {
    const { json } = await call(convertLayout, {}, { text: e.text });
    download(`${fileName}.json`, 'application/json', json);
  };
  const drop = async () => {
    await call(dropLayout, {}, { id: layout.id });
    await client.invalidateQueries();
    choose('');
  };
  return (
    <Stack $gap={2}>
      <FileTrigger
        acceptedFileTypes={['.txt', '.json', 'text/plain', 'application/json']}
        onSelect={(files) => {
          const [file] = files ?? [];
          if (file) void attempt(async () => e.write(await textOfFile(file)));
        }}
      >
        <Button>
          <Import size={15} /> Import…
        </Button>
      </FileTrigger>
      <Button onPress={() => setChoosing(true)}>
        <FolderInput size={15} /> From a folder…
      </Button>
      <Button isDisabled={cannot} onPress={() => download(`${fileName}.txt`, 'text/plain', e.text)}>
        <Download size={15} /> Export as text
      </Button>
      <Button isDisabled={cannot} onPress={() => void attempt(exportJson)}>
        <Download size={15} /> Export as JSON
      </Button>
      {layout.own && (
        <PlainButton onPress={() => void attempt(drop)}>
          <Trash2 size={15} /> Take it out of the library
        </PlainButton>
      )}
      {isChoosing && (
        <FolderChooser
          title="Make a layout of which folder?"
          pick="folder"
          action="Look through it"
          onClose={() => setChoosing(false)}
          onChoose={([path]) => {
            setChoosing(false);
            void attempt(async () => e.write((await run(layoutFromFolder, {}, { path: path! })).text));
          }}
        />
      )}
    </Stack>
  );
}
