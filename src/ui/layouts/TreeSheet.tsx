'use client';
// The name of a layout and its folders as a tree.

import { FolderPlus, Trash2 } from '../kit/icons';
import { Button } from '../kit/buttons';
import { DraftField } from '../kit/fields';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { type LayoutEditor } from './editor';
import { LayoutTree } from './LayoutTree';

export function TreeSheet({ editor: e }: { editor: LayoutEditor }) {
  return (
    <Sheet>
      <Stack>
        <Row style={{ alignItems: 'flex-end' }}>
          <DraftField label="Name" value={e.name} onChange={(name) => e.put({ name })} />
          <DraftField label="About" value={e.about} onChange={(about) => e.put({ about })} />
        </Row>
        <Row $wrap>
          <Button isDisabled={!e.canEdit} onPress={() => e.add(false)}>
            <FolderPlus size={15} /> Add a folder
          </Button>
          <Button isDisabled={!e.canEdit || e.chosen === null} onPress={() => e.add(true)}>
            Add inside
          </Button>
          <Button isDisabled={!e.canEdit || e.chosen === null} onPress={e.takeOut}>
            <Trash2 size={15} /> Take out
          </Button>
        </Row>
        <LayoutTree
          key={`${e.version} ${e.problems.length > 0}`}
          tree={e.tree}
          chosen={e.chosen}
          onChoose={e.choose}
          onChange={(tree, folder) => e.put({ tree }, folder)}
          onAdd={() => e.canEdit && e.add(false)}
          onRemove={() => e.canEdit && e.takeOut()}
        />
        <Soft style={{ fontSize: 13 }}>
          Drag to move. Alt + arrows move the chosen folder, Insert adds one, Delete takes it out.
        </Soft>
      </Stack>
    </Sheet>
  );
}
