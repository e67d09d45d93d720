// The application below /api: every request passes the guard, finds its route in the tables of endpoints, and gets one shape of answer.

import { Hono } from 'hono';
import { AppError } from '@/core/errors';
import { takeUpload } from './drops';
import { endpoints } from './endpoints';
import { eventStream } from './events';
import { dataPolicy, hasKey, keyOfThisStart, ownHeaders, refuse } from './guard';
import { answerError, answerFrom } from './handle';

/** The routes; `key` is what a request must bring. */
export function application(key: () => string | null = keyOfThisStart): Hono {
  const app = new Hono();
  app.use(async (c, next) => {
    const refused = refuse(c.req.raw);
    if (refused) c.res = new Response(refused.why, { status: refused.status });
    else if (!hasKey(c.req.raw, key()))
      c.res = answerError(new AppError('no-key', 'This page does not have the key to Loyal Satchel.'));
    else await next();
    for (const [name, value] of ownHeaders) c.res.headers.set(name, value);
    if (!c.res.headers.has('content-security-policy'))
      c.res.headers.set('content-security-policy', dataPolicy);
    if (!c.res.headers.has('cache-control')) c.res.headers.set('cache-control', 'no-store');
  });
  app.post('/api/upload', (c) => takeUpload(c.req.raw));
  app.get('/api/events', (c) => eventStream(c.req.raw));
  for (const e of endpoints) app.on(e.method, e.path, (c) => answerFrom(e, c.req.raw, c.req.param()));
  app.notFound((c) => answerError(new AppError('not-found', `There is nothing at ${c.req.path}.`)));
  app.onError((cause) => answerError(cause));
  return app;
}
