/** Waits until `isStillAsRead` (../times.ts) can trust the times of files written before the call. */
export const pastTick = () => new Promise<void>((done) => setTimeout(done, 30));
