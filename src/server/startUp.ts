// Opening and closing of the server process.

import { allowDemo } from './demo';
import { clearAllParts, clearLeft, commandParts } from './disk/parts';
import { hub, partsFolder, type Hub } from './hub';
import { studio, type Studio } from './studio/mode';
import { firstLink } from './studio/people';
import { clearStaging } from './workspaces/stage';
import { repairShelves } from './workspaces/shelf';

/** Opens the hub; a failure ends the process with its reason (a half-open server would answer 500 to everything). */
export async function startUp(): Promise<void> {
  try {
    const settings = studio();
    const h = await hub();
    clearAllParts(partsFolder(h.dataFolder));
    clearLeft(commandParts(h.dataFolder));
    clearStaging(h.dataFolder, new Set(), 0);
    await allowDemo(h);
    if (settings) await tellFirstLink(h, settings);
    await repairShelves(h.dataFolder);
    const close = () => {
      void h.end().finally(() => process.exit(0));
      setTimeout(() => process.exit(0), 3000).unref();
    };
    process.once('SIGTERM', close);
    process.once('SIGINT', close);
  } catch (cause) {
    console.error(cause instanceof Error ? cause.message : cause);
    process.exit(3);
  }
}

/** While nobody manages a server for several, its terminal shows the way in for the first. */
async function tellFirstLink({ db }: Hub, { origins }: Studio): Promise<void> {
  const link = await firstLink(db);
  if (link)
    process.stdout.write(
      `Nobody manages this server yet. Open this once, within seven days, and be the first: ${origins[0]}/join#${link.token}\n`,
    );
}
