// What work writes to: whoever asks for it has to be one who may change what lies there. Every kind of work stands here; a new one does not compile without.

import type { WorkOrder } from '@/wire/jobs';
import type { OrderOf } from './doing';

type Writes = { [W in WorkOrder['work']]: ((order: OrderOf<W>) => readonly string[]) | null };

const itsRoot = ({ root }: { root: string }) => [root];
const itsFolder = ({ folder }: { folder: string }) => [folder];
const itsTarget = ({ to }: { to: string }) => [to];

/** Null: it only looks (or writes into the application's own folder). */
const writes: Writes = {
  apply: itsRoot,
  settle: itsRoot,
  checkpoint: itsRoot,
  net: itsRoot,
  'settle-in': itsRoot,
  archive: ({ root, folder }) => [root, folder],
  'bring-back': ({ root, from }) => (from === undefined ? [root] : [root, from]),
  pack: itsTarget,
  unpack: itsTarget,
  arrive: itsTarget,
  'give-back': itsTarget,
  backup: itsFolder,
  prove: itsFolder,
  heal: itsFolder,
  'clear-snapshots': itsFolder,
  probe: itsFolder,
  // Which folders a verb writes to it finds out by itself, and is held to (jobs/verb.ts).
  verb: null,
  'find-entry': null,
  scan: null,
  plan: null,
  adopt: null,
  'create-many': null,
  relocate: null,
  recognise: null,
  suggest: null,
  find: null,
  measure: null,
  loose: null,
  alike: null,
  duplicates: null,
  needs: null,
  used: null,
  'carry-assets': null,
  'carry-look': null,
  nodes: null,
  'nodes-look': null,
  beside: null,
  collect: null,
  complete: null,
  cost: null,
  outputs: null,
  'travel-look': null,
  'arrive-look': null,
  'arrive-again': null,
  'hand-in': null,
  'hand-ins': null,
  'backups-look': null,
  'snapshot-judge': null,
  'snapshot-look': null,
  'clearing-look': null,
  verify: null,
  rehearse: null,
};

/** Whether work whose end nobody heard may be begun once more: it only looks. What a verb does only the verb knows. */
export const isRepeatable = (order: WorkOrder): boolean =>
  order.work !== 'verb' && writesTo(order).length === 0;

/** Absolute paths of what an order writes to. */
export function writesTo(order: WorkOrder): readonly string[] {
  const of = writes[order.work] as ((order: WorkOrder) => readonly string[]) | null;
  return of?.(order) ?? [];
}
