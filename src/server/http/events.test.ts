import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import type { JobView } from '@/wire/jobs';
import { paced } from './events';

const job = (id: string, state: JobView['state']): JobView => ({
  ...{ id, work: 'scan', title: id, workspace: null, who: null, state, ending: false },
  ...{ started: 0, ended: state === 'done' ? 1 : null, progress: null, error: null, result: null },
});

describe('what many windows are told', () => {
  beforeEach(() => void jest.useFakeTimers());
  afterEach(() => void jest.useRealTimers());

  function heard(slow?: () => Promise<void>) {
    const told: string[][] = [];
    const out = paced(async (jobs) => {
      await slow?.();
      told.push(jobs.map((j) => `${j.id} ${j.state}`));
    }, 200);
    return { told, out };
  }

  test('the first goes at once; what follows goes together, each job in its last state, in the order of the last change', async () => {
    const { told, out } = heard();
    out.add(job('a', 'waiting'));
    await jest.advanceTimersByTimeAsync(0);
    expect(told).toEqual([['a waiting']]);
    out.add(job('a', 'running'));
    out.add(job('b', 'running'));
    out.add(job('a', 'done'));
    await jest.advanceTimersByTimeAsync(199);
    expect(told).toHaveLength(1);
    await jest.advanceTimersByTimeAsync(1);
    expect(told[1]).toEqual(['b running', 'a done']);
  });

  test('after a silence the next goes at once again; after an end nothing does', async () => {
    const { told, out } = heard();
    out.add(job('a', 'running'));
    await jest.advanceTimersByTimeAsync(1000);
    out.add(job('a', 'done'));
    await jest.advanceTimersByTimeAsync(0);
    expect(told).toEqual([['a running'], ['a done']]);
    out.add(job('b', 'done'));
    out.stop();
    await jest.advanceTimersByTimeAsync(1000);
    expect(told).toHaveLength(2);
  });

  test('who takes long to be told is told in order', async () => {
    let first = true;
    const { told, out } = heard(async () => {
      const wait = first ? 500 : 0;
      first = false;
      await new Promise((done) => setTimeout(done, wait));
    });
    out.add(job('a', 'running'));
    out.add(job('a', 'done'));
    await jest.advanceTimersByTimeAsync(600);
    expect(told).toEqual([['a running'], ['a done']]);
  });
});
