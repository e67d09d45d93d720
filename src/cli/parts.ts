// Lists the temporary files of the running command (server/disk/parts.ts), one list per process, in the data folder. The next command, or the next start of
// the application, removes those of a command that was killed.

import fs from 'node:fs';
import { dataFolder } from '@/server/dataFolder';
import { clearLeft, commandParts, ownRegister } from '@/server/disk/parts';

const folder = () => commandParts(dataFolder());

/** The list of this process; null when the data folder is not writable. The command then works without a list. */
export function ownParts(): string | null {
  const register = ownRegister(folder());
  try {
    fs.mkdirSync(register, { recursive: true, mode: 0o700 });
    return register;
  } catch {
    return null;
  }
}

/** Removes temporary files of commands that have ended. */
export function clearLeftParts(): void {
  if (fs.existsSync(folder())) clearLeft(folder());
}
