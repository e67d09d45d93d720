// The hidden folder in which a workspace keeps its own records. Nothing of it is a user's file, and nobody moves it. Every path below it
// stands here and nowhere else.

import { isWithin, treePath, type TreePath } from './treePath';

export const ownFolder = treePath('.satchel');
/** The marker, which makes a folder a workspace. */
export const markerPath = treePath(`${ownFolder}/workspace.json`);
export const journalFolder = treePath(`${ownFolder}/journal`);
export const storeFolder = treePath(`${ownFolder}/store`);
/** Notes about versions, by the scene's own path. */
export const versionsFolder = treePath(`${ownFolder}/versions`);
/** What the net has kept of scenes, and when it could not (versions/net.ts). */
export const netFolder = treePath(`${ownFolder}/net`);
export const netLog = treePath(`${netFolder}/log.jsonl`);
/** The placeholder of archived work: which snapshot in which backup folder holds it. While it is there, nothing here is changed. */
export const placeholderPath = treePath(`${ownFolder}/moved-off.json`);
/** States of the workspace to go back to (versions/checkpoint.ts). */
export const checkpointsFolder = treePath(`${ownFolder}/checkpoints`);
/** Who holds which scene, and who broke a hold (versions/holds.ts). */
export const holdsLog = treePath(`${ownFolder}/holds.jsonl`);
/** The bin: what was cleared, each time in a folder of its own, under its old path. */
export const binFolder = treePath(`${ownFolder}/bin`);

/** A new folder in the bin. `now`: ISO time. */
export function binAt(now: string): TreePath {
  return treePath(`${binFolder}/${now.replace(/[:.]/g, '-')}`);
}

/** Whether a path is of this moment alone: the write lock, and what taking it needs. No state of a workspace holds it. */
export function isPassing(path: string): boolean {
  return path === `${ownFolder}/lock` || path.startsWith(`${ownFolder}/.lock-`);
}

/** Whether a path is one of our own records. */
export function isOwn(path: string): boolean {
  return isWithin(path, ownFolder);
}

/** Whether a path is a record of this workspace or of one inside it. */
export function isOwnAnywhere(path: string): boolean {
  return isOwn(path) || path.includes(`/${ownFolder}/`);
}
