// Everything a scene can go back to, as one list by time: versions, states that the net kept, automatic saves of other programs.

import { exactTime } from '@/core/text/figures';
import type { NetView, VersionsView } from '@/wire/views';
import { savedAt } from './timeLine';

export type Entry =
  | { what: 'version'; at: number; version: VersionsView['versions'][number] }
  | { what: 'kept'; at: number; state: NetView['states'][number] }
  | { what: 'other'; at: number; save: NetView['others'][number] };

export const kinds = ['version', 'kept', 'other'] as const;

/** The newest first. */
export function historyOf(versions: VersionsView, net: NetView): Entry[] {
  return [
    ...versions.versions.map((version): Entry => ({ what: 'version', at: savedAt(version), version })),
    ...net.states.map((state): Entry => ({ what: 'kept', at: state.at, state })),
    ...net.others.map((save): Entry => ({ what: 'other', at: save.modified, save })),
  ].sort((a, b) => b.at - a.at || kinds.indexOf(a.what) - kinds.indexOf(b.what));
}

/** What tells an entry from all others, as a route takes it: a path, or `kept` and the time. */
export const keyOf = (e: Entry): string =>
  e.what === 'version' ? e.version.path : e.what === 'kept' ? `kept ${e.at}` : e.save.path;

/** What an entry is called beside others. */
export function nameOf(e: Entry): string {
  if (e.what === 'kept') return `kept ${exactTime(e.at)}`;
  const path = e.what === 'version' ? e.version.path : e.save.path;
  return path.slice(path.lastIndexOf('/') + 1);
}
