// Whether this server is for several, and what it needs for that: read once from the environment, at the start. What is missing ends the start with a
// sentence; a half-open door is none.

import { AppError } from '@/core/errors';

export interface Studio {
  /** Of the PostgreSQL server. */
  databaseUrl: string;
  /** What sessions are signed with. */
  secret: string;
  /** Where people reach it, e.g. 'https://satchel.studio.example': the first is the one that links name. */
  origins: readonly [string, ...string[]];
}

// OWASP, "Session Management Cheat Sheet" (from memory): 128 bits at least; of letters as people make them up, twice as many characters.
const leastSecret = 32;

const localNames = new Set(['localhost', '127.0.0.1', '[::1]']);

/** The settings of a server for several; null: this one is for one person. Throws AppError('bad-request') where they are not whole. */
export function studioFrom(env: Readonly<Record<string, string | undefined>>): Studio | null {
  const mode = env.SATCHEL_MODE ?? '';
  if (mode === '' || mode === 'single') return null;
  const refuse = (why: string) =>
    new AppError('bad-request', `This server cannot be opened for several: ${why}`);
  if (mode !== 'studio') throw refuse(`SATCHEL_MODE is “${mode}”; it takes “studio”, or nothing.`);
  const databaseUrl = env.SATCHEL_DATABASE_URL ?? '';
  if (!/^postgres(ql)?:\/\//.test(databaseUrl))
    throw refuse('SATCHEL_DATABASE_URL has to name a PostgreSQL server (postgres://…).');
  const secret = env.SATCHEL_SECRET ?? '';
  if (secret.length < leastSecret || new Set(secret).size < 8)
    throw refuse(
      `SATCHEL_SECRET has to be at least ${leastSecret} characters that nobody guesses, such as what \`openssl rand -base64 33\` prints. Without it anybody could make a session.`,
    );
  const origins = (env.SATCHEL_ORIGIN ?? '').split(/[\s,]+/).filter((o) => o !== '');
  for (const origin of origins) checkOrigin(origin, refuse);
  const [first, ...others] = origins;
  if (first === undefined)
    throw refuse('SATCHEL_ORIGIN has to say where people reach it, such as https://satchel.studio.example.');
  return { databaseUrl, secret, origins: [first, ...others] };
}

/** Throws where an address is none that sessions may travel over: by TLS, or within this machine. */
function checkOrigin(origin: string, refuse: (why: string) => AppError): void {
  const url = URL.canParse(origin) ? new URL(origin) : null;
  if (!url || url.origin !== origin)
    throw refuse(
      `SATCHEL_ORIGIN: “${origin}” is no origin; it is scheme and host alone, such as https://satchel.studio.example.`,
    );
  if (url.protocol !== 'https:' && !(url.protocol === 'http:' && localNames.has(url.hostname)))
    throw refuse(
      `SATCHEL_ORIGIN: “${origin}” is not encrypted. Put a proxy with TLS before it (docs/studio.md).`,
    );
}

const held = globalThis as { satchelStudio?: { is: Studio | null } };

/** The settings of this server, by its environment; null: it is for one person. */
export const studio = (): Studio | null => (held.satchelStudio ??= { is: studioFrom(process.env) }).is;
