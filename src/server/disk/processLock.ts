// A lock by name that dies with its process: an abstract socket on Linux, a named pipe on Windows, elsewhere a file that
// names its owner, which counts only while that process lives.

import { createHash } from 'node:crypto';
import fs from 'node:fs';
import net from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { lockAddress } from './system';

/** Takes the lock; null when another process (or another holder in this one) has it. `release` gives it back. */
export async function takeLock(name: string): Promise<{ release: () => Promise<void> } | null> {
  const hashed = createHash('sha256').update(name).digest('hex').slice(0, 40);
  const address = lockAddress(hashed);
  return address === null
    ? takeFileLock(path.join(os.tmpdir(), `loyal-satchel-${hashed}.lock`))
    : takeSocketLock(address);
}

function takeSocketLock(address: string): Promise<{ release: () => Promise<void> } | null> {
  return new Promise((resolve, reject) => {
    const server = net.createServer((socket) => socket.destroy());
    server.once('error', (cause: NodeJS.ErrnoException) =>
      cause.code === 'EADDRINUSE' || cause.code === 'EACCES' ? resolve(null) : reject(cause),
    );
    server.listen(address, () => {
      server.unref();
      resolve({ release: () => new Promise((done) => server.close(() => done())) });
    });
  });
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (cause) {
    return (cause as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/** The lock file way, for systems without the others. Exported for its test. */
export async function takeFileLock(file: string): Promise<{ release: () => Promise<void> } | null> {
  for (let n = 0; n < 2; n++) {
    try {
      fs.writeFileSync(file, String(process.pid), { flag: 'wx' });
      return { release: async () => fs.rmSync(file, { force: true }) };
    } catch (cause) {
      if ((cause as NodeJS.ErrnoException).code !== 'EEXIST') throw cause;
      const pid = Number(fs.readFileSync(file, 'utf8'));
      if (pid && isAlive(pid)) return null;
      fs.rmSync(file, { force: true });
    }
  }
  return null;
}
