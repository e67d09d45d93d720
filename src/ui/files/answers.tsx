'use client';
// What each view of the files says first.

import { bytes, count } from '@/core/text/figures';
import type { FileView, UnusedView as Unused } from '@/wire/views';
import type { FilesView } from './views';

const said: Partial<Record<FilesView, string>> = {
  intake: 'Packs wait here until they are filed: take what you need, with its parts, and clear the rest.',
  twice:
    'The same content under several names. Merged, each takes its room once, and a change to it is seen everywhere.',
  room: 'What takes how much room on the drive.',
  loose:
    'Files that lie outside the home of their kind. Filing them changes the paths of every scene that uses them.',
};

function ofUnused(total: Unused['total'] | undefined) {
  if (!total?.files) return 'Every texture, cache and material here is used by a scene.';
  return (
    <>
      <strong>
        {count(total.files, 'file')}, {bytes(total.bytes)}, used by no scene.
      </strong>{' '}
      Textures, caches, materials, sounds and fonts that nothing leads to; outputs and hidden files are not
      counted.
    </>
  );
}

function ofFolder(folder: string, files: readonly FileView[] | undefined) {
  if (folder === '' || !files)
    return 'Each kind of file has its home. Bring a file in before it is used: what it needs comes along.';
  const own = files.filter((f) => f.kind === 'file');
  return `${count(own.length, 'file')}, ${bytes(own.reduce((s, f) => s + (f.size ?? 0), 0))} in this folder.`;
}

/** `total`: of what nothing uses; `files`: of the folder, once they are here. */
export function answerOf(
  view: FilesView,
  of: {
    total: Unused['total'] | undefined;
    folder: string;
    files: readonly FileView[] | undefined;
  },
) {
  return said[view] ?? (view === 'unused' ? ofUnused(of.total) : ofFolder(of.folder, of.files));
}
