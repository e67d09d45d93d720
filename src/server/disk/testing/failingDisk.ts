// A disk below a tree that fails at its n-th call, once or from then on, or at which the program dies: after that nothing is done any more.

import { nodeCalls, type DiskCalls } from '../calls';

export class Died extends Error {}

export type Fault = { code: string; lasts: boolean } | 'dies';

/** Counts calls; the n-th fails (1 is the first; 0 never). `closing` a file always works. */
export function failingDisk(n: number, fault: Fault): { calls: DiskCalls; made: () => number } {
  let made = 0;
  let dead = false;
  const step = () => {
    if (dead) throw new Died('dead');
    made++;
    if (n === 0 || made < n) return;
    if (fault === 'dies') {
      dead = true;
      throw new Died(`died at call ${made}`);
    }
    if (made === n || fault.lasts)
      throw Object.assign(new Error(`${fault.code}: made up, call ${made}`), { code: fault.code });
  };
  const calls = Object.fromEntries(
    Object.entries(nodeCalls).map(([name, call]) => [
      name,
      (...args: unknown[]) => {
        if (name === 'write' || name === 'readAhead') {
          try {
            step();
          } catch (cause) {
            return Promise.reject(cause as Error);
          }
        } else if (name !== 'close') step();
        // Counted and failed like any other, but not waited for: what a power cut does is not tried here.
        if (name === 'fsync') return undefined;
        return (call as (...a: unknown[]) => unknown)(...args);
      },
    ]),
  ) as unknown as DiskCalls;
  return { calls, made: () => made };
}
