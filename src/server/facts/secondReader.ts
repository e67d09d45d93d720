// A scene as binary glTF by Assimp, for what the browser's own readers do not make out: COLLADA of many programs, glTF 1. In a thread that is ended when it
// takes too long: files come from strangers. Nothing is written.

import type { Allowed } from '../disk/bounds';
import { runPatiently } from '../threads/patient';

export interface ReadAgainTask {
  /** '/'-separated, absolute. */
  path: string;
  /** Format of the scene. */
  format: string;
  allowed: Allowed;
  /** Files that belong to it: how the scene names them, and where they lie, absolute. */
  beside: { written: string; path: string }[];
}

const patience = 60_000; // ms
const options = { atOnce: 1, megabytes: 1024, tooLong: 'This scene takes too long to be read.' };

/** Binary glTF of a scene. Throws AppError('unsupported') where there is none. */
export async function readAgain(task: ReadAgainTask): Promise<Uint8Array> {
  return (await runPatiently<ReadAgainTask, { glb: Uint8Array }>('readAgain', options, task, patience)).glb;
}
