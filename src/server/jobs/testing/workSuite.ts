// What everything that does work outside the page owes to who asks for it: one's own pool of threads, and the queue of a server for several.

import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { shippedLayouts } from '@/core/layouts/layout';
import type { JobView, WorkOrder } from '@/wire/jobs';
import { planSchema } from '@/wire/plan';
import { placeFile } from '../../disk/listing';
import { createWorkspace } from '../../workspaces/open';
import type { JobRequest, Rights, Work } from '../jobs';

/** Where a suite works: `base`/work is allowed. */
export interface WorkHere {
  work: Work;
  /** What does it, where that is another: a job whose result is still being made something of is not done by anybody. */
  doing?: Work;
  close(): Promise<void>;
}

/** The shared suite; `open` starts one on a fresh folder. */
export function workSuite(open: (base: string, rights: Rights) => Promise<WorkHere>): void {
  let base = '';
  let root = '';
  let here: WorkHere;
  beforeEach(async () => {
    base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-work-')));
    fs.mkdirSync(`${base}/work`);
    here = await open(base, {
      see: () => Promise.resolve([`${base}/work`]),
      mayChange: () => Promise.resolve([`${base}/work`]),
      change: () => Promise.resolve(),
    });
    ({ root } = await make('Harbour'));
  }, 60_000);
  afterEach(async () => {
    await here.close();
    fs.rmSync(base, { recursive: true, force: true });
  });

  const make = (name: string) =>
    createWorkspace({
      parent: `${base}/work`,
      name,
      layout: shippedLayouts.find((l) => l.id === 'game-environment')!,
      without: [],
    });
  const start = (order: WorkOrder, more: Partial<JobRequest> = {}) =>
    here.work.start({ order, title: order.work, workspace: 'w', ...more });
  const ended = async (job: JobView) => (await here.work.ended(job.id))!;
  const planOf = async (request: object) => {
    const job = start({
      ...{ work: 'plan', root, request, seen: [], layout: null, staging: null, neighbours: [], notes: [] },
    } as unknown as WorkOrder);
    return planSchema.parse((await ended(job)).result);
  };
  const applyOrder = (plan: unknown): WorkOrder =>
    ({ work: 'apply', root, plan, records: null }) as unknown as WorkOrder;

  test('work is done, and what is made of its result is what who waits gets', async () => {
    const plain = await ended(start({ work: 'measure', root }));
    expect([plain.state, plain.error, plain.result]).toEqual(['done', null, []]);
    const made = await ended(
      start({ work: 'measure', root }, { finish: (r) => Promise.resolve({ of: (r as unknown[]).length }) }),
    );
    expect(made.result).toEqual({ of: 0 });
    expect(here.work.list().map((j) => [j.work, j.state])).toEqual([
      ['measure', 'done'],
      ['measure', 'done'],
    ]);
  }, 60_000);

  test('who listens hears the end, once; quiet work is nobody’s to hear', async () => {
    const heard: JobView[] = [];
    const leave = here.work.listen((job) => heard.push(job));
    const loud = start({ work: 'measure', root });
    const quiet = start({ work: 'measure', root }, { quiet: true });
    await Promise.all([ended(loud), ended(quiet)]);
    leave();
    expect(heard.filter((j) => j.id === loud.id && j.ended !== null).length).toBe(1);
    expect(heard[0]).toMatchObject({ id: loud.id, state: 'waiting' });
    expect(heard.some((j) => j.id === quiet.id)).toBe(false);
    expect(here.work.list().some((j) => j.id === quiet.id)).toBe(false);
  }, 60_000);

  test('a plan is applied, and its result tells which entry it is', async () => {
    fs.writeFileSync(`${root}/scenes/boat.gltf`, '{"asset":{"version":"2.0"}}');
    const plan = await planOf({ kind: 'save', scenes: ['scenes/boat.gltf'], note: 'first' });
    const done = await ended(start(applyOrder(plan)));
    expect(done.error).toBeNull();
    expect(done.result).toMatchObject({ gone: false });
    expect(fs.readdirSync(`${root}/scenes`).filter((f) => f.startsWith('boat')).length).toBe(2);
    // The same plan again finds other files than it was made for.
    const stale = await ended(start(applyOrder(plan)));
    expect([stale.state, stale.error?.code]).toEqual(['failed', 'stale-plan']);
  }, 60_000);

  test('of one workspace one job at a time; of two workspaces two', async () => {
    const other = (await make('Pier')).root;
    for (const at of [root, other])
      for (let n = 0; n < 300; n++) fs.writeFileSync(`${at}/textures/t${n}.png`, Buffer.alloc(60_000, n));
    const running = new Map<string, number>();
    let most = 0;
    let together = 0;
    const doing = here.doing ?? here.work;
    const leave = doing.listen(() => {
      running.clear();
      for (const j of doing.list())
        if (j.state === 'running' && j.ended === null)
          running.set(j.workspace!, (running.get(j.workspace!) ?? 0) + 1);
      most = Math.max(most, ...running.values());
      together = Math.max(together, running.size);
    });
    const jobs = [root, other, root, other].map((at) =>
      start({ work: 'duplicates', root: at }, { workspace: at }),
    );
    await Promise.all(jobs.map(ended));
    leave();
    expect([most, together]).toEqual([1, 2]);
  }, 60_000);

  test('cancelled before it began, and while it goes on: it ends, and leaves nothing half way', async () => {
    for (let n = 0; n < 400; n++) fs.writeFileSync(`${root}/textures/t${n}.png`, Buffer.alloc(200_000, n));
    const before = fs.readdirSync(root, { recursive: true }).sort();
    const first = start({ work: 'duplicates', root });
    const second = start({ work: 'measure', root });
    expect(here.work.cancel(second.id)).toBe(true);
    expect((await ended(second)).state).toBe('cancelled');
    expect(here.work.cancel(first.id)).toBe(true);
    expect((await ended(first)).state).toBe('cancelled');
    expect(here.work.cancel(first.id)).toBe(false);
    expect(here.work.cancel('none')).toBe(false);
    const packing = start({ work: 'pack', root, to: `${base}/work/out.zip` });
    await new Promise((wait) => setTimeout(wait, 150));
    here.work.cancel(packing.id);
    const view = await ended(packing);
    expect(['cancelled', 'done']).toContain(view.state);
    if (view.state === 'cancelled')
      expect(fs.readdirSync(`${base}/work`).filter((n) => n !== placeFile)).toEqual(['Harbour']);
    expect(fs.readdirSync(root, { recursive: true }).sort()).toEqual(before);
  }, 60_000);

  test('what is wrong is told in words, whatever it was', async () => {
    // What nobody foresaw is also written down where the server says such things.
    const written = jest.spyOn(console, 'error').mockImplementation(() => undefined);
    const gone = await ended(start({ work: 'verify', bag: `${base}/work/none.zip` }, { workspace: null }));
    expect([gone.state, typeof gone.error?.message, gone.result]).toEqual(['failed', 'string', null]);
    const unfinished = await ended(
      start({ work: 'measure', root }, { finish: () => Promise.reject(new Error('what was made of it')) }),
    );
    expect([unfinished.state, unfinished.error?.code]).toEqual(['failed', 'internal']);
    expect(written).toHaveBeenCalled();
    written.mockRestore();
  }, 60_000);

  test('who asked is named, and the journal says it', async () => {
    fs.writeFileSync(`${root}/scenes/boat.gltf`, '{"asset":{"version":"2.0"}}');
    const plan = await planOf({ kind: 'save', scenes: ['scenes/boat.gltf'], note: '' });
    const cem = here.work.as({ id: 'c', name: 'Cem', role: 'change' });
    const job = cem.start({ order: applyOrder(plan), title: 'Save', workspace: 'w' });
    expect(job.who).toBe('Cem');
    // Somebody else’s work is ended by who manages, and nobody else.
    expect(() => here.work.as({ id: 'l', name: 'Lena', role: 'change' }).cancel(job.id)).toThrow(
      'Only who started',
    );
    expect((await ended(job)).error).toBeNull();
    const journals = fs.readdirSync(`${root}/.satchel/journal`).filter((f) => f.endsWith('.json'));
    const by = journals.map(
      (f) => (JSON.parse(fs.readFileSync(`${root}/.satchel/journal/${f}`, 'utf8')) as { by?: string }).by,
    );
    expect(by).toContain('Cem');
  }, 60_000);

  test('a workspace that is away is waited for, and holds up nothing else', async () => {
    const other = (await make('Pier')).root;
    fs.renameSync(root, `${root}-away`);
    const waits = start({ work: 'measure', root }, { workspace: 'away' });
    const done = await ended(start({ work: 'measure', root: other }, { workspace: 'other' }));
    expect(done.state).toBe('done');
    const until = Date.now() + 20_000;
    const view = () => here.work.list().find((j) => j.id === waits.id)!;
    while (view().progress?.path !== `waits for ${root}` && Date.now() < until)
      await new Promise((wait) => setTimeout(wait, 50));
    expect([view().state, view().progress?.path]).toEqual(['waiting', `waits for ${root}`]);
    fs.renameSync(`${root}-away`, root);
    expect((await ended(waits)).state).toBe('done');
  }, 60_000);
}
