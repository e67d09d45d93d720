// Fitting a workspace to a machine: what it refuses is called otherwise, every reference still leads to its file, undo gives the old names back.

import { expect, test } from '@jest/globals';
import { apply } from '../changes/apply';

import { applying, recordsIn, undoing } from '../changes/testing/contexts';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { isOwn, markerPath } from '../files/records';
import { shippedLayouts } from '../layouts/layout';
import { writeWorkspaceFile } from '../layouts/workspace';
import { rehearse } from '../bags/rehearse';
import { machineOf } from '../places/machine';
import { scan } from '../references/scan';
import type { MarkedWorkspace } from './marker';
import { newWorkspaceFile } from './planCreate';
import { planFit } from './planFit';
import { settingOf } from './workspace';

function workspaceOf(files: Record<string, string>): MarkedWorkspace & { tree: MemoryTree } {
  const made = newWorkspaceFile({
    name: 'Boat',
    layout: shippedLayouts[0]!,
    without: [],
    created: '2026-11-27',
  });
  const file = { ...made, homes: { ...made.homes, texture: 'tex?ures' } };
  const tree = new MemoryTree({ ...files, [markerPath]: writeWorkspaceFile(file) });
  return { root: '/work/boat', tree, outside: memoryOutside({}), file };
}

const users = (tree: MemoryTree) =>
  [...tree.files]
    .filter(([p]) => !isOwn(p))
    .sort()
    .map(([p, f]) => [p, [...f.bytes]]);

test('everything opens there afterwards, and undo gives it back to the byte', async () => {
  const long = 'the surface of the sea in the harbour '.repeat(5).trim();
  const workspace = workspaceOf({
    'scenes/a.gltf': JSON.stringify({
      images: [
        { uri: '../tex%3Fures/aux.png' },
        { uri: '../tex%3Fures/Sail.png' },
        { uri: '../tex%3Fures/sail.png' },
      ],
      buffers: [{ uri: `../caches/${encodeURIComponent(long)}.bin` }],
    }),
    'tex?ures/aux.png': '1',
    'tex?ures/Sail.png': '2',
    'tex?ures/sail.png': '3',
    [`caches/${long}.bin`]: 'b',
  });
  const before = users(workspace.tree);
  const machine = { ...machineOf('windows'), longestPath: 120 };
  const plan = await planFit(workspace, { machine, name: 'Boat', what: 'both' });
  expect(plan.notes.filter((n) => n.level === 'blocker')).toEqual([]);
  await apply(workspace.tree, plan, applying('fit'));
  const targets: (string | null)[] = [];
  for await (const report of scan(workspace.tree, settingOf(workspace)))
    for (const r of report.references) targets.push(r.target);
  expect(targets.slice(0, 3)).toEqual(['tex_ures/_aux.png', 'tex_ures/Sail.png', 'tex_ures/sail(2).png']);
  const [there] = await rehearse(workspace.tree, [machine], { name: 'Boat', libraries: [] });
  expect(there!.failures).toEqual([]);
  expect(JSON.parse(new TextDecoder().decode(await workspace.tree.read(markerPath))).homes.texture).toBe(
    'tex_ures',
  );
  await apply(
    workspace.tree,
    await undoing(workspace.tree, (await recordsIn(workspace.tree))[0]!),
    applying('undo'),
  );
  expect(users(workspace.tree)).toEqual(before);
});

test('where all fits already, nothing is done', async () => {
  const plan = await planFit(workspaceOf({ 'a.gltf': '{}' }), {
    machine: machineOf('linux'),
    name: 'Boat',
    what: 'both',
  });
  expect([plan.steps, plan.notes.map((n) => n.code)]).toEqual([[], ['nothing']]);
});
