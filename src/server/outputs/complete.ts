// Whether outputs are complete: every file that a list of passes expects, looked at.

import type { CancelSignal } from '@/core/files/fileTree';
import { treePath } from '@/core/files/treePath';
import { expectedRows, type FrameRange, type PassList, type PassRow } from '@/core/outputs/passes';
import { isWholePicture } from '@/core/outputs/whole';
import type { OpenWorkspace } from '../workspaces/open';
import { factsOf } from '../facts/facts';

/** What is wrong with an output. */
export type Trouble = 'missing' | 'empty' | 'truncated' | 'size' | 'depth' | 'older' | 'unreadable';

export interface RowReport {
  scene: string;
  camera: string;
  pass: string;
  frames: FrameRange;
  expected: number;
  /** Frames in trouble, by what it is. */
  troubles: Partial<Record<Trouble, number[]>>;
  /** Frames in a format that cannot be checked for being cut off. */
  unchecked: number[];
  /** What its pictures are, most of them; null: nobody can tell. */
  width: number | null;
  height: number | null;
  bits: number | null;
}

export interface CompleteReport {
  rows: RowReport[];
  expected: number;
  /** Files without any trouble. */
  whole: number;
  /** Files of these that could not be checked for being cut off. */
  unchecked: number;
}

interface Looked {
  frame: number;
  trouble: Trouble | null;
  isUnchecked: boolean;
  width: number | undefined;
  height: number | undefined;
  bits: number | undefined;
}

/** Looks at every file that a list expects. */
export async function complete(
  workspace: OpenWorkspace,
  list: PassList,
  options: {
    signal?: CancelSignal | undefined;
    onRow?: ((done: number, of: number, row: string) => void) | undefined;
  } = {},
): Promise<CompleteReport> {
  const rows = expectedRows(list);
  const reports: RowReport[] = [];
  for (const [n, row] of rows.entries()) {
    options.onRow?.(n + 1, rows.length, [row.scene, row.camera, row.pass].filter(Boolean).join(' '));
    reports.push(await lookAtRow(workspace, list, row, options.signal));
  }
  const expected = reports.reduce((sum, r) => sum + r.expected, 0);
  const troubled = reports.reduce((sum, r) => sum + new Set(Object.values(r.troubles).flat()).size, 0);
  const unchecked = reports.reduce((sum, r) => sum + r.unchecked.length, 0);
  return { rows: reports, expected, whole: expected - troubled, unchecked };
}

async function lookAtRow(
  workspace: OpenWorkspace,
  list: PassList,
  row: PassRow,
  signal: CancelSignal | undefined,
): Promise<RowReport> {
  const scene = row.from === null ? null : await workspace.tree.stat(treePath(row.from)).catch(() => null);
  const looked: Looked[] = [];
  for (const { frame, path } of row.frames) {
    signal?.throwIfAborted();
    looked.push({ frame, ...(await lookAtFile(workspace, path, scene?.modified ?? null)) });
  }
  const usual = (key: 'width' | 'height' | 'bits') => list[key] ?? most(looked.map((l) => l[key]));
  const [width, height, bits] = [usual('width'), usual('height'), usual('bits')];
  const troubles: RowReport['troubles'] = {};
  const add = (trouble: Trouble, frame: number) => (troubles[trouble] ??= []).push(frame);
  for (const l of looked) {
    if (l.trouble) add(l.trouble, l.frame);
    if (l.trouble !== null && l.trouble !== 'older') continue;
    if (differs(l.width, width) || differs(l.height, height)) add('size', l.frame);
    else if (differs(l.bits, bits)) add('depth', l.frame);
  }
  return {
    scene: row.scene,
    camera: row.camera,
    pass: row.pass,
    frames: rangeOf(row),
    expected: row.frames.length,
    troubles,
    unchecked: looked.flatMap((l) => (l.isUnchecked && l.trouble === null ? [l.frame] : [])),
    width: width ?? null,
    height: height ?? null,
    bits: bits ?? null,
  };
}

function rangeOf({ frames }: PassRow): FrameRange {
  const [first, second] = frames.map((f) => f.frame) as [number, number | undefined];
  return { first, last: frames.at(-1)!.frame, step: second === undefined ? 1 : second - first };
}

const differs = (is: number | undefined, wanted: number | undefined) =>
  is !== undefined && wanted !== undefined && is !== wanted;

/** The value that stands most often; of several the first. */
function most(values: readonly (number | undefined)[]): number | undefined {
  const counts = new Map<number, number>();
  for (const v of values) if (v !== undefined) counts.set(v, (counts.get(v) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0];
}

async function lookAtFile(
  { root, tree }: OpenWorkspace,
  path: string,
  sceneTime: number | null,
): Promise<Omit<Looked, 'frame'>> {
  const none = { isUnchecked: false, width: undefined, height: undefined, bits: undefined };
  try {
    const at = treePath(path);
    const stat = await tree.stat(at);
    if (!stat) return { trouble: 'missing', ...none };
    if (stat.size === 0) return { trouble: 'empty', ...none };
    const facts = await factsOf(`${root === '/' ? '' : root}/${path}`).catch(() => null);
    const whole = facts
      ? await isWholePicture(facts.format, stat.size, (range) => tree.read(at, range))
      : null;
    const trouble =
      whole === false ? 'truncated' : sceneTime !== null && stat.modified < sceneTime ? 'older' : null;
    return {
      trouble,
      isUnchecked: whole === null,
      width: facts?.width,
      height: facts?.height,
      bits: facts?.bits,
    };
  } catch {
    return { trouble: 'unreadable', ...none };
  }
}
