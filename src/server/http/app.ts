// The application below /api: every request passes the door, finds its route in the tables of endpoints, and gets one shape of answer.

import { Hono } from 'hono';
import { AppError } from '@/core/errors';
import { isEnough, isPersonal, needs, type Role } from '@/wire/routes/roles';
import { hub } from '../hub';
import { keyIn, whoByKey } from '../studio/keys';
import { isProgram, type Who } from '../who';
import { door, throughAccounts, type Door } from './door';
import { takeMany, takeUpload } from './drops';
import { endpoints } from './endpoints';
import { eventStream } from './events';
import { dataPolicy, ownHeaders } from './guard';
import { answerError, answerFrom } from './handle';
import { openApiOf } from './openapi';
import { join } from './people';

interface Known {
  Variables: { who: Who | null };
}

const notByKey = new AppError(
  'not-your-role',
  'A key does not do this, whatever its role: somebody has to, who is signed in.',
);

/** Who asks; a program by its key. */
async function whoAsks(at: Door, request: Request): Promise<Who | null | 'nobody'> {
  const key = at.isForSeveral ? keyIn(request.headers) : null;
  if (key === null) return at.who(request);
  return (await whoByKey((await hub()).db, key)) ?? 'nobody';
}

/** The answer to a path that no route has. */
export function nothingAt(pathname: string): Response {
  const answer = answerError(new AppError('not-found', `There is nothing at ${pathname}.`));
  answer.headers.set('content-security-policy', dataPolicy);
  return answer;
}

/** The routes. `isChecked`: every answer is held against its schema before it goes out. */
export function application(by: () => Door = door, isChecked = false): Hono<Known> {
  const app = new Hono<Known>();
  app.use(async (c, next) => {
    const at = by();
    const refused = at.refuse(c.req.raw);
    if (refused) c.res = new Response(refused.why, { status: refused.status });
    else {
      // Signing in and out, and coming in by a link, is for those who are nobody yet.
      const open = at.isForSeveral ? ((await join(c.req.raw)) ?? (await throughAccounts(c.req.raw))) : null;
      const who = open ? 'nobody' : await whoAsks(at, c.req.raw);
      if (open) c.res = open;
      else if (who !== 'nobody') {
        c.set('who', who);
        await next();
      } else
        c.res = answerError(
          at.isForSeveral
            ? new AppError('not-signed-in', 'Nobody is signed in here.')
            : new AppError('no-key', 'This page does not have the key to Loyal Satchel.'),
        );
    }
    for (const [name, value] of ownHeaders) c.res.headers.set(name, value);
    if (!c.res.headers.has('content-security-policy'))
      c.res.headers.set('content-security-policy', dataPolicy);
    if (!c.res.headers.has('cache-control')) c.res.headers.set('cache-control', 'no-store');
  });
  /** What a role is not enough for; null: go on. */
  const without = (who: Who | null, needed: Role): Response | null =>
    who === null || isEnough(who.role, needed)
      ? null
      : answerError(
          new AppError(
            'not-your-role',
            `You may ${who.role === 'look' ? 'look at everything here, and change nothing' : 'look and change here; this is for those who manage'}.`,
          ),
        );
  app.post('/api/upload', (c) => without(c.get('who'), 'change') ?? takeUpload(c.req.raw, c.get('who')));
  app.post('/api/upload-many', (c) => without(c.get('who'), 'change') ?? takeMany(c.req.raw, c.get('who')));
  app.get('/api/events', (c) =>
    eventStream(c.req.raw, c.get('who'), async () => (await whoAsks(by(), c.req.raw)) !== 'nobody'),
  );
  let description: object | null = null;
  app.get('/api/openapi.json', (c) => c.json((description ??= openApiOf(endpoints))));
  for (const e of endpoints) {
    const needed = needs(e.route);
    const isForPeople = isPersonal(e.route);
    app.on(e.route.method, e.route.path, (c) => {
      const who = c.get('who');
      if (who && isForPeople && isProgram(who)) return answerError(notByKey);
      return without(who, needed) ?? answerFrom(e, c.req.raw, c.req.param(), isChecked, who);
    });
  }
  app.notFound((c) => nothingAt(c.req.path));
  app.onError((cause) => answerError(cause));
  return app;
}
