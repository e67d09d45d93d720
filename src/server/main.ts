// Everything the web framework needs of the server, as one file: built by scripts/setup.mjs beside the threads, with which it shares its chunks,
// and loaded by built/load.ts. The framework's bundler never compiles it.

export { application, nothingAt } from './http/app';
export { door, isOpenPage } from './http/door';
export {
  awayPage,
  contentPolicy,
  cookieFor,
  keyOfThisStart,
  ownHeaders,
  wayIn,
  wayInPolicy,
} from './http/guard';
export { startUp } from './startUp';
