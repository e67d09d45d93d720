// A tree whose own records (all below `.satchel`) lie in another tree: for plans on a folder that is no workspace and shall get no hidden
// folder, such as the one that holds several workspaces.

import type { ByteRange, FileTree, WritableFileTree } from './fileTree';
import { isWithin, treePath, type TreePath } from './treePath';

const own = treePath('.satchel');

/** `tree` with its records in `records`, under the same paths. `.satchel` of `tree` itself is not to be seen. */
export function recordsElsewhere(tree: WritableFileTree, records: WritableFileTree): WritableFileTree {
  const at = (p: string) => (isWithin(p, own) ? records : tree);
  const list: FileTree['list'] = async function* (folder) {
    if (folder !== undefined && isWithin(folder, own)) yield* records.list(folder);
    else for await (const f of tree.list(folder)) if (!isWithin(f.path, own)) yield f;
  };
  const across = (p: TreePath, to: TreePath) => at(p) !== at(to);
  return {
    list,
    entries: async (folder) =>
      folder === ''
        ? ((await tree.entries(folder))?.filter((e) => e.name !== own) ?? null)
        : at(folder).entries(folder),
    kind: (p) => at(p).kind(p),
    stat: (p) => at(p).stat(p),
    read: (p: TreePath, range?: ByteRange, into?: Uint8Array) => at(p).read(p, range, into),
    stream: (p, range) => at(p).stream(p, range),
    digest: (p) => at(p).digest(p),
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
    async keep(p, to) {
      if (!across(p, to)) return at(p).keep(p, to);
      if ((await records.kind(to)) === null)
        await records.write(to, tree.stream(p), { replace: false, tag: `keep-${to.slice(-16)}` });
    },
    remove: (p) => at(p).remove(p),
    makeFolder: (p) => at(p).makeFolder(p),
    removeFolder: (p) => at(p).removeFolder(p),
    clearTemporary: (p, tag) => at(p).clearTemporary(p, tag),
  };
}
