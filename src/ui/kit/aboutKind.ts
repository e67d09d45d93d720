// What the kinds of files are, in a few words.

import type { FileKind } from '@/core/layouts/homes';

export const aboutKind: Record<FileKind, string> = {
  scene: 'scenes, levels, shots',
  model: 'geometry that scenes are made of',
  texture: 'pictures on surfaces',
  material: 'material libraries',
  cache: 'baked simulation, point and volume caches',
  audio: 'sound and music',
  video: 'films',
  font: 'fonts',
  reference: 'pictures to look at while working',
  render: 'what comes out of the renderer',
  export: 'what is handed over',
  backup: 'copies',
  other: 'the holding area: packs and downloads not filed yet',
};
