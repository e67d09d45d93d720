// The interface as a document: OpenAPI 3.1, made from the very routes the server answers by. Served at /api/openapi.json; docs/openapi.json is the same.

import { OpenAPIRegistry, OpenApiGeneratorV31, type RouteConfig } from '@asteasolutions/zod-to-openapi';
import { z } from 'zod';
import { pieceQuery, piecesQuery, piecesView } from '@/wire/drops';
import { errorShape, eventMessage } from '@/wire/jobs';
import { joinRoute, lookAtLinkRoute, signIn, signOut } from '@/wire/routes/people';
import { isPersonal, needs } from '@/wire/routes/roles';
import type { Route } from '@/wire/routes/route';
import { keyHeader } from './guard';
import type { Endpoint } from './handle';

const errors = z.object({ error: errorShape });

/** The name of a subject from a path: '/api/workspaces/:id/plans' → 'plans'. */
const subjectOf = (path: string) =>
  path
    .split('/')
    .filter((part) => part !== '' && part !== 'api' && !part.startsWith(':'))
    .slice(0, 2)
    .at(-1)!;

/** For those who are nobody yet, on a server for several. */
const open: readonly Route[] = [lookAtLinkRoute, joinRoute, signIn, signOut];

/** Ways of being let in. */
const schemes = {
  keyOfThisStart: { type: 'apiKey', in: 'header', name: keyHeader },
  keyOfAProgram: { type: 'http', scheme: 'bearer' },
  signedIn: { type: 'apiKey', in: 'cookie', name: 'satchel.session_token' },
} as const;

const bytesIn = { 'application/octet-stream': { schema: z.string().meta({ format: 'binary' }) } };
const wrong = {
  description: 'What went wrong, what was left unchanged, and what to do next.',
  content: { 'application/json': { schema: errors } },
};
/** What passes as a stream, either way. */
const streams: readonly RouteConfig[] = [
  {
    method: 'get',
    path: '/api/events',
    summary:
      'Every change of every job, as it comes: server-sent events, each a JSON message; the first has all jobs there are.',
    tags: ['events'],
    'x-least-role': 'look',
    responses: {
      200: { description: 'The stream.', content: { 'text/event-stream': { schema: eventMessage } } },
      default: wrong,
    },
  },
  {
    method: 'post',
    path: '/api/upload',
    summary: 'A piece of a file that is dropped, of any size.',
    tags: ['drops'],
    'x-least-role': 'change',
    request: { query: pieceQuery, body: { content: bytesIn } },
    responses: {
      200: {
        description: 'How much of it is here.',
        content: { 'application/json': { schema: piecesView.element } },
      },
      default: wrong,
    },
  },
  {
    method: 'post',
    path: '/api/upload-many',
    summary:
      'Pieces of many small files: a JSON table of them, of so many bytes as the query says, and their bytes.',
    tags: ['drops'],
    'x-least-role': 'change',
    request: { query: piecesQuery, body: { content: bytesIn } },
    responses: {
      200: {
        description: 'How much of each is here.',
        content: { 'application/json': { schema: piecesView } },
      },
      default: wrong,
    },
  },
];

/** The document of these endpoints. */
export function openApiOf(endpoints: readonly Endpoint[]): object {
  const registry = new OpenAPIRegistry();
  const describe = (route: Route, more: object) => {
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
      ...more,
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
        default: wrong,
      },
    });
  };
  for (const { route } of endpoints)
    describe(route, {
      'x-least-role': needs(route),
      ...(isPersonal(route) ? { 'x-not-by-key': true } : {}),
    });
  for (const route of open) describe(route, { security: [] });
  for (const stream of streams) registry.registerPath(stream);
  for (const [name, scheme] of Object.entries(schemes))
    registry.registerComponent('securitySchemes', name, scheme);
  return new OpenApiGeneratorV31(registry.definitions).generateDocument({
    openapi: '3.1.0',
    security: Object.keys(schemes).map((name) => ({ [name]: [] })),
    info: {
      title: 'Loyal Satchel',
      version: '0.1.0',
      description:
        'Answers only on this machine, to requests that bring the key of this start: in the header x-satchel-key, or in the cookie that the address with ?key=… sets. Requests that change something also need the header x-satchel. On a server for several (docs/studio.md) somebody is signed in instead, or a program brings its key as “Authorization: Bearer …”, and x-least-role is the least role that may ask; x-not-by-key: a person has to.',
    },
    servers: [{ url: 'http://127.0.0.1:4680' }],
  });
}
