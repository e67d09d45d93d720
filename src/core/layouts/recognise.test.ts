// Folders that exist: what they are for, and which of them may be homes.

import { expect, test } from '@jest/globals';
import type { Homes } from './homes';
import { contentsOf, homeSense, homesIn, isInPlace, kindInFolders } from './recognise';

const wanted: Homes = { scene: 'scenes', model: 'models', texture: 'textures', render: 'renders' };
function homesOf(...paths: string[]): Homes {
  const files = paths.map((path) => ({ path, size: 10 }));
  const folders = new Set<string>();
  for (const p of paths)
    for (const [i] of p.split('/').slice(0, -1).entries())
      folders.add(
        p
          .split('/')
          .slice(0, i + 1)
          .join('/'),
      );
  const may = homeSense(files);
  return homesIn(contentsOf(files, kindInFolders), [...folders].filter(may), wanted);
}

test('renders are told from textures by their folder', () => {
  expect(
    [
      'renders/quay.png',
      'job/Renders/v2/quay.0001.exr',
      'tex/wood.png',
      'renders/textures/wood.png',
      'ref/harbour.jpg',
      'renders/quay.gltf',
      'quay.png',
    ].map((p) => kindInFolders(p)),
  ).toEqual(['render', 'render', 'texture', 'texture', 'reference', 'scene', 'texture']);
  // What the workspace calls its homes comes before what words say.
  expect(kindInFolders('frames/wood.png', 'texture', { texture: 'frames' })).toBe('texture');
  expect(kindInFolders('pictures/quay.png', 'texture', { render: 'pictures' })).toBe('render');
  expect(homesOf('renders/a.png', 'renders/b.png', 'renders/c.png', 'scenes/a.gltf')).toEqual({
    scene: 'scenes',
    render: 'renders',
  });
  expect(isInPlace('old/renders/a.png', kindInFolders('old/renders/a.png'), wanted)).toBe(false);
});

test('no home in what programs fill, in a holding area, or in a kit as it was delivered', () => {
  expect(
    homesOf('node_modules/sample/textures/a.png', 'node_modules/sample/models/a.obj', 'scenes/a.gltf'),
  ).toEqual({ scene: 'scenes' });
  expect(homesOf('intake/pack/textures/a.png', 'scenes/a.gltf')).toEqual({ scene: 'scenes' });
  expect(
    homesOf('chair/licence.txt', 'chair/chair.obj', 'chair/textures/oak.png', 'chair/textures/cloth.png'),
  ).toEqual({});
  // Reading matter in a folder of one kind makes no kit of it, nor does a folder's own name stop to speak.
  expect(
    homesOf('textures/readme.txt', 'textures/oak.png', 'models/LICENSE', 'models/a.obj', 'models/a.png'),
  ).toEqual({
    texture: 'textures',
    model: 'models',
  });
});
