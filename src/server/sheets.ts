// The tables of references that the browser looks into, held in memory: read from the index once, and after a scan only where it differs.

import { Sheet } from '@/core/references/sheet';
import type { ReferenceView } from '@/wire/views';
import {
  findWorkspace,
  listAllRows,
  listRowsOf,
  type SheetRowData,
  type WorkspaceRow,
} from './database/queries';
import type { Database } from './database/database';
import { referenceView } from './referenceView';

export type SheetLine = ReferenceView & { format: string };

export interface HeldSheet {
  scanned: number | null;
  sheet: Promise<Sheet<SheetLine>>;
}

/** What of the server is needed here. */
interface Holder {
  db: Database;
  sheets: Map<string, HeldSheet>;
}

const mostHeld = 2;

const lineOf = (r: SheetRowData): SheetLine => ({ ...referenceView(r), format: r.format });

function hold(h: Holder, id: string, held: HeldSheet): HeldSheet {
  h.sheets.delete(id);
  h.sheets.set(id, held);
  if (h.sheets.size > mostHeld) h.sheets.delete(h.sheets.keys().next().value!);
  return held;
}

/** The table of a workspace as its last scan found it. */
export function sheetOf(h: Holder, row: Pick<WorkspaceRow, 'id' | 'scanned'>): Promise<Sheet<SheetLine>> {
  const held = h.sheets.get(row.id);
  if (held && held.scanned === row.scanned) return hold(h, row.id, held).sheet;
  const sheet = listAllRows(h.db, row.id).then((rows) => new Sheet(rows.map(lineOf)));
  sheet.catch(() => h.sheets.delete(row.id));
  return hold(h, row.id, { scanned: row.scanned, sheet }).sheet;
}

/** After a scan: rows of scenes that differ are taken anew. `scenes` null: all of them. */
export async function refreshSheet(h: Holder, id: string, scenes: readonly string[] | null): Promise<void> {
  const held = h.sheets.get(id);
  if (!held) return;
  if (scenes === null) return void h.sheets.delete(id);
  const row = await findWorkspace(h.db, id);
  if (!row) return void h.sheets.delete(id);
  const before = await held.sheet;
  if (scenes.length === 0) return void hold(h, id, { ...held, scanned: row.scanned });
  const gone = new Set(scenes);
  const fresh = (await listRowsOf(h.db, id, scenes)).map(lineOf);
  const rows = [...before.rows.filter((r) => !gone.has(r.scene)), ...fresh].sort((a, b) =>
    a.scene < b.scene ? -1 : a.scene > b.scene ? 1 : a.ord - b.ord,
  );
  hold(h, id, { scanned: row.scanned, sheet: Promise.resolve(new Sheet(rows)) });
}
