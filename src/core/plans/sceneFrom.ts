// A scene that something is taken from, with all it needs; and where its references lead.

import { absoluteTarget, closureOf, type Closure, type NeededFile, type Source } from '../collect/closure';
import { AppError } from '../errors';
import { nameOf } from '../files/treePath';

/** The scene at an absolute path. Throws AppError where it is not there, or may not be read. */
export async function sceneFrom(
  source: Source,
  from: string,
): Promise<{ closure: Closure; scene: NeededFile }> {
  const closure = await closureOf(source, { chosen: [from] });
  const scene = closure.files.get(from);
  if (!scene) throw new AppError('not-found', `${from} is not there, or may not be read.`);
  return { closure, scene };
}

/** Where the references of a scene lead, absolute, by the places they stand at. */
export const placesOf = (source: Source, scene: NeededFile): ReadonlyMap<string, string> =>
  new Map(
    (scene.references ?? []).flatMap((r) => {
      const at = absoluteTarget(source.root, scene.from, r);
      return at === null ? [] : [[r.at, at] as const];
    }),
  );

/** What is to be said where a new text does not say what it should. */
export const notReadBack = (path: string): AppError =>
  new AppError(
    'unsupported',
    `What ${nameOf(path)} would become does not read back as it is meant; nothing is carried.`,
  );
