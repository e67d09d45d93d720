// The embedded database's thread.

export { default } from '../database/embedded';
