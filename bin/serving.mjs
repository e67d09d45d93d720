// What every way of starting the application has in common: a key, an address, the browser. Plain Node.js; the `open` package is there once packages are.

import { randomBytes } from 'node:crypto';
import net from 'node:net';

/** Why this Node.js cannot run it; null: it can. */
export function tooOld() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  return major < 20 || (major === 20 && minor < 15)
    ? `Loyal Satchel needs Node.js 20.15 or newer; this is ${process.versions.node}.`
    : null;
}

/** What the environment of a server that is built says; `key`: what a request must bring. */
export const serverEnv = (key) => ({
  NODE_ENV: 'production',
  NEXT_TELEMETRY_DISABLED: '1',
  NEXT_MANUAL_SIG_HANDLE: 'true',
  SATCHEL_KEY: key,
});

/** A key for one start: without it nobody on this machine gets an answer. Handed on in the environment, which other accounts cannot read. */
export const newKey = () => randomBytes(24).toString('base64url');

/** The address that lets a browser in. */
export const entryTo = (address, key) => `${address}/?key=${key}`;

/** The first free port of so many from `from` on, on 127.0.0.1; null: none is. */
export async function freePortFrom(from, many = 50) {
  for (let port = from; port < from + many; port++) {
    const free = await new Promise((resolve) => {
      const probe = net.createServer();
      probe.once('error', () => resolve(false));
      probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
    });
    if (free) return port;
  }
  return null;
}

/** Opens an address in the user's browser, where somebody sits before this terminal. SATCHEL_OPEN=no keeps it closed. */
export async function openInBrowser(entry) {
  if (!process.stdout.isTTY || process.env.CI || process.env.SATCHEL_OPEN === 'no') return;
  const { default: open } = await import('open');
  await open(entry).catch(() => console.error('Your browser could not be opened; copy the address into it.'));
}

/** Waits until the server at an address answers who brings the key; false: `isOver` said so first, or a minute went by. */
export async function answers(address, key, isOver = () => false) {
  for (let n = 0; n < 1200 && !isOver(); n++) {
    const ok = await fetch(`${address}/api/jobs`, { headers: { 'x-satchel-key': key } }).then(
      // By the name that its people use nobody can ask from here; that it answers is enough.
      (r) => r.ok || process.env.SATCHEL_MODE === 'studio',
      () => false,
    );
    if (ok) return true;
    await new Promise((done) => setTimeout(done, 50));
  }
  return false;
}
