// What a path in a scene is answered with: what the workspace's resolution found, from the file it stands in, and nothing else.

import { expect, test } from '@jest/globals';
import { keyOfRow } from '@/core/references/key';
import type { PreviewView, ReferenceView } from '@/wire/views';
import { isLost, Sources, tidyPath } from './sources';

const ref = (
  scene: string,
  at: string,
  written: string,
  target: string | null,
  kind = 'texture',
): ReferenceView => ({
  scene,
  at,
  written,
  target,
  kind,
  ord: 0,
  state: target === null ? 'missing' : 'travels',
  inside: true,
  ready: target !== null,
  oddities: [],
  uses: [],
  size: 1,
  targets: target === null ? 0 : 1,
  gaps: [],
});
const view = {
  scene: 'scenes/a.gltf',
  format: 'gltf',
  size: 1,
  files: ['scenes/a.gltf', 'models/c.mtl'],
  units: { metres: 1, upAxis: 'Y', by: 'definition' },
  references: [
    ref('scenes/a.gltf', '/images/0/uri', '../textures/oak%20one.png', 'textures/oak one.png'),
    ref('scenes/a.gltf', '/images/1/uri', 'C:/old/oak.png', null),
    ref('scenes/a.gltf', '/buffers/0/uri', './a.bin', 'scenes/a.bin', 'buffer'),
    ref('models/c.mtl', 'newmtl c / map_Kd', '..\\textures\\elm.png', 'textures/elm.png'),
    ref('models/c.mtl', 'newmtl d / map_Kd', '../textures/oak%20one.png', 'textures/percent.png'),
  ],
} as unknown as PreviewView;
const sources = new Sources('w1', view);
const found = (path: string, from?: string) => {
  const r = sources.find(path, from);
  return r && `${r.scene} ${r.at}`;
};

test('as it is written, decoded, from the file it stands in, and by its name alone at last', () => {
  expect(found('../textures/oak%20one.png')).toBe('scenes/a.gltf /images/0/uri');
  expect(found('../textures/oak%20one.png', 'models/c.mtl')).toBe('models/c.mtl newmtl d / map_Kd');
  expect(found('scenes/../../textures/oak%20one.png')).toBe('scenes/a.gltf /images/0/uri');
  expect(found('C:/old/oak.png')).toBe('scenes/a.gltf /images/1/uri');
  expect(found('a.bin')).toBe('scenes/a.gltf /buffers/0/uri');
  // Loaders turn backslashes round.
  expect(found('../textures/elm.png', 'models/c.mtl')).toBe('models/c.mtl newmtl c / map_Kd');
  expect(found('never.png')).toBeUndefined();
  expect(found('%E0%A4%A.png')).toBeUndefined();
});

test('addresses lead back to their reference; a web address is never asked for', () => {
  const [picture, , buffer] = view.references as unknown as [ReferenceView, ReferenceView, ReferenceView];
  expect(sources.address(picture)).toBe(
    '/api/workspaces/w1/preview?scene=scenes%2Fa.gltf&at=%2Fimages%2F0%2Furi&side=1024&blank=yes',
  );
  expect(sources.address(buffer)).toBe(
    '/api/workspaces/w1/content?scene=scenes%2Fa.gltf&at=%2Fbuffers%2F0%2Furi',
  );
  for (const r of view.references) expect(keyOfRow(sources.ofAddress(sources.address(r))!)).toBe(keyOfRow(r));
  expect([
    isLost(view.references[1]!),
    isLost(picture),
    isLost({ ...picture, target: null, state: 'remote' }),
  ]).toEqual([true, false, false]);
});

test('tidy paths', () => {
  expect(['a/../b', '../a', 'a/./b//c', '/x/../y', 'a/../../b'].map(tidyPath)).toEqual([
    'b',
    '../a',
    'a/b/c',
    '/y',
    '../b',
  ]);
});
