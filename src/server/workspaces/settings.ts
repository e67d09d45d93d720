// Changes of what a workspace says of itself.

import type { WorkspaceFile } from '@/core/layouts/workspace';
import { AppError } from '@/core/errors';
import { checkPattern } from '@/core/names/patterns';
import type { PlanRequest } from '@/wire/jobs';

type Change = (PlanRequest & { kind: 'settings' })['change'];

/** The marker after a change, and what to call it. Throws AppError for a pattern that cannot be used. */
export function settingsAfter(file: WorkspaceFile, change: Change, now: string): [WorkspaceFile, string] {
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
    after.libraries = libraries;
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
