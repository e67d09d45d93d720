// What a command is making under a name of its own until it is whole (server/disk/parts.ts): one list a process, in the data folder. What a killed one left
// is taken away by the next command, and by the next start of the application.

import fs from 'node:fs';
import { dataFolder } from '@/server/dataFolder';
import { clearLeft, commandParts, ownRegister } from '@/server/disk/parts';

const folder = () => commandParts(dataFolder());

/** The list of this process; null where none can be written: what is made is no worse for it. */
export function ownParts(): string | null {
  const register = ownRegister(folder());
  try {
    fs.mkdirSync(register, { recursive: true, mode: 0o700 });
    return register;
  } catch {
    return null;
  }
}

/** Takes away what commands left that are not running any more. */
export function clearLeftParts(): void {
  if (fs.existsSync(folder())) clearLeft(folder());
}
