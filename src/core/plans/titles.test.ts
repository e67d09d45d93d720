// Lines of the ledger that can be told apart.

import { expect, test } from '@jest/globals';
import { titleOfPaths } from './titles';

const change = (scene: string, after: string) => ({ scene, at: '/x', before: 'old', after });

test('one by its name, several of one file by that, others by how many', () => {
  const hull = change('scenes/boat.gltf', '../textures/hull.png');
  const sail = change('scenes/boat.gltf', '../textures/sail.png');
  const pier = change('scenes/pier.gltf', 'wood.png');
  expect([
    titleOfPaths('Relink', [hull], 'reference'),
    titleOfPaths('Relink', [hull, sail], 'reference'),
    titleOfPaths('Relink', [hull, sail, pier], 'reference'),
    titleOfPaths('Relink', [], 'reference'),
    titleOfPaths('Make', [hull, sail], 'reference', 'travel'),
    titleOfPaths('Make', [hull, pier], 'reference', 'travel'),
  ]).toEqual([
    'Relink hull.png in boat.gltf',
    'Relink 2 references of boat.gltf',
    'Relink 3 references in 2 files',
    'Relink 0 references',
    'Make 2 references of boat.gltf travel',
    'Make 2 references travel',
  ]);
});
