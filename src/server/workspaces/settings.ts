// Changes of what a workspace says of itself.

import { AppError } from '@/core/errors';
import { isAbsolutePath } from '@/core/files/treePath';
import type { WorkspaceFile } from '@/core/layouts/workspace';
import { checkPattern } from '@/core/names/patterns';
import { plainHead } from '@/core/references/elsewhere';
import type { PlanRequest } from '@/wire/jobs';
import { liesIn } from '../disk/realPlace';
import type { OpenWorkspace } from './open';

type Change = (PlanRequest & { kind: 'settings' })['change'];

type Library = NonNullable<Change['libraries']>[number];

/** Libraries as they are kept. One that is known stays though it is away; throws AppError('bad-request') for a new one that can be none. */
async function librariesAfter(
  { root, file, outside }: OpenWorkspace,
  libraries: readonly Library[],
): Promise<Library[]> {
  const kept = libraries.map((l) => ({ name: l.name.trim(), path: plainHead(l.path.trim()) }));
  for (const [i, { name, path }] of kept.entries()) {
    const refuse = (why: string): never => {
      throw new AppError('bad-request', why, 'Nothing was changed.');
    };
    if (name === '') refuse(`The library at ${path} has no name: references are told by it.`);
    if (kept.findIndex((l) => l.name.toLowerCase() === name.toLowerCase()) !== i)
      refuse(`Two libraries are called ${name}; each needs a name of its own.`);
    if (file.libraries.some((l) => plainHead(l.path) === path)) continue;
    if (!isAbsolutePath(path))
      refuse(
        `“${path}” says no whole path. A library is a folder outside the workspace; choose it, or write it from the drive on.`,
      );
    if ((await outside.kind(path)) !== 'folder')
      refuse(`There is no folder ${path} here. Connect its drive first, or choose another.`);
    if (liesIn(root, path))
      refuse(`${path} lies in the workspace itself: what is there travels with it, and needs no library.`);
    if (liesIn(path, root)) refuse(`${path} holds the workspace itself. Choose the folder of the kit alone.`);
  }
  return kept;
}

/** The marker after a change, and what to call it. Throws AppError for a pattern or a library that cannot be used. */
export async function settingsAfter(
  workspace: OpenWorkspace,
  change: Change,
  now: string,
): Promise<[WorkspaceFile, string]> {
  const { file } = workspace;
  const { name, category, archived, units, names, libraries, places, net, remade } = change;
  const after: WorkspaceFile = { ...file };
  const said: string[] = [];
  if (name !== undefined && name !== file.name) {
    after.name = name;
    said.push(`Call it ${name}`);
  }
  if (category !== undefined) {
    if (category === null || category === '') delete after.category;
    else after.category = category;
    said.push(category ? `File it under ${category}` : 'File it under nothing');
  }
  if (archived !== undefined) {
    if (archived) after.archived = file.archived ?? now;
    else delete after.archived;
    said.push(archived ? 'Archive it' : 'Take it out of the archive');
  }
  if (units) {
    after.units = units;
    said.push('Change units and grid');
  }
  if (names) {
    const wrong = [names.scene, names.output].flatMap((p) => (p ? checkPattern(p) : []));
    if (wrong.length > 0) throw new AppError('bad-request', wrong[0]!, 'Nothing was changed.', wrong);
    after.names = { ...file.names, ...names };
    said.push('Change patterns of names');
  }
  if (libraries) {
    after.libraries = await librariesAfter(workspace, libraries);
    said.push('Change libraries');
  }
  if (places) {
    after.places = places;
    said.push('Change places');
  }
  if (remade !== undefined) {
    if (remade) after.remade = remade;
    else delete after.remade;
    said.push('Say which caches can be made again');
  }
  if (net !== undefined) {
    if (net) after.net = net;
    else delete after.net;
    said.push(net ? `Keep scenes every ${net.every} minutes` : 'Turn the net off');
  }
  return [after, said.join(', ') || 'Change settings'];
}
