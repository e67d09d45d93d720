// Runs once as the server starts: opens the database, so that a folder in use is reported at once and not at the first click.

export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs' || process.env.NEXT_PHASE === 'phase-production-build') return;
  const { startBuiltServer } = await import('@/server/built/load');
  await startBuiltServer();
}
