// The rows of the index that come from a scene, and how they are sent to the server: in batches.

import { fullPath } from '@/core/formats/format';
import type { Seen } from '@/core/files/times';
import type { Problem } from '@/core/problem';
import { utf8 } from '@/core/text/bytes';
import { isReady } from '@/core/references/resolve';
import { targetsOf, uncertain, type JudgedReference, type SceneReport } from '@/core/references/scan';
import type { IndexFile, IndexProblem, IndexRow, WorkMessage } from '@/wire/jobs';
import type { OpenWorkspace } from '../workspaces/open';

const mostRows = 1000;

/** The stat of a file inside the root. */
export type StatOf = (path: string) => Seen | null;

/** Size of a reference's target in bytes, of all files of a sequence; null where there is none. */
async function sizeOf(workspace: OpenWorkspace, statOf: StatOf, r: JudgedReference): Promise<number | null> {
  let size: number | null = null;
  for (const path of targetsOf(r)) {
    const stat = r.inside ? statOf(path) : await workspace.outside.stat(path);
    if (stat) size = (size ?? 0) + stat.size;
  }
  return size;
}

/** The rows of one scene. */
export async function rowsOf(
  workspace: OpenWorkspace,
  statOf: StatOf,
  report: SceneReport,
  uses: Map<string, string[]>,
): Promise<IndexRow[]> {
  const rows: IndexRow[] = [];
  for (const [ord, r] of report.references.entries()) {
    rows.push({
      scene: report.path,
      format: report.format,
      ord,
      at: r.at,
      kind: r.kind,
      written: fullPath(r),
      state: r.state,
      target: r.target,
      inside: r.inside,
      ready: isReady(r),
      oddities: r.oddities,
      uses: uses.get(r.at) ?? [r.at],
      size: await sizeOf(workspace, statOf, r),
      targets: r.targets,
      gaps: r.gaps,
    });
  }
  return rows;
}

/** A text as the database can hold it: PostgreSQL knows no NUL, and no half of a pair of surrogates. */
const storable = (text: string) =>
  text.replace(/\0|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g, '\ufffd');

const finite = (n: number) => (Number.isFinite(n) ? n : 0);
const int = (n: number) => Math.max(-(2 ** 31), Math.min(2 ** 31 - 1, Math.trunc(finite(n))));

/** A row as the database can hold it: one that it refused would take the whole table with it. */
const storableRow = (r: IndexRow): IndexRow => ({
  ...r,
  scene: storable(r.scene),
  ord: int(r.ord),
  at: storable(r.at),
  written: storable(r.written),
  target: r.target === null ? null : storable(r.target),
  uses: r.uses.map(storable),
  size: r.size === null || !Number.isFinite(r.size) ? null : r.size,
  targets: int(r.targets),
});
const storableFile = (f: IndexFile): IndexFile => ({
  ...f,
  path: storable(f.path),
  size: finite(f.size),
  modified: finite(f.modified),
  uses: int(f.uses),
});
const storableProblem = (p: IndexProblem): IndexProblem => ({
  ...p,
  scene: storable(p.scene),
  message: storable(p.message),
});

// A key of an index has at most 2704 bytes (PostgreSQL, "B-Tree Indexes"); no system that artists use has paths of that length.
const mostBytes = 2000;
const fits = (path: string) => path.length * 3 <= mostBytes || utf8(path).length <= mostBytes;
const tooLong = (path: string): IndexProblem => ({
  scene: `${path.slice(0, 200)}…`,
  code: 'path-too-long',
  message: `A path of ${path.length} characters is too long for other systems, and is not listed: ${path.slice(0, 120)}…`,
});

/** A scene's problems, but for guesses. */
export const problemsOf = (scene: string, problems: readonly Problem[]): IndexProblem[] =>
  problems.filter((p) => p.code !== uncertain).map((p) => ({ scene, code: p.code, message: p.message }));

/** Sends index entries to the server in batches. */
export class Batches {
  private rows: IndexRow[] = [];
  private problems: IndexProblem[] = [];
  private files: IndexFile[] = [];

  constructor(private readonly say: (message: WorkMessage) => void) {}

  add(rows: readonly IndexRow[], problems: readonly IndexProblem[], files: readonly IndexFile[] = []): void {
    for (const row of rows)
      if (fits(row.scene) && fits(row.at) && fits(row.target ?? '')) this.rows.push(storableRow(row));
      else this.problems.push(storableProblem(tooLong(row.scene)));
    for (const problem of problems) this.problems.push(storableProblem(problem));
    for (const file of files)
      if (fits(file.path)) this.files.push(storableFile(file));
      else this.problems.push(storableProblem(tooLong(file.path)));
    if (this.rows.length + this.files.length >= mostRows) this.flush();
  }

  flush(): void {
    if (this.rows.length + this.problems.length + this.files.length === 0) return;
    this.say({ say: 'rows', rows: this.rows, problems: this.problems, files: this.files });
    [this.rows, this.problems, this.files] = [[], [], []];
  }
}
