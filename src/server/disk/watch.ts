// Tells when something below a folder has changed and has been quiet for a moment: programs write a scene in several steps, and a file
// that is half there is not worth reading. Where the system watches whole trees (Windows, macOS) one watch does it; on Linux each folder
// has its own, made anew as folders come and go.

import { ownFolder } from '@/core/files/records';
import fs from 'node:fs';
import path from 'node:path';

import { temporaryMark } from './listing';
import { toSystem, watchesTrees } from './system';

const quiet = 700; // ms without a further change; like `longest` below: common practice, no source
const mostFolders = 4000;

/** Watches until `close` is called. `changed` is told when the last change was heard of (ms since 1970). Folders that cannot be watched are left out, and `blind` is called: a look now and then finds what happens there. */
export function watchFolder(
  root: string,
  changed: (heard: number) => void,
  blind: () => void = () => undefined,
  /** Told after so long (ms) all the same: a simulation writes for hours. */
  longest = 10_000,
): { close(): void } {
  const top = toSystem(root);
  const watchers = new Map<string, fs.FSWatcher>();
  let timer: NodeJS.Timeout | null = null;
  let closed = false;
  let first: number | null = null;
  const later = () => {
    const last = Date.now();
    first ??= last;
    if (timer) clearTimeout(timer);
    timer = setTimeout(tell, Math.max(0, Math.min(quiet, first + longest - last)));
    timer.unref();
    function tell() {
      timer = null;
      first = null;
      if (closed) return;
      if (!watchesTrees()) watchBelow(top);
      changed(last);
    }
  };
  const heard = (folder: string, name: string | null) => {
    const at = path.relative(top, name === null ? folder : path.join(folder, name));
    if (at === ownFolder || at.startsWith(ownFolder + path.sep) || at.includes(temporaryMark)) return;
    later();
  };
  const watch = (folder: string) => {
    if (watchers.has(folder)) return;
    if (watchers.size >= mostFolders) return blind();
    try {
      const watcher = fs.watch(folder, { persistent: false, recursive: watchesTrees() }, (_, name) =>
        heard(folder, name),
      );
      const drop = () => {
        watcher.close();
        watchers.delete(folder);
      };
      watcher.on('error', drop);
      watchers.set(folder, watcher);
    } catch (cause) {
      // The folder may just have gone; else there are too many watches on this machine, or its file system has none.
      if ((cause as NodeJS.ErrnoException).code !== 'ENOENT') blind();
    }
  };
  function watchBelow(folder: string): void {
    for (const [held, watcher] of watchers)
      if (!fs.existsSync(held)) {
        watcher.close();
        watchers.delete(held);
      }
    const waiting = [folder];
    while (waiting.length > 0 && watchers.size < mostFolders) {
      const at = waiting.pop()!;
      watch(at);
      try {
        for (const e of fs.readdirSync(at, { withFileTypes: true }))
          if (e.isDirectory() && !(at === top && e.name === ownFolder)) waiting.push(path.join(at, e.name));
      } catch {
        // Gone since it was listed.
      }
    }
  }
  if (watchesTrees()) watch(top);
  else watchBelow(top);
  return {
    close() {
      closed = true;
      if (timer) clearTimeout(timer);
      for (const watcher of watchers.values()) watcher.close();
      watchers.clear();
    },
  };
}
