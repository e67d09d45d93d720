'use client';
// The folders of a layout as a tree: arrows move in it, Alt + arrows move the folder itself, Insert adds one, Delete takes one out;
// dragging does the same, by mouse or (Enter on the handle) by keyboard.

import { ArrowDownToLine, ArrowUpToLine, ChevronRight, Folder, GripVertical } from '../kit/icons';
import {
  Button as AriaButton,
  Tree,
  TreeItem,
  TreeItemContent,
  useDragAndDrop,
  type Key,
} from 'react-aria-components';
import styled from 'styled-components';
import { folderAt, moveFolder, type FolderPlace } from '@/core/layouts/editing';
import { flowOf, nameOnDisk, type LayoutFolder, type LayoutTree as Model } from '@/core/layouts/layout';
import { Soft } from '../kit/layout';
import { TreeLook } from '../kit/tree';
import { color, font, space } from '../theme/theme';

const Frame = styled(TreeLook)`
  [role='treegrid'] {
    min-height: 200px;
  }
  [role='row'] {
    padding: 0 ${space(2)} 0 calc(${space(1)} + (var(--tree-item-level) - 1) * 20px);
  }
  [role='row'][data-selected] {
    background: ${color.greenTint};
  }
  .line {
    min-height: 32px;
  }
  .name {
    font-family: ${font.mono};
    font-size: 13.5px;
  }
  .said {
    margin-left: auto;
    font-size: 13px;
    text-align: right;
  }
`;

export interface TreeProps {
  tree: Model;
  chosen: FolderPlace | null;
  onChoose: (place: FolderPlace | null) => void;
  /** A new tree, and the folder to choose in it. */
  onChange: (tree: Model, chosen: LayoutFolder | null) => void;
  onAdd: () => void;
  onRemove: () => void;
}

/** Every place of a tree, for opening all. */
export function placesOf(folders: readonly LayoutFolder[], place = ''): string[] {
  return folders.flatMap((f, i) => {
    const own = place === '' ? String(i) : `${place}.${i}`;
    return [own, ...placesOf(f.folders, own)];
  });
}

/** Parent and number of a place. */
export function partsOf(place: FolderPlace): [parent: FolderPlace, at: number] {
  const cut = place.lastIndexOf('.');
  return [cut < 0 ? '' : place.slice(0, cut), Number(place.slice(cut + 1))];
}

/** The tree after Alt + an arrow key on a folder; null where there is no way. */
export function nudge(tree: Model, place: FolderPlace, key: string): Model | null {
  const [parent, at] = partsOf(place);
  if (key === 'ArrowUp') return at > 0 ? moveFolder(tree, place, parent, at - 1) : null;
  const siblings = parent === '' ? tree.folders : (folderAt(tree, parent)?.folders ?? []);
  if (key === 'ArrowDown') return at < siblings.length - 1 ? moveFolder(tree, place, parent, at + 2) : null;
  if (key === 'ArrowRight' && at > 0) {
    const into = parent === '' ? String(at - 1) : `${parent}.${at - 1}`;
    return moveFolder(tree, place, into, folderAt(tree, into)!.folders.length);
  }
  if (key === 'ArrowLeft' && parent !== '') {
    const [above, n] = partsOf(parent);
    return moveFolder(tree, place, above, n + 1);
  }
  return null;
}

export function LayoutTree({ tree, chosen, onChoose, onChange, onAdd, onRemove }: TreeProps) {
  const { dragAndDropHooks } = useDragAndDrop({
    getItems: (keys) => [...keys].map((k) => ({ 'text/plain': folderAt(tree, String(k))?.name ?? '' })),
    onMove(e) {
      const [from] = [...e.keys].map(String);
      if (from === undefined) return;
      const target = String(e.target.key);
      const [parent, at] = partsOf(target);
      const moved =
        e.target.dropPosition === 'on'
          ? moveFolder(tree, from, target, folderAt(tree, target)?.folders.length ?? 0)
          : moveFolder(tree, from, parent, e.target.dropPosition === 'before' ? at : at + 1);
      if (moved) onChange(moved, folderAt(tree, from));
    },
  });
  const item = (folder: LayoutFolder, place: FolderPlace) => (
    <TreeItem key={place} id={place} textValue={folder.name}>
      <TreeItemContent>
        {({ hasChildItems }) => (
          <div className="line">
            <AriaButton slot="drag" aria-label={`Drag ${folder.name}`}>
              <GripVertical size={14} />
            </AriaButton>
            {hasChildItems ? (
              <AriaButton slot="chevron" aria-label={`Open or close ${folder.name}`}>
                <ChevronRight size={15} />
              </AriaButton>
            ) : (
              <span style={{ width: 18 }} />
            )}
            <Folder size={15} aria-hidden />
            <span className="name">{nameOnDisk(tree, folder)}/</span>
            {folder.pin === 'top' && <ArrowUpToLine size={14} aria-label="pinned to the top" />}
            {folder.pin === 'bottom' && <ArrowDownToLine size={14} aria-label="pinned to the bottom" />}
            <span className="said">
              <Soft>
                {[
                  folder.kinds.join(', '),
                  flowOf(folder) === 'output' ? 'output' : '',
                  folder.keep ? 'kept' : '',
                ]
                  .filter(Boolean)
                  .join(' · ')}
              </Soft>
            </span>
          </div>
        )}
      </TreeItemContent>
      {folder.folders.map((f, i) => item(f, `${place}.${i}`))}
    </TreeItem>
  );
  return (
    <Frame
      onKeyDownCapture={(e) => {
        if (chosen === null) return;
        if (e.altKey && e.key.startsWith('Arrow')) {
          const moved = nudge(tree, chosen, e.key);
          e.preventDefault();
          e.stopPropagation();
          if (moved) onChange(moved, folderAt(tree, chosen));
        } else if (e.key === 'Delete') onRemove();
        else if (e.key === 'Insert') onAdd();
      }}
    >
      <Tree
        aria-label="Folders of the layout"
        selectionMode="single"
        selectionBehavior="replace"
        selectedKeys={chosen === null ? [] : [chosen]}
        defaultExpandedKeys={placesOf(tree.folders)}
        dragAndDropHooks={dragAndDropHooks}
        onSelectionChange={(keys) => {
          const [one] = keys === 'all' ? [] : ([...keys] as Key[]);
          onChoose(one === undefined ? null : String(one));
        }}
        renderEmptyState={() => <Soft>No folder yet. Add the first.</Soft>}
      >
        {tree.folders.map((f, i) => item(f, String(i)))}
      </Tree>
    </Frame>
  );
}
