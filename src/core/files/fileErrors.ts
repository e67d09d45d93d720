// What a system's error number means to a user: errno → AppError, in one place. Names of errors: POSIX.1-2017 <errno.h>.

import { AppError, type ErrorCode } from '../errors';

const meanings: Record<string, { code: ErrorCode; says: (path: string) => string }> = {
  ENOENT: { code: 'not-found', says: (p) => `${p} is not there.` },
  ENOTDIR: { code: 'not-found', says: (p) => `${p} is not there.` },
  EEXIST: { code: 'exists', says: (p) => `${p} is already there.` },
  ENOTEMPTY: { code: 'exists', says: (p) => `${p} is not empty.` },
  EISDIR: { code: 'exists', says: (p) => `${p} is a folder.` },
  EACCES: { code: 'no-access', says: (p) => `${p} may not be read or written.` },
  EPERM: { code: 'no-access', says: (p) => `${p} may not be read or written.` },
  EROFS: { code: 'no-access', says: (p) => `${p} lies on a drive that can only be read.` },
  EBUSY: { code: 'no-access', says: (p) => `${p} is held by another program.` },
  ETXTBSY: { code: 'no-access', says: (p) => `${p} is held by another program.` },
  ELOOP: { code: 'no-access', says: (p) => `${p} is a link, or leads round in circles.` },
  ENOSPC: { code: 'disk-full', says: (p) => `The drive is full; ${p} could not be written.` },
  EDQUOT: { code: 'disk-full', says: (p) => `Your share of the drive is full; ${p} could not be written.` },
  EFBIG: { code: 'disk-full', says: (p) => `${p} is larger than a file on that drive can be.` },
  ENAMETOOLONG: { code: 'bad-name', says: (p) => `The name or path ${p} is too long for the drive.` },
  EILSEQ: { code: 'bad-name', says: (p) => `The drive does not take the name ${p}.` },
  EIO: { code: 'disk-error', says: (p) => `The drive failed at ${p}.` },
  ENXIO: { code: 'disk-error', says: (p) => `The drive of ${p} is gone.` },
  ENODEV: { code: 'disk-error', says: (p) => `The drive of ${p} is gone.` },
  ESTALE: { code: 'disk-error', says: (p) => `The share of ${p} was lost.` },
  EMFILE: { code: 'disk-error', says: (p) => `Too many files are open; ${p} could not be.` },
  ENFILE: { code: 'disk-error', says: (p) => `Too many files are open; ${p} could not be.` },
};

/** The error number's name, null where the cause is none of the system's. */
export function errnoOf(cause: unknown): string | null {
  const code = (cause as { code?: unknown } | null)?.code;
  return typeof code === 'string' && /^E[A-Z0-9]+$/.test(code) ? code : null;
}

/** True where nothing is at the path; no failure of the disk. */
export function isAbsence(cause: unknown): boolean {
  const code = errnoOf(cause);
  return code === 'ENOENT' || code === 'ENOTDIR';
}

/** A system's error as an AppError about `path`; anything else comes back as it is. */
export function fileError(path: string, cause: unknown): unknown {
  const code = errnoOf(cause);
  if (code === null) return cause;
  const meaning = meanings[code];
  return meaning
    ? new AppError(meaning.code, meaning.says(path))
    : new AppError('disk-error', `The drive failed at ${path} (${code}).`);
}
