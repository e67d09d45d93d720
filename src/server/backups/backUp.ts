// Starts the backup of a workspace as a job, and notes what came of it.

import { bytes, count } from '@/core/text/figures';
import { backupResult, type BackupTarget } from '@/wire/backups';
import type { Hub } from '../hub';
import { noteBackup } from './targets';

type Of = Pick<Hub, 'db' | 'jobs'>;

/** `isQuiet`: by itself, nobody asked for it. */
export function backupTo(
  h: Of,
  workspace: { id: string; root: string; name: string },
  target: Pick<BackupTarget, 'folder' | 'as'>,
  isQuiet = false,
) {
  const { id, root, name } = workspace;
  const { folder, as } = target;
  const job = h.jobs.start({
    order: { work: 'backup', root, folder, as },
    title: `Back up ${name}`,
    workspace: id,
    quiet: isQuiet,
    finish: async (result) => {
      const made = backupResult.parse(result);
      const isWhole = (made.as === 'mirror' ? made.unread.length : made.unread) === 0;
      const files = made.as === 'mirror' ? made.copied + made.same : made.files;
      const added = made.as === 'mirror' ? made.bytes : made.added;
      await noteBackup(h, id, target, {
        time: new Date().toISOString(),
        ok: true,
        message: isWhole ? `${count(files, 'file')}, ${bytes(added)} new` : 'Some files could not be read.',
        files,
        bytes: made.bytes,
        added,
      });
      return made;
    },
  });
  void h.jobs.ended(job.id)?.then(
    async (ended) => {
      if (!ended?.error) return;
      const last = {
        time: new Date().toISOString(),
        ok: false,
        message: ended.error.message,
        files: 0,
        bytes: 0,
        added: 0,
      };
      await noteBackup(h, id, target, last);
    },
    () => undefined,
  );
  return job;
}
