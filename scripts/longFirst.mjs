// The order of unit tests: what takes longest begins first, so that no processor waits for it at the end. Jest knows that from its last run; a fresh clone has had none.

import Sequencer from '@jest/test-sequencer';

// Each of the deep runs takes more than twenty seconds on two processors; the longest first.
const long = [
  'server/workspaces/twoProcesses.deep',
  'server/database/embedded',
  'server/http/uglyNames.deep',
  'server/studio/queue',
  'cli/cli',
  'server/bags/failing',
  'server/workspaces/failing',
  'core/convert/crate/usdText.deep',
  'server/jobs/jobs',
  'cli/held.deep',
  'server/workspaces/carryNodes.deep',
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
