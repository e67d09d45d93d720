// What lies in a collected folder, why, and what does not: the report as data, and as a table.

import { folderOf, insideOf, nameOf } from '../files/treePath';
import type { Closure, LeftOut, Need, NeededFile } from './closure';
import type { Placement } from './placement';
import type { Says } from './says';

/** Why something is needed: the scene in the folder, the place in it, what is written there now. */
export interface ReportNeed {
  scene: string;
  at: string;
}

export interface ReportFile {
  /** Where it lies in the folder. */
  path: string;
  size: number;
  /** BLAKE3, 64 hexadecimal digits; null where it was not worked out. */
  blake3: string | null;
  kind: string;
  /** It was asked for itself, not only needed. */
  chosen: boolean;
  /** Where it came from: below the root of its workspace, in a library, or its name alone. */
  was: string;
  neededBy: ReportNeed[];
  /** Of pictures: programs that wrote them, and names of typefaces in their texts. */
  programs: string[];
  fonts: string[];
}

export interface Report {
  format: 1;
  /** What was collected, in words. */
  name: string;
  /** ISO 8601, UTC. */
  made: string;
  files: ReportFile[];
  /** What is needed and is not here. */
  left: { why: LeftOut['why']; what: string; files: number; size: number; neededBy: ReportNeed[] }[];
  /** What the scenes say of themselves. */
  scenes: ({ path: string; format: string } & Says)[];
}

/** The names of the report's files, at the top of the folder. */
export const reportNames = {
  page: 'what is in here.html',
  data: 'what is in here.json',
  table: 'what is in here.csv',
} as const;

/** Puts the report together, but for checksums and what pictures say. `root`: of the workspace that was collected from. */
export function reportOf(request: {
  root: string;
  name: string;
  made: string;
  closure: Closure;
  placement: Placement;
}): Report {
  const { root, closure, placement } = request;
  const needs = (all: readonly Need[]): ReportNeed[] => {
    const seen = new Map<string, ReportNeed>();
    for (const n of all) {
      const scene = placement.files.get(n.scene)?.to ?? nameOf(n.scene);
      seen.set(`${scene}\n${n.at}`, { scene, at: n.at });
    }
    return [...seen.values()];
  };
  return {
    format: 1,
    name: request.name,
    made: request.made,
    files: [...closure.files.values()]
      .map((file): ReportFile => {
        const { to } = placement.files.get(file.from)!;
        return {
          path: to,
          size: file.state.size,
          blake3: null,
          kind: file.kind,
          chosen: file.chosen,
          was: wasAt(root, file),
          neededBy: needs(file.neededBy),
          programs: [],
          fonts: [],
        };
      })
      .sort((a, b) => (a.path < b.path ? -1 : 1)),
    left: closure.left.map((l) => ({
      why: l.why,
      // What lies outside is told by its name alone: a path of this machine says nothing elsewhere.
      what: l.path === null ? l.neededBy[0]!.written : (insideOf(root, l.path) ?? `…/${nameOf(l.path)}`),
      files: l.files,
      size: l.size,
      neededBy: needs(l.neededBy),
    })),
    scenes: [...closure.files.values()]
      .flatMap((f) => (f.says ? [{ path: placement.files.get(f.from)!.to as string, ...f.says }] : []))
      .sort((a, b) => (a.path < b.path ? -1 : 1)),
  };
}

function wasAt(root: string, { from, lies }: NeededFile): string {
  if (lies.in === 'root') return insideOf(root, from) ?? nameOf(from);
  return lies.in === 'library' ? `library ${lies.name}: ${nameOf(from)}` : `outside: ${nameOf(from)}`;
}

/** The files as a table (RFC 4180): one line each, with a head. A cell that a table program would take for a formula begins with an apostrophe. */
export function reportTable(report: Report): string {
  const cell = (value: string | number) => {
    const text = String(value);
    const safe = typeof value === 'string' && /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
    return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
  };
  const rows = [
    ['here', 'path', 'kind', 'bytes', 'blake3', 'came from', 'needed by'],
    ...report.files.map((f) => [
      'yes',
      f.path,
      f.kind,
      f.size,
      f.blake3 ?? '',
      f.was,
      scenesIn(f.neededBy).join('; '),
    ]),
    ...report.left.map((l) => [l.why, l.what, '', l.size, '', '', scenesIn(l.neededBy).join('; ')]),
  ];
  return rows.map((row) => `${row.map(cell).join(',')}\r\n`).join('');
}

/** The scenes among needs, each once. */
export const scenesIn = (needs: readonly ReportNeed[]): string[] => [...new Set(needs.map((n) => n.scene))];

/** Files by folder, folders in order. */
export function byFolder(files: readonly ReportFile[]): [folder: string, files: ReportFile[]][] {
  const folders = new Map<string, ReportFile[]>();
  for (const file of files) {
    const folder = folderOf(file.path);
    const known = folders.get(folder);
    if (known) known.push(file);
    else folders.set(folder, [file]);
  }
  return [...folders].sort(([a], [b]) => (a < b ? -1 : 1));
}
