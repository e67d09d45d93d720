// The published description of the interface says what the server does: it is made from the routes, and docs/openapi.json is the one of today.

import { expect, test } from '@jest/globals';
import fs from 'node:fs';
import { endpoints } from './endpoints';
import { openApiOf } from './openapi';

const document = JSON.parse(JSON.stringify(openApiOf(endpoints))) as {
  openapi: string;
  paths: Record<string, Record<string, { summary: string; responses: Record<string, unknown> }>>;
};

test('every route stands in it, once, with a sentence and an answer', () => {
  expect(document.openapi).toBe('3.1.0');
  const listed = Object.entries(document.paths).flatMap(([path, methods]) =>
    Object.keys(methods).map((m) => `${m.toUpperCase()} ${path.replace(/\{(\w+)\}/g, ':$1')}`),
  );
  const others = [
    'GET /api/events',
    'POST /api/upload',
    'POST /api/upload-many',
    'POST /api/join',
    'POST /api/join/look',
  ];
  const account = ['POST /api/account/sign-in/email', 'POST /api/account/sign-out'];
  expect(listed.sort()).toEqual(
    [...endpoints.map((e) => `${e.route.method} ${e.route.path}`), ...others, ...account].sort(),
  );
  for (const methods of Object.values(document.paths))
    for (const m of Object.values(methods))
      expect([m.summary.endsWith('.'), '200' in m.responses]).toEqual([true, true]);
});

test('no two routes answer to one address', () => {
  const shapes = endpoints.map((e) => `${e.route.method} ${e.route.path.replace(/:\w+/g, ':')}`);
  expect(new Set(shapes).size).toBe(shapes.length);
});

test('docs/openapi.json is of today (npm run docs writes it)', () => {
  expect(JSON.parse(fs.readFileSync('docs/openapi.json', 'utf8'))).toEqual(document);
});
