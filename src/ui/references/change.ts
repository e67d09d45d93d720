// A change of many written paths, worked out step by step: what they are now, what they would be, and every state on the way.

import { readReferencesOf, readRows } from '@/wire/routes/references';
import { useMemo } from 'react';
import { z } from 'zod';
import { commonHead, patternOf, replaceText } from '@/core/references/heads';
import { fromKey } from '@/core/references/key';
import type { ReferenceView } from '@/wire/views';
import { call } from '../kit/api';
import { useKept } from '../kit/kept';

const pageSize = 1000;
const mostRows = 20_000;

/** The chosen rows; none chosen, all of a filter. */
export async function rowsOf(
  id: string,
  filter: Record<string, string>,
  chosen: ReadonlySet<string>,
): Promise<ReferenceView[]> {
  if (chosen.size > 0)
    return call(
      readReferencesOf,
      { id },
      {
        keys: [...chosen].map((k) => {
          const { scene, at } = fromKey(k);
          return { scene, at };
        }),
      },
    );
  const rows: ReferenceView[] = [];
  for (let offset = 0; offset < mostRows; offset += pageSize) {
    const page = await call(readRows, { id }, { ...filter, offset, limit: pageSize });
    rows.push(...page);
    if (page.length < pageSize) break;
  }
  return rows;
}

/** What is typed and not kept as a step yet. `headParts`: how many parts of the common head go; null: all of them. */
const draft = z.object({
  way: z.enum(['head', 'text']),
  headParts: z.number().nullable(),
  newHead: z.string(),
  find: z.string(),
  replace: z.string(),
  isPattern: z.boolean(),
});
export type Draft = z.output<typeof draft>;
const empty: Draft = { way: 'head', headParts: null, newHead: '', find: '', replace: '', isPattern: false };

/** Written paths, in the order of the rows. */
const kept = z.object({
  steps: z.array(z.object({ title: z.string(), written: z.array(z.string()) })),
  at: z.number(),
});

/** One path by what is typed. */
function changedPath(w: string, d: Draft, oldHead: string): string {
  if (d.way === 'text')
    return d.find === ''
      ? w
      : (replaceText(w, { find: d.find, replace: d.replace, pattern: d.isPattern }) ?? w);
  const isUntouched = d.newHead === '' && (oldHead === '' || d.headParts === null);
  return isUntouched ? w : d.newHead + w.slice(oldHead.length);
}

const said = (text: string) => text || 'nothing';

export function useChange(rows: readonly ReferenceView[]) {
  const [typed, setTyped] = useKept('change typed', draft, empty);
  const [{ steps, at }, setSteps] = useKept('change steps', kept, { steps: [], at: 0 });
  const asIs = useMemo(() => rows.map((r) => r.written), [rows]);
  // Steps of other rows, from a visit before, are none of these.
  const own = useMemo(() => steps.filter((s) => s.written.length === rows.length), [steps, rows]);
  const states = useMemo(() => [{ title: 'As it is', written: asIs }, ...own], [asIs, own]);
  const now = Math.min(at, states.length - 1);
  const before = states[now]!.written;
  const head = useMemo(() => commonHead(before), [before]);
  const cut = Math.min(typed.headParts ?? head.length, head.length);
  const oldHead = head.slice(0, cut).join('');
  const after = useMemo(() => before.map((w) => changedPath(w, typed, oldHead)), [before, typed, oldHead]);
  const changed = useMemo(
    () => rows.map((r, i) => ({ r, written: after[i]! })).filter(({ r, written }) => written !== r.written),
    [rows, after],
  );
  const go = (to: number) => {
    setSteps({ steps: own, at: to });
    setTyped({ ...empty, way: typed.way, isPattern: typed.isPattern });
  };
  const keepAs = (title: string, written: readonly string[]) => {
    setSteps({ steps: [...own.slice(0, now), { title, written: [...written] }], at: now + 1 });
    setTyped({ ...empty, way: typed.way, isPattern: typed.isPattern });
  };
  return {
    typed,
    type: (more: Partial<Draft>) => setTyped({ ...typed, ...more }),
    states,
    at: now,
    go,
    head,
    /** How many parts of the head go. */
    cut,
    before,
    after,
    /** Rows whose path would be another than it is on the disk. */
    changed,
    isTyped: after.some((w, i) => w !== before[i]),
    wrong:
      typed.way === 'text' && typed.isPattern && typed.find !== '' && patternOf(typed.find) === null
        ? 'This pattern cannot be read.'
        : undefined,
    keepAs,
    /** What is typed becomes a step. */
    keep: () =>
      keepAs(
        typed.way === 'head'
          ? `${said(oldHead)} → ${said(typed.newHead)}`
          : `${typed.find} → ${said(typed.replace)}`,
        after,
      ),
    /** Forgets all of it. */
    drop: () => {
      setSteps(undefined);
      setTyped(undefined);
    },
  };
}
export type Change = ReturnType<typeof useChange>;
