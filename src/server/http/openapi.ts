// The interface as a document: OpenAPI 3.1, made from the very routes the server answers by. Served at /api/openapi.json; docs/openapi.json is the same.

import { OpenAPIRegistry, OpenApiGeneratorV31 } from '@asteasolutions/zod-to-openapi';
import { z } from 'zod';
import { errorShape } from '@/wire/jobs';
import { needs } from '@/wire/routes/roles';
import type { Endpoint } from './handle';

const errors = z.object({ error: errorShape });

/** The name of a subject from a path: '/api/workspaces/:id/plans' → 'plans'. */
const subjectOf = (path: string) =>
  path
    .split('/')
    .filter((part) => part !== '' && part !== 'api' && !part.startsWith(':'))
    .slice(0, 2)
    .at(-1)!;

/** The document of these endpoints. */
export function openApiOf(endpoints: readonly Endpoint[]): object {
  const registry = new OpenAPIRegistry();
  for (const { route } of endpoints) {
    const names = [...route.path.matchAll(/:(\w+)/g)].map((m) => m[1]!);
    const body = { content: { 'application/json': { schema: route.input } } };
    const params =
      names.length > 0 ? { params: z.object(Object.fromEntries(names.map((n) => [n, z.string()]))) } : {};
    const input = route.method === 'GET' ? { query: route.input as z.ZodObject } : { body };
    registry.registerPath({
      method: route.method.toLowerCase() as 'get' | 'post' | 'delete',
      path: route.path.replace(/:(\w+)/g, '{$1}'),
      summary: route.about,
      tags: [subjectOf(route.path)],
      'x-least-role': needs(route),
      ...(route.result
        ? {
            description:
              'Starts a job and answers with it; its events tell when it has ended, and its result.',
          }
        : {}),
      request: { ...params, ...input },
      responses: {
        200: {
          description: 'The answer.',
          content:
            route.bytes === null
              ? { 'application/json': { schema: route.answer } }
              : { [route.bytes]: { schema: z.string().meta({ format: 'binary' }) } },
        },
        default: {
          description: 'What went wrong, what was left unchanged, and what to do next.',
          content: { 'application/json': { schema: errors } },
        },
      },
    });
  }
  return new OpenApiGeneratorV31(registry.definitions).generateDocument({
    openapi: '3.1.0',
    info: {
      title: 'Loyal Satchel',
      version: '0.1.0',
      description:
        'Answers only on this machine, to requests that bring the key of this start: in the header x-satchel-key, or in the cookie that the address with ?key=… sets. Requests that change something also need the header x-satchel. On a server for several (docs/studio.md) somebody is signed in instead, and x-least-role is the least role that may ask.',
    },
    servers: [{ url: 'http://127.0.0.1:4680' }],
  });
}
