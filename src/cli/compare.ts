// compare: settings of two workspaces or scenes side by side, and what differs in two scenes or versions of one.

import fs from 'node:fs';
import type { Difference } from '@/core/compare/things';
import { insideOf } from '@/core/files/treePath';
import { bytes } from '@/core/text/figures';
import { toSystem } from '@/server/disk/system';
import { besideEachOther, type Beside, type BesideSide } from '@/server/workspaces/beside';
import { compareSides } from '@/server/workspaces/compare';
import { absolute, table, type Answer, type Verb } from './call';
import { inRoot, workspaceAround, workspaceOf } from './where';

export const compareVerbs: Record<string, Verb> = {
  compare: {
    schema: async () => (await import('@/wire/results')).compareResult,
    async run(call) {
      const [a, b] = call.words as [string, string];
      const around = await workspaceAround(a);
      const isState = (word: string) => insideOf(around.root, absolute(word)) !== null && !isFolder(word);
      if (isState(a) && isState(b)) return states(a, b);
      const found = await besideEachOther(await sideOf(a), await sideOf(b));
      return {
        json: found,
        text: () => [...settingLines(found), ...differenceLines(found.differences ?? [])].join('\n'),
        findings: false,
      };
    },
  },
};

const isFolder = (word: string) => {
  const at = toSystem(absolute(word));
  return fs.existsSync(at) && fs.statSync(at).isDirectory();
};

async function sideOf(word: string): Promise<BesideSide> {
  const workspace = await workspaceOf(word);
  return { workspace, scene: isFolder(word) ? null : inRoot(workspace, word) };
}

/** Two scenes of one root, or versions, which may lie in the store. */
async function states(a: string, b: string): Promise<Answer> {
  const workspace = await workspaceAround(a);
  const [x, y] = [inRoot(workspace, a), inRoot(workspace, b)];
  const found = await compareSides(workspace, { path: x }, { path: y });
  const isThere = (await workspace.tree.kind(x)) === 'file' && (await workspace.tree.kind(y)) === 'file';
  // What is kept in the store alone has no settings of its own to take over.
  const beside: Beside = isThere
    ? await besideEachOther({ workspace, scene: x }, { workspace, scene: y })
    : { names: [x, y], rows: [], differences: null };
  return {
    json: { ...beside, root: workspace.root, ...found },
    text: () =>
      [
        `${x} ${bytes(found.sides[0].size)} → ${y} ${bytes(found.sides[1].size)}; ${bytes(found.sides[1].size - found.shared)} are new.`,
        ...(found.looked
          ? []
          : ['This format is not looked into: references, units and bytes are what can be told.']),
        ...settingLines(beside),
        ...(found.differences.length > 0
          ? differenceLines(found.differences)
          : found.looked
            ? ['Both say the same.']
            : []),
      ].join('\n'),
    findings: false,
  };
}

function settingLines({ names, rows }: Beside): string[] {
  const differing = rows.filter((r) => r.differs);
  if (differing.length === 0) return [];
  return [table([['', ...names], ...differing.map((r) => [r.name, r.a ?? '–', r.b ?? '–'])])];
}

const signs = { added: '+', removed: '-', renamed: '>', changed: '~' };

const differenceLines = (all: readonly Difference[]): string[] =>
  all.flatMap((d) => [
    `${signs[d.what]} ${d.kind} ${d.was === undefined ? '' : `${d.was} → `}${d.name}`,
    ...d.changes.map((c) => `    ${c.fact}: ${c.before ?? '–'} → ${c.after ?? '–'}`),
  ]);
