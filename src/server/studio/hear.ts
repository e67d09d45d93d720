// Hears what is said on channels of a PostgreSQL server (LISTEN), by a connection of its own. What was said while it was down is not told again: whoever hears
// is told that it is back, and looks for itself.

import { Client } from 'pg';

const again = 1000; // ms until a connection that was lost is opened anew

/** Hears until what is returned is called. `onBack`: at the first connection, and after each loss. */
export function hear(
  url: string,
  channels: Readonly<Record<string, (payload: string) => void>>,
  onBack: () => void,
): { close(): Promise<void> } {
  let client: Client | null = null;
  let isOver = false;
  let waiting: NodeJS.Timeout | undefined;
  const open = async () => {
    const mine = new Client({ connectionString: url, keepAlive: true, connectionTimeoutMillis: 5000 });
    client = mine;
    let isLost = false;
    const lose = () => {
      if (isLost) return;
      isLost = true;
      void mine.end().catch(() => undefined);
      if (!isOver) waiting = setTimeout(() => void open(), again);
    };
    mine.on('error', lose);
    mine.on('end', lose);
    mine.on('notification', ({ channel, payload }) => channels[channel]?.(payload ?? ''));
    try {
      await mine.connect();
      for (const channel of Object.keys(channels)) await mine.query(`LISTEN ${channel}`);
      onBack();
    } catch {
      lose();
    }
  };
  void open();
  return {
    async close() {
      isOver = true;
      clearTimeout(waiting);
      await client?.end().catch(() => undefined);
    },
  };
}
