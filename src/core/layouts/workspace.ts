// What a workspace knows of itself, and where it is written: `.satchel/workspace.json`, the marker that makes a folder a root.

import type { WorkspaceUnits } from '../units/units';
import type { MachineDescription } from '../places/machine';
import type { NetSettings } from '../versions/net';
import type { Homes } from './homes';

/** The content of the marker file. Format 1. */
export interface WorkspaceFile {
  format: 1;
  name: string;
  /** ISO 8601, UTC. */
  created: string;
  layout: string;
  /** Folders of the layout, so that empty ones can be made again after travelling. */
  folders: string[];
  homes: Homes;
  /** The layout itself, as text, so that it travels with the folder. */
  layoutText?: string | undefined;
  /** Folders in which an empty file stands so that they are not lost. */
  kept?: string[] | undefined;
  /** What it is filed under among other workspaces: 'client', 'teaching'. */
  category?: string | undefined;
  /** ISO time at which work on it ended; it is then out of the way, and nothing else. */
  archived?: string | undefined;
  units?: WorkspaceUnits | undefined;
  /** Patterns of names, see names/patterns.ts. */
  names?:
    { scene?: string | undefined; output?: string | undefined; person?: string | undefined } | undefined;
  /** How versions of scenes are kept; absent: numbered files side by side. */
  versions?: { habit: 'numbered' | 'folder'; pattern?: string | undefined } | undefined;
  /** The net of automatic saves (versions/net.ts); absent: it is off. */
  net?: NetSettings | undefined;
  /** Shared folders outside, by absolute path, known by name. */
  libraries: { name: string; path: string }[];
  /** Path heads that mean the same folder on different machines, and what the machine or drive is like. */
  places: { name: string; heads: string[]; machine?: MachineDescription | undefined }[];
  /** Caches that can be made again, as patterns over paths; absent: all caches are taken for such. */
  remade?: string[] | undefined;
  /** Folders in which USD and MaterialX files look for what is not beside them, in order: inside the root, or absolute. */
  search?: string[] | undefined;
}

/** Bytes of the marker file, as text. */
export function writeWorkspaceFile(file: WorkspaceFile): string {
  return `${JSON.stringify(file, null, 2)}\n`;
}

/** The root that holds `path`, told by markers: asks `hasMarker` for the folder itself, then for each above it; null when none. */
export async function findRoot(
  path: string,
  hasMarker: (folder: string) => Promise<boolean>,
): Promise<string | null> {
  let at = path.replace(/\/+$/, '');
  for (;;) {
    if (await hasMarker(at === '' ? '/' : at)) return at === '' ? '/' : at;
    const slash = at.lastIndexOf('/');
    if (slash < 0 || at === '') return null;
    at = at.slice(0, slash);
    if (/^[A-Za-z]:$/.test(at)) return (await hasMarker(`${at}/`)) ? `${at}/` : null;
  }
}
