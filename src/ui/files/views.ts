// The views of the files.

import { CopyMinus, FolderInput, FolderTree, Inbox, LayoutGrid, Unplug } from '../kit/icons';
import type { View } from '../kit/tabs';

export type FilesView = 'folder' | 'intake' | 'loose' | 'unused' | 'twice' | 'room';
export const views: readonly View<FilesView>[] = [
  { id: 'folder', name: 'By folder', icon: FolderTree },
  { id: 'intake', name: 'Intake', icon: Inbox },
  { id: 'loose', name: 'Lying about', icon: FolderInput },
  { id: 'unused', name: 'Used by nothing', icon: Unplug },
  { id: 'twice', name: 'There twice', icon: CopyMinus },
  { id: 'room', name: 'Room', icon: LayoutGrid },
];
/** Those that hold a grid, which scrolls by itself. */
export const filling: ReadonlySet<FilesView> = new Set(['folder', 'intake', 'loose', 'unused']);
