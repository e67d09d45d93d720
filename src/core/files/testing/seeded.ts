// Numbers that follow from a seed, for files and folders that tests make up.

/** Numbers from 0 up to 1, the same for the same seed on every run (mulberry32, public domain). */
export function seeded(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

/** Whole numbers from 0 to n - 1 in the same way. */
export function seededPick(seed: number): (n: number) => number {
  const next = seeded(seed);
  return (n) => Math.floor(next() * n);
}
