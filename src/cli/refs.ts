// What `refs` answers: reports as one JSON document, made scene by scene so that no large workspace is held whole.

import type { Problem } from '@/core/problem';
import { isReady } from '@/core/references/resolve';
import { uncertain, type SceneReport } from '@/core/references/scan';

/** One scene as `refs` prints it. */
export interface RefsScene {
  path: string;
  format: string;
  references: Pick<SceneReport['references'][number], 'written' | 'at' | 'kind' | 'span' | 'state' | 'target' | 'targets' | 'gaps'>[];
  problems: Pick<Problem, 'code' | 'message' | 'span'>[];
}

/** The whole document. */
export interface RefsDocument {
  root: string;
  scenes: RefsScene[];
  summary: { scenes: number; references: number; byState: Record<string, number>; problems: number };
}

/** A list as an asynchronous one. */
export async function* inTurn<T>(items: Iterable<T>): AsyncIterable<T> {
  yield* items;
}

function sceneOf(report: SceneReport): RefsScene {
  return {
    path: report.path, format: report.format,
    references: report.references.map((r) => ({ written: r.written, at: r.at, kind: r.kind, span: r.span, state: r.state, target: r.target, targets: r.targets, gaps: r.gaps })),
    problems: report.problems.map(({ code, message, span }) => ({ code, message, ...(span ? { span } : {}) })),
  };
}

// Text is handed on in parts of about this size.
const partLength = 256 * 1024;

/** Counts over the scenes of a document, and whether anything needs attention. */
export class RefsCount {
  readonly summary: RefsDocument['summary'] = { scenes: 0, references: 0, byState: {}, problems: 0 };
  findings = false;

  add(report: SceneReport): void {
    const { summary } = this;
    summary.scenes++;
    summary.references += report.references.length;
    summary.problems += report.problems.length;
    for (const r of report.references) summary.byState[r.state] = (summary.byState[r.state] ?? 0) + 1;
    this.findings ||= report.problems.some((p) => p.code !== uncertain) || report.references.some((r) => !isReady(r));
  }
}

/** The whole document, for people's eyes. */
export async function refsDocument(root: string, reports: AsyncIterable<SceneReport>, count: RefsCount): Promise<RefsDocument> {
  const scenes: RefsScene[] = [];
  for await (const report of reports) {
    count.add(report);
    scenes.push(sceneOf(report));
  }
  return { root, scenes, summary: count.summary };
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
  return `{"path":${quoted(report.path)},"format":"${report.format}","references":[${refs}],"problems":${report.problems.length === 0 ? '[]' : JSON.stringify(sceneOf(report).problems)}}`;
}

/** The document's JSON text, scene by scene as it is asked for, so that no large workspace is held whole. */
export async function* refsText(root: string, reports: AsyncIterable<SceneReport>, count: RefsCount): AsyncIterable<string> {
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
