// The application below /api: every request passes the guard, finds its route in the tables of endpoints, and gets one shape of answer.

import { Hono } from 'hono';
import { AppError } from '@/core/errors';
import { takeMany, takeUpload } from './drops';
import { endpoints } from './endpoints';
import { eventStream } from './events';
import { dataPolicy, hasKey, keyOfThisStart, ownHeaders, refuse } from './guard';
import { answerError, answerFrom } from './handle';
import { openApiOf } from './openapi';

/** The routes; `key` is what a request must bring. `isChecked`: every answer is held against its schema before it goes out. */
export function application(key: () => string | null = keyOfThisStart, isChecked = false): Hono {
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
  app.post('/api/upload-many', (c) => takeMany(c.req.raw));
  app.get('/api/events', (c) => eventStream(c.req.raw));
  let description: object | null = null;
  app.get('/api/openapi.json', (c) => c.json((description ??= openApiOf(endpoints))));
  for (const e of endpoints)
    app.on(e.route.method, e.route.path, (c) => answerFrom(e, c.req.raw, c.req.param(), isChecked));
  app.notFound((c) => answerError(new AppError('not-found', `There is nothing at ${c.req.path}.`)));
  app.onError((cause) => answerError(cause));
  return app;
}
