// The ledger of each workspace as it was read last: it lies in the workspace itself, and is still to be looked at while that is away.

import fs from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import { ledgerLine, type LedgerLine } from '@/wire/views';

const kept = z.object({ format: z.literal(1), seen: z.number(), lines: z.array(ledgerLine) });
const mostLines = 300;

const fileOf = (dataFolder: string, id: string) => path.join(dataFolder, 'seen', `${id}.ledger.json`);

/** Keeps the newest lines. A drive of our own that is full costs the keeping, not the reading. */
export async function keepLedger(
  dataFolder: string,
  id: string,
  lines: readonly LedgerLine[],
): Promise<void> {
  const file = fileOf(dataFolder, id);
  const content: z.input<typeof kept> = { format: 1, seen: Date.now(), lines: lines.slice(0, mostLines) };
  const part = `${file}.${process.pid}.new`;
  try {
    await fs.promises.mkdir(path.dirname(file), { recursive: true, mode: 0o700 });
    await fs.promises.writeFile(part, JSON.stringify(content), { mode: 0o600 });
    await fs.promises.rename(part, file);
  } catch {
    await fs.promises.rm(part, { force: true }).catch(() => undefined);
  }
}

/** As it was read last; null: it never was, or what is kept cannot be read. */
export async function seenLedger(
  dataFolder: string,
  id: string,
): Promise<{ seen: number; lines: LedgerLine[] } | null> {
  try {
    const { seen, lines } = kept.parse(
      JSON.parse(await fs.promises.readFile(fileOf(dataFolder, id), 'utf8')),
    );
    return { seen, lines };
  } catch {
    return null;
  }
}

/** Forgets it with its workspace. */
export const forgetLedger = (dataFolder: string, id: string): Promise<void> =>
  fs.promises.rm(fileOf(dataFolder, id), { force: true });
