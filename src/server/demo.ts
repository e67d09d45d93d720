// The demo's folder is allowed from the start, and its workspace is known; nothing else is.

import fs from 'node:fs';
import { rememberWorkspace } from './database/queries';
import { addAllowed } from './database/allowedQueries';
import { workspaceId, type Hub } from './hub';
import { cleanPath } from './allowed';
import { hasMarker, readWorkspace } from './workspaces/open';

/** Whether a root is the demo's workspace that has one of every kind of trouble. */
export const isGuided = (root: string): boolean =>
  !!process.env.SATCHEL_DEMO &&
  root === `${cleanPath(process.env.SATCHEL_DEMO)}/bench/work/2026-11 Harbour Lantern`;

/** Allows the folder SATCHEL_DEMO names, where it does, and remembers the workspaces that lie right in its `work` folder. */
export async function allowDemo(h: Hub): Promise<void> {
  if (!process.env.SATCHEL_DEMO || !fs.existsSync(process.env.SATCHEL_DEMO)) return;
  const folder = cleanPath(process.env.SATCHEL_DEMO);
  await addAllowed(h.db, folder);
  const work = `${folder}/bench/work`;
  if (!fs.existsSync(work)) return;
  for (const name of fs.readdirSync(work)) {
    const root = `${work}/${name}`;
    if (await hasMarker(root))
      await rememberWorkspace(h.db, workspaceId(root), root, (await readWorkspace(root)).file.name);
  }
}
