'use client';
// Layouts: choose, change, keep. The tree and its text say the same, and follow each other as either is changed.

import { keepLayout, listLayouts } from '@/wire/routes/layouts';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { FolderTree, Save } from '../kit/icons';
import { useState } from 'react';
import styled from 'styled-components';
import { count } from '@/core/text/figures';
import type { LayoutView } from '@/wire/views';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Button, MainButton } from '../kit/buttons';
import { Sheet, Stack } from '../kit/layout';
import { useUnsaved } from '../kit/leaving';
import { ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { useAddress } from '../kit/work';
import { space } from '../theme/theme';
import { ChosenFolder } from './ChosenFolder';
import { useLayoutEditor } from './editor';
import { Give } from './Give';
import { LayoutText } from './LayoutText';
import { placesOf } from './LayoutTree';
import { Library } from './Library';
import { TreeSheet } from './TreeSheet';

const Columns = styled.div`
  display: grid;
  grid-template-columns: 220px minmax(0, 1.15fr) minmax(0, 1fr);
  gap: ${space(4)};
  align-items: start;
  @media (max-width: 1120px) {
    grid-template-columns: 190px minmax(0, 1fr);
    > :last-child {
      grid-column: 2;
    }
  }
`;
export function LayoutsPage() {
  const { data, error } = useQuery({
    queryKey: ['layouts'],
    queryFn: () => call(listLayouts, {}),
  });
  const [address, change] = useAddress();
  if (error)
    return (
      <Page title="Layouts">
        <ErrorNotice error={shapeOf(error)} />
      </Page>
    );
  if (!data) return <Page title="Layouts" answer="Reading …" />;
  const layout = data.find((l) => l.id === address.get('layout')) ?? data[0]!;
  return <Editor key={layout.id} layouts={data} layout={layout} choose={(id) => change({ layout: id })} />;
}

function Editor({
  layouts,
  layout,
  choose,
}: {
  layouts: LayoutView[];
  layout: LayoutView;
  choose: (id: string) => void;
}) {
  const e = useLayoutEditor(layout);
  const { attempt, problem } = useAttempt();
  const [isGiving, setGiving] = useState(false);
  const client = useQueryClient();
  useUnsaved(e.isChanged, `“${e.name || layout.name}” was changed and is not saved.`, e.takeBack);
  const cannot = e.problems.length > 0;
  const keep = () =>
    attempt(async () => {
      const { id } = await call(keepLayout, {}, { text: e.text, replaces: layout.own ? layout.id : null });
      // The library first, then the rest: else the page would change under whoever goes on at once.
      await client.invalidateQueries({ queryKey: ['layouts'] });
      e.takeBack();
      choose(id);
      void client.invalidateQueries();
    });
  return (
    <Page
      title="Layouts"
      answer={
        cannot ? (
          <>
            The text has {count(e.problems.length, 'line')} that cannot be read; the tree shows what could be.
          </>
        ) : (
          <>
            <strong>{e.name || 'This layout'}</strong> makes{' '}
            {count(placesOf(e.tree.folders).length, 'folder')}. {e.about}
          </>
        )
      }
      actions={
        <>
          {e.isChanged && <Button onPress={e.takeBack}>As it was</Button>}
          <Button onPress={() => setGiving(true)} isDisabled={cannot}>
            <FolderTree size={16} /> Give it to a workspace…
          </Button>
          <MainButton isDisabled={!e.isChanged || cannot || e.name.trim() === ''} onPress={() => void keep()}>
            <Save size={16} /> {layout.own ? 'Save' : 'Save as my own'}
          </MainButton>
        </>
      }
    >
      <ErrorNotice error={problem} />
      {isGiving && <Give text={e.text} onClose={() => setGiving(false)} />}
      <Columns>
        <Library layouts={layouts} layout={layout} editor={e} attempt={attempt} choose={choose} />
        <TreeSheet editor={e} />
        <Stack $gap={4}>
          <ChosenFolder editor={e} />
          <Sheet>
            <Stack $gap={2}>
              <h2>The same as text</h2>
              <LayoutText label="Layout as text" value={e.text} onChange={e.write} />
            </Stack>
          </Sheet>
        </Stack>
      </Columns>
    </Page>
  );
}
