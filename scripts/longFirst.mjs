// The order of unit tests: what takes longest begins first, so that no processor waits for it at the end. Jest knows that from its last run; a fresh clone has had none.

import Sequencer from '@jest/test-sequencer';

// Each longer than twenty seconds on two processors, the longest first.
const long = [
  'server/database/embedded',
  'server/studio/queue',
  'cli/cli',
  'server/workspaces/twoProcesses',
  'server/http/uglyNames',
  'server/bags/failing',
  'server/workspaces/failing',
  'core/convert/crate/usdText',
  'server/jobs/jobs',
  'cli/held',
  'server/workspaces/carryNodes',
  'server/workspaces/generated',
].map((name) => `/${name}.test.ts`);

const place = ({ path }) => {
  const at = long.findIndex((name) => path.replaceAll('\\', '/').endsWith(name));
  return at < 0 ? long.length : at;
};

export default class LongFirst extends Sequencer {
  /** The others as Jest has them: what failed last, then what took long, then what is large. */
  sort(tests) {
    return [...super.sort(tests)].sort((a, b) => place(a) - place(b));
  }
}
