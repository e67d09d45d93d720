// What is being made under a name of its own until it is whole (bags, unpacked folders): written down before it is begun, so that whatever a
// killed process left can be found and taken away at the next start. A list a job: one folder of the register, one small file a part.

import { createHash, randomBytes } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { isAlive } from './folderLock';
import { isTemporary } from './listing';
import { toSystem } from './system';

/** Writes down that `temporary` (the system's form, absolute) is about to be made; returns what strikes it off again. Null: nobody keeps a list. */
export function notePart(register: string | null, temporary: string): () => void {
  if (register === null) return () => undefined;
  const folder = toSystem(register);
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
  const file = path.join(folder, randomBytes(6).toString('hex'));
  fs.writeFileSync(file, temporary, { flush: true });
  return () => {
    fs.rmSync(file, { force: true });
    try {
      fs.rmdirSync(folder); // fails while the list has other entries
    } catch {
      // It has.
    }
  };
}

/** Takes away all parts that a list tells, and the list. Returns those that could not be taken away. Only names that this application makes go. */
export function clearParts(register: string): string[] {
  const left: string[] = [];
  const folder = toSystem(register);
  for (const name of namesIn(folder)) {
    const file = path.join(folder, name);
    const part = fs.readFileSync(file, 'utf8');
    try {
      if (path.isAbsolute(part) && isTemporary(path.basename(part)))
        fs.rmSync(part, { recursive: true, force: true });
      fs.rmSync(file, { force: true });
    } catch {
      // Its drive is away, or may not be written just now: it is tried again at the next start.
      left.push(part);
    }
  }
  if (left.length === 0) fs.rmSync(folder, { recursive: true, force: true });
  return left;
}

/** The same for every job's list in a folder. */
export function clearAllParts(registers: string): void {
  for (const name of namesIn(toSystem(registers))) clearParts(`${registers}/${name}`);
}

/** The folder of the command lists, in the data folder. */
export const commandParts = (dataFolder: string): string => path.join(dataFolder, 'command-parts');

// Several machines may share a data folder; this one cannot see their processes.
const machine = createHash('sha256').update(os.hostname()).digest('hex').slice(0, 8);

/** A new list for this process. `registers` is in the system's form. */
export const ownRegister = (registers: string): string =>
  path.join(registers, `${machine}-${process.pid}-${randomBytes(4).toString('hex')}`);

/** Clears the lists of this machine's processes that have ended. Call it before this process creates one. */
export function clearLeft(registers: string): void {
  for (const name of namesIn(toSystem(registers))) {
    const [of, pid] = name.split('-');
    if (of === machine && (Number(pid) === process.pid || !isAlive(Number(pid))))
      clearParts(path.join(registers, name));
  }
}

function namesIn(folder: string): string[] {
  try {
    return fs.readdirSync(folder);
  } catch {
    return [];
  }
}
