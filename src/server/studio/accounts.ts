// Accounts of a server for several, by better-auth: passwords (scrypt), sessions in cookies, a limit to guessing. Of its many routes only three are let
// through; people are made by invitation alone (people.ts).

import { betterAuth } from 'better-auth';
import type { Pool } from 'pg';
import { AppError } from '@/core/errors';
import { roleSchema } from '@/wire/routes/roles';
import { connectionsTo } from '../database/connections';
import type { Who } from '../who';
import { leastPassword } from '@/wire/routes/people';
import { studio, type Studio } from './mode';

/** What the package is told. */
export function accountOptions({ secret, origins }: Pick<Studio, 'secret' | 'origins'>, database: Pool) {
  const isEncrypted = origins[0].startsWith('https:');
  return {
    database,
    secret,
    baseURL: origins[0],
    basePath: '/api/account',
    trustedOrigins: [...origins],
    telemetry: { enabled: false },
    logger: { disabled: true },
    emailAndPassword: {
      enabled: true,
      disableSignUp: true,
      minPasswordLength: leastPassword,
      maxPasswordLength: 200,
    },
    user: {
      modelName: 'person',
      additionalFields: {
        role: { type: 'string', input: false, required: true },
        gone: { type: 'boolean', input: false, required: true, defaultValue: false },
      },
    },
    // Signed in for a working week, and on from each day of use (OWASP, "Session Management Cheat Sheet", from memory: both limits are the application's choice).
    session: { modelName: 'person_session', expiresIn: 7 * 86_400, updateAge: 86_400 },
    account: { modelName: 'person_account' },
    verification: { modelName: 'person_verification' },
    rateLimit: {
      enabled: true,
      storage: 'database',
      modelName: 'person_rate',
      window: 60,
      max: 100,
      customRules: { '/sign-in/email': { window: 60, max: 10 } },
    },
    advanced: {
      cookiePrefix: 'satchel',
      useSecureCookies: isEncrypted,
      defaultCookieAttributes: { sameSite: 'strict', httpOnly: true, path: '/' },
      ipAddress: { ipAddressHeaders: ['x-forwarded-for'] },
    },
  } as const satisfies Parameters<typeof betterAuth>[0];
}

function open(settings: Studio) {
  const pool = connectionsTo(settings.databaseUrl, 4);
  const options = accountOptions(settings, pool);
  return {
    auth: betterAuth({
      ...options,
      trustedOrigins: [...options.trustedOrigins],
      rateLimit: { ...options.rateLimit },
    }),
    pool,
  };
}
export type Accounts = ReturnType<typeof open>;

const held = globalThis as { satchelAccounts?: Accounts };

/** The accounts of this server. Only where it is for several. */
export function accounts(): Accounts {
  const settings = studio();
  if (!settings) throw new Error('a server for one person has no accounts');
  return (held.satchelAccounts ??= open(settings));
}

/** Who is signed in by a request's cookie; null: nobody, or somebody who is gone. Throws AppError('no-database') where it cannot be told. */
export async function personOf(headers: Headers): Promise<Who | null> {
  if (!headers.has('cookie')) return null;
  const session = await accounts()
    .auth.api.getSession({ headers })
    .catch(() => {
      throw new AppError(
        'no-database',
        'The accounts of Loyal Satchel do not answer.',
        'No file was changed.',
      );
    });
  const user = session?.user as { id: string; name: string; role: string; gone?: boolean } | undefined;
  const role = roleSchema.safeParse(user?.role);
  return user && user.gone !== true && role.success
    ? { id: user.id, name: user.name, role: role.data }
    : null;
}
