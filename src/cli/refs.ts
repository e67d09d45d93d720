// What `refs` answers: reports as one JSON document, made scene by scene so that no large workspace is held whole.

import { isReady } from '@/core/references/resolve';
import { uncertain, type SceneReport } from '@/core/references/scan';

export interface RefsSummary {
  scenes: number;
  references: number;
  byState: Record<string, number>;
  problems: number;
}

/** A list as an asynchronous one. */
export async function* inTurn<T>(items: Iterable<T>): AsyncIterable<T> {
  yield* items;
}

// Text is handed on in parts of about this size.
const partLength = 256 * 1024;

/** Counts over the scenes of a document, and whether anything needs attention. */
export class RefsCount {
  readonly summary: RefsSummary = { scenes: 0, references: 0, byState: {}, problems: 0 };
  findings = false;

  /** Folders that may not be read: what lies in them is not known. */
  addUnread(folders: number): void {
    this.summary.problems += folders;
    this.findings ||= folders > 0;
  }

  add(report: SceneReport): void {
    const { summary } = this;
    summary.scenes++;
    summary.references += report.references.length;
    summary.problems += report.problems.length;
    for (const r of report.references) summary.byState[r.state] = (summary.byState[r.state] ?? 0) + 1;
    this.findings ||=
      report.problems.some((p) => p.code !== uncertain) || report.references.some((r) => !isReady(r));
  }
}

const odd = /["\\\u0000-\u001f\ud800-\udfff]/;

/** A text as JSON. Most have nothing to escape, and are quicker to look through than to take apart. */
function quoted(text: string): string {
  return odd.test(text) ? JSON.stringify(text) : `"${text}"`;
}

function sceneText(report: SceneReport): string {
  let refs = '';
  for (const r of report.references) {
    refs += `${refs === '' ? '' : ','}{"written":${quoted(r.written)},"at":${quoted(r.at)},"kind":"${r.kind}","span":${r.span ? `[${r.span[0]},${r.span[1]}]` : 'null'},"state":"${r.state}","target":${r.target === null ? 'null' : quoted(r.target)},"targets":${r.targets},"gaps":[${r.gaps.length === 0 ? '' : r.gaps.join()}]}`;
  }
  const problems = report.problems.map(({ code, message, span }) => ({
    code,
    message,
    ...(span ? { span } : {}),
  }));
  return `{"path":${quoted(report.path)},"format":"${report.format}","references":[${refs}],"problems":${JSON.stringify(problems)}}`;
}

/** The document's JSON text, scene by scene as it is asked for, so that no large workspace is held whole. */
export async function* refsText(
  root: string,
  reports: AsyncIterable<SceneReport>,
  count: RefsCount,
): AsyncIterable<string> {
  let part = `{"root":${JSON.stringify(root)},"scenes":[`;
  let next = '\n';
  for await (const report of reports) {
    count.add(report);
    part += next + sceneText(report);
    next = ',\n';
    if (part.length < partLength) continue;
    yield part;
    part = '';
  }
  yield `${part}\n],"summary":${JSON.stringify(count.summary)}}`;
}
