// A layout that is being changed: its text is what is kept; the tree is read from it, and a change of the tree is written into it.

import { useState } from 'react';
import { z } from 'zod';
import { changeFolder, folderAt, insertFolder, removeFolder, type FolderPlace } from '@/core/layouts/editing';
import {
  checkFolderName,
  newFolder,
  readLayoutText,
  writeLayout,
  type LayoutFolder,
  type LayoutTree as Model,
} from '@/core/layouts/layout';
import { foldName } from '@/core/names/portable';
import type { LayoutView } from '@/wire/views';
import { useKept } from '../kit/kept';
import { partsOf, placesOf } from './LayoutTree';

/** The place of a folder in a tree, by what it is; null where it is not there. */
function placeOf(tree: Model, folder: LayoutFolder | null): FolderPlace | null {
  return folder === null ? null : (placesOf(tree.folders).find((p) => folderAt(tree, p) === folder) ?? null);
}

export function useLayoutEditor(layout: LayoutView) {
  const [text, setText] = useKept(`text of ${layout.id}`, z.string(), layout.text);
  const [chosen, setChosen] = useState<FolderPlace | null>(null);
  // Another tree altogether: the folders that were opened or closed in it are none of this one's.
  const [version, setVersion] = useState(0);
  const { tree, name, about, problems } = readLayoutText(text);
  const folder = chosen === null ? null : folderAt(tree, chosen);
  const canEdit = problems.length === 0 || tree.folders.length === 0;
  const write = (to: string) => {
    setText(to);
    setChosen(null);
    setVersion((v) => v + 1);
  };
  const put = (next: { tree?: Model; name?: string; about?: string }, choice?: LayoutFolder | null) => {
    if (!canEdit) return;
    const whole = { tree, name, about, ...next };
    setText(writeLayout(whole));
    // Read anew, folders are others than those that were written.
    if (choice !== undefined) setChosen(placeOf(whole.tree, choice));
    if (next.tree && placesOf(next.tree.folders).length !== placesOf(tree.folders).length)
      setVersion((v) => v + 1);
  };
  /** A new folder below the chosen one, or inside it. */
  const add = (inside: boolean) => {
    const names = new Set(placesOf(tree.folders).map((p) => folderAt(tree, p)!.name));
    let fresh = 'new folder';
    for (let n = 2; names.has(fresh); n++) fresh = `new folder ${n}`;
    const made = newFolder(fresh);
    const [parent, at] =
      chosen === null
        ? ['', tree.folders.length - 1]
        : inside
          ? [chosen, (folder?.folders.length ?? 0) - 1]
          : partsOf(chosen);
    put({ tree: insertFolder(tree, parent, at + 1, made) }, made);
  };
  const takeOut = () => {
    if (chosen !== null) put({ tree: removeFolder(tree, chosen) }, null);
  };
  /** Says something else of the chosen folder. */
  const say = (more: Partial<LayoutFolder>) => {
    if (chosen === null) return;
    let next = tree;
    // A kind lives in one folder only: it moves here.
    if (more.kinds)
      for (const p of placesOf(tree.folders))
        if (p !== chosen)
          next = changeFolder(next, p, {
            kinds: folderAt(next, p)!.kinds.filter((k) => !more.kinds!.includes(k)),
          });
    put({ tree: changeFolder(next, chosen, more) });
  };
  /** What is wrong with another name for the chosen folder. */
  const wrongName = (to: string) => {
    const [parent, at] = partsOf(chosen ?? '0');
    const siblings = parent === '' ? tree.folders : (folderAt(tree, parent)?.folders ?? []);
    const isTaken = siblings.some((s, i) => i !== at && foldName(s.name) === foldName(to));
    return checkFolderName(to, parent === '')[0] ?? (isTaken ? `“${to}” is there already.` : undefined);
  };
  return {
    text,
    write,
    tree,
    name,
    about,
    problems,
    folder,
    chosen,
    choose: setChosen,
    version,
    canEdit,
    isChanged: text !== layout.text,
    takeBack: () => {
      setText(undefined);
      setChosen(null);
      setVersion((v) => v + 1);
    },
    put,
    add,
    takeOut,
    say,
    wrongName,
  };
}
export type LayoutEditor = ReturnType<typeof useLayoutEditor>;
