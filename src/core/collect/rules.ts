// Rules of where collected files lie, as people choose them.

import type { Homes } from '../layouts/homes';
import type { Rule } from './placement';

/** Homes of what a workspace has no home for. */
const usualHomes: Homes = {
  scene: 'scenes',
  model: 'models',
  texture: 'textures',
  material: 'materials',
  cache: 'caches',
  audio: 'audio',
  video: 'video',
  font: 'fonts',
  other: 'other',
};

/** A home for every kind: the workspace's, as far as it has them. */
export const homesFor = (homes: Homes): Homes => ({ ...usualHomes, ...homes });

/** Each kind in a folder of its own. */
export const byKind = (homes: Homes): Rule => ({ by: 'kind', homes: homesFor(homes) });

/**
 * A list of scenes as text, for a render list: a path a line; lines that begin with # are passed over. `folder`: from
 * where paths are measured that are not whole.
 */
export function readSceneList(text: string, folder: string): string[] {
  return text
    .replace(/^\ufeff/, '')
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== '' && !line.startsWith('#'))
    .map((line) => (/^(?:[A-Za-z]:)?[/\\]/.test(line) ? line : `${folder}/${line}`));
}
