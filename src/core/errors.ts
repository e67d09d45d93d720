// The table of errors that stop an operation: code, HTTP status, what to tell the user. Each says what happened, what was
// left unchanged, and what to do next. Findings about files are Problems (problem.ts), not errors.

/** code → HTTP status and the default sentence about what to do next. */
export const errorTable = {
  'bad-request': { status: 400, next: 'Check what was given and try again.' },
  'not-found': { status: 404, next: 'Check the path; it may have been moved or renamed.' },
  offline: { status: 409, next: 'Connect the drive or share; work that waits for it goes on by itself.' },
  'not-a-workspace': { status: 404, next: 'Pick a folder that is a workspace, or create one there.' },
  'inside-workspace': { status: 409, next: 'Choose a folder outside that workspace, or work in that one.' },
  exists: { status: 409, next: 'Choose another name or another folder.' },
  'not-empty': { status: 409, next: 'Choose a new or an empty folder.' },
  'may-be-a-copy': {
    status: 409,
    next: 'If both are the same work, confirm that (command line: --same-work). Otherwise choose a new or an empty folder.',
  },
  'bad-name': { status: 422, next: 'Change the name; it must be legal on Windows, macOS and Linux.' },
  'bad-layout': { status: 422, next: 'Correct the line that is named and try again.' },
  'too-wide': { status: 409, next: 'Allow the folder in which your work lies, or this one all the same.' },
  'not-allowed': { status: 403, next: 'Allow the folder under Workspaces → Places first.' },
  'stale-plan': { status: 409, next: 'Make the plan again: it will start from the files as they are now.' },
  'plan-gone': { status: 404, next: 'Make it anew: it will start from the files as they are now.' },
  'blocked-plan': { status: 409, next: 'Resolve what blocks the plan, then make it again.' },
  'lock-lost': {
    status: 423,
    next: 'Look in the ledger whether the change is there; if not, apply it again.',
  },
  busy: { status: 423, next: 'Wait until the other work on this workspace is done, or cancel it.' },
  cancelled: { status: 499, next: 'Start it again when you like.' },
  'apply-failed': { status: 500, next: 'Look at the cause; then make the plan again.' },
  'undo-conflict': { status: 409, next: 'Undo the later change first, or put the named file back.' },
  'hostile-archive': { status: 422, next: 'Do not trust this archive; ask its sender for a clean bag.' },
  'locked-archive': {
    status: 422,
    next: 'Unpack it with its password in the program that packed it, and bring the folder in instead.',
  },
  'clashing-names': {
    status: 422,
    next: 'Unpack it where both names can lie side by side, rename one of the two, and bring the folder in instead.',
  },
  'bad-bag': { status: 422, next: 'Ask for the bag again; it may have been damaged on the way.' },
  unsupported: { status: 422, next: 'This file can be looked at but not changed here.' },
  'bad-upload': { status: 400, next: 'Drop the files again.' },
  'no-key': {
    status: 401,
    next: 'Open the address that was printed when Loyal Satchel was started; it ends in a key.',
  },
  'not-signed-in': { status: 401, next: 'Sign in, and try again.' },
  'too-many': { status: 429, next: 'Wait a minute, and try again.' },
  'not-your-role': { status: 403, next: 'Ask somebody who manages this server.' },
  'lost-work': { status: 500, next: 'Look at what is said, then start it again.' },
  'no-database': {
    status: 503,
    next: 'Your files are not affected. Try again once the database answers.',
  },
  'disk-full': { status: 507, next: 'Free some room on that drive and try again.' },
  'no-access': {
    status: 403,
    next: 'Check the rights of the file and whether another program holds it open.',
  },
  'disk-error': {
    status: 500,
    next: 'Look at the drive or its connection; what could not be done is named.',
  },
  archived: { status: 409, next: 'Restore it from the archive first.' },
  unfinished: {
    status: 409,
    next: 'Look at what is unfinished there, and put it back or leave it, before anything else is changed.',
  },
  'newer-format': { status: 409, next: 'Open it with a newer version of Loyal Satchel.' },
} as const;

export type ErrorCode = keyof typeof errorTable;

const brand = Symbol.for('loyal-satchel.AppError');

/** What stops an operation. `message` says what happened and to which file; `unchanged` says what was left as it was. */
export class AppError extends Error {
  // A build may hold this module several times; an error thrown by one copy is still one for another.
  readonly [brand] = true;

  static override [Symbol.hasInstance](value: unknown): boolean {
    return typeof value === 'object' && value !== null && brand in value;
  }

  constructor(
    readonly code: ErrorCode,
    message: string,
    readonly unchanged = 'Nothing was changed.',
    readonly details: readonly string[] = [],
  ) {
    super(message);
    this.name = 'AppError';
  }

  /** HTTP status for this error. */
  get status(): number {
    return errorTable[this.code].status;
  }

  /** What the user can do next, one sentence. */
  get next(): string {
    return errorTable[this.code].next;
  }
}

/** The same error with what is true of the files by now: `unchanged`. One that says it lost its lock keeps its own words. */
export function withUnchanged(cause: unknown, unchanged: string, details?: readonly string[]): unknown {
  if (!(cause instanceof AppError) || isLockLost(cause)) return cause;
  return new AppError(cause.code, cause.message, unchanged, details ?? cause.details);
}

/** Whether another program took over the lock that the work was done under: it then writes nothing more, not even to put back what it did. */
export const isLockLost = (cause: unknown): boolean =>
  cause instanceof AppError && cause.code === 'lock-lost';
