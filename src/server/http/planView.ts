// A waiting plan as the review screen shows it.

import { bytesToWrite } from '@/core/changes/plan';
import type { PlanView } from '@/wire/views';
import type { Hub, WaitingPlan } from '../hub';

/** Copies, changes, folders and removals apart, with what it does to the disk. Bytes. */
export async function planView(h: Pick<Hub, 'ask'>, waiting: WaitingPlan): Promise<PlanView> {
  const { plan } = waiting;
  const view: PlanView = {
    id: waiting.id,
    workspace: waiting.workspace,
    root: waiting.root,
    kind: plan.kind,
    title: plan.title,
    undoes: plan.undoes ?? null,
    copies: [],
    writes: [],
    folders: [],
    removes: [],
    moves: [],
    paths: [...plan.paths],
    notes: [...plan.notes],
    readiness: plan.readiness,
    grows: bytesToWrite(plan),
    free: 0,
  };
  for (const s of plan.steps) {
    if (s.do === 'put') {
      view.grows -= s.before?.size ?? 0;
      if (s.before === null && (s.from.from === 'outside' || s.from.from === 'tree'))
        view.copies.push({ from: s.from.path, to: s.path, size: s.size });
      else view.writes.push({ path: s.path, size: s.size, replaces: s.before !== null });
    } else if (s.do === 'make-folder') view.folders.push(s.path);
    else if (s.do === 'move' || s.do === 'move-folder') view.moves.push({ from: s.path, to: s.to });
    else {
      if (s.do === 'remove') view.grows -= s.before.size;
      view.removes.push(s.path);
    }
  }
  view.free = await h.ask('freeBytes', waiting.root);
  return view;
}
