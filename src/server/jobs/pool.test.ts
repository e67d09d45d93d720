// One's own pool of threads, by the suite that all work owes (testing/workSuite.ts). What is its alone: jobs.test.ts.

import { describe } from '@jest/globals';
import { Jobs } from './jobs';
import { workSuite } from './testing/workSuite';

describe('the pool of one machine', () =>
  workSuite((base, rights) => {
    const jobs = new Jobs(`${base}/parts`, rights);
    return Promise.resolve({ work: jobs, close: () => jobs.close() });
  }));
