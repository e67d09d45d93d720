// A tree whose own records (all below `.satchel`) lie in another tree: for plans on a folder that is no workspace and shall get no hidden
// folder, such as the one that holds several workspaces.

import type { ByteRange, FileTree, WritableFileTree } from './fileTree';
import { isOwn, ownFolder } from './records';
import type { TreePath } from './treePath';

/** `tree` with its records in `records`, under the same paths. `.satchel` of `tree` itself is not to be seen. */
export function recordsElsewhere(tree: WritableFileTree, records: WritableFileTree): WritableFileTree {
  const at = (p: string) => (isOwn(p) ? records : tree);
  const list: FileTree['list'] = async function* (folder, passedOver) {
    if (folder !== undefined && isOwn(folder)) yield* records.list(folder, passedOver);
    else for await (const f of tree.list(folder, passedOver)) if (!isOwn(f.path)) yield f;
  };
  const across = (p: TreePath, to: TreePath) => at(p) !== at(to);
  return {
    list,
    entries: async (folder) =>
      folder === ''
        ? ((await tree.entries(folder))?.filter((e) => e.name !== ownFolder) ?? null)
        : at(folder).entries(folder),
    kind: (p) => at(p).kind(p),
    readLink: (p) => at(p).readLink(p),
    stat: (p) => at(p).stat(p),
    read: (p: TreePath, range?: ByteRange, into?: Uint8Array) => at(p).read(p, range, into),
    stream: (p, range) => at(p).stream(p, range),
    digest: (p) => at(p).digest(p),
    startHash: () => tree.startHash(),
    write: (p, content, options) => at(p).write(p, content, options),
    append: (p, bytes) => at(p).append(p, bytes),
    async move(p, to) {
      if (across(p, to)) throw new Error('records stay among records');
      return at(p).move(p, to);
    },
    async moveFolder(p, to) {
      if (across(p, to)) throw new Error('records stay among records');
      return at(p).moveFolder(p, to);
    },
    async keep(p, to, options) {
      if (!across(p, to)) return at(p).keep(p, to, options);
      if ((await records.kind(to)) === null)
        await records.write(to, tree.stream(p), { replace: false, ...options });
    },
    remove: (p) => at(p).remove(p),
    makeLink: (p, text) => at(p).makeLink(p, text),
    makeFolder: (p, mode) => at(p).makeFolder(p, mode),
    folderMode: (p) => at(p).folderMode(p),
    removeFolder: (p) => at(p).removeFolder(p),
    clearTemporary: (p, tag) => at(p).clearTemporary(p, tag),
  };
}
